import { redundancySupports } from '@loyal-hinge/core';
import type { UAVariable } from 'node-opcua-address-space';
import type { OPCUAServer } from 'node-opcua-server';
import { DataType, VariantArrayType } from 'node-opcua-variant';
import { applicationUriOf } from './marrowby/index.js';
import type { StandInServer } from './marrowby/index.js';

/** Well-known nodes of ServerRedundancy (Part 5 §6.3.7 and §6.3.9; Part 6 Annex A). */
const nodes = { support: 'i=3709', uris: 'i=11314' } as const;

/** Makes a stand-in say that another server stands in for it when it stops, and runs already (warm). */
export function tellStandby(server: OPCUAServer, { id, standby }: StandInServer): void {
  const { addressSpace } = server.engine;
  if (standby === undefined || !addressSpace) return;
  const variable = (nodeId: string): UAVariable => {
    const node = addressSpace.findNode(nodeId);
    if (!node) throw new Error(`the server has no node ${nodeId}`);
    return node as UAVariable;
  };
  const value = Object.keys(redundancySupports).indexOf('Warm');
  variable(nodes.support).setValueFromSource({ dataType: DataType.Int32, value });
  variable(nodes.uris).setValueFromSource({
    dataType: DataType.String,
    arrayType: VariantArrayType.Array,
    value: [id, standby].map(applicationUriOf),
  });
}
