import { gatewayConfiguration, readFileText } from '@loyal-hinge/contract/line';
import type { GatewayConfiguration, ReadFile } from '@loyal-hinge/contract/line';
import { Gateway } from './gateway.js';

/** Reads a gateway’s file; says at which place what is wrong with it. */
export function readConfiguration(text: string): ReadFile<GatewayConfiguration> {
  const read = readFileText(gatewayConfiguration, text);
  const [fault] = read.ok ? Gateway.faultsOf(read.value) : [];
  return fault === undefined ? read : { ok: false, says: fault };
}
