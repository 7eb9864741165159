import { AttributeIds, BrowseDirection, LocalizedText, NodeClass } from 'node-opcua-client';
import type { ClientSession, DataValue } from 'node-opcua-client';
import { browseAll } from 'node-opcua-pseudo-session';
import { accessLevelBits, accessRestrictionBits, bitNames, permissionBits } from '@loyal-hinge/core';
import type { Limited } from './monitored-item.js';
import { readTogether } from './read-together.js';
import { longestText, readValue } from './read-value.js';

/** An attribute as people see it; one that the node does not have is left out. */
export interface DescribedAttribute {
  readonly name: string;
  readonly value: string;
}

export interface DescribedReference {
  readonly type: string;
  readonly isForward: boolean;
  readonly nodeId: string;
  readonly name: string;
  readonly nodeClass: string;
}

export interface DescribedNode {
  readonly attributes: readonly DescribedAttribute[];
  /** The first ones; `referenceCount` says how many there are. */
  readonly references: readonly DescribedReference[];
  readonly referenceCount: number;
}

const mostReferences = 200;

/** In the order of the standard (Part 3 §5); the value stands elsewhere. */
const wished = [
  'NodeClass',
  'BrowseName',
  'DisplayName',
  'Description',
  'DataType',
  'ValueRank',
  'ArrayDimensions',
  'AccessLevel',
  'UserAccessLevel',
  'MinimumSamplingInterval',
  'Historizing',
  'EventNotifier',
  'Executable',
  'UserExecutable',
  'WriteMask',
  'UserWriteMask',
  'RolePermissions',
  'UserRolePermissions',
  'AccessRestrictions',
] as const;
type Wished = (typeof wished)[number];

/** Reads all attributes of a node but its value, and its references in both directions. */
export async function describeNode(session: ClientSession, nodeId: string, limited: Limited): Promise<DescribedNode> {
  const [values, browsed] = await Promise.all([
    readTogether(
      session,
      wished.map((name) => ({ nodeId, attributeId: AttributeIds[name] })),
      limited,
    ),
    limited(
      browseAll(session, {
        nodeId,
        browseDirection: BrowseDirection.Both,
        includeSubtypes: true,
        nodeClassMask: 0,
        resultMask: 63,
      }),
    ),
  ]);
  const references = browsed.references ?? [];
  const shown = references.slice(0, mostReferences);
  const types = [...new Set(shown.map(({ referenceTypeId }) => referenceTypeId.toString()))];
  const dataType = values[wished.indexOf('DataType')];
  const roles = (['RolePermissions', 'UserRolePermissions'] as const).flatMap((name) =>
    roleIdsIn(values[wished.indexOf(name)]),
  );
  const names = await namesOf(session, [...new Set([...types, ...nodeIdIn(dataType), ...roles])], limited);
  return {
    attributes: wished.flatMap((name, index) => attributeOf(name, values[index], names)),
    references: shown.map((reference) => ({
      type: names.get(reference.referenceTypeId.toString()) ?? reference.referenceTypeId.toString(),
      isForward: reference.isForward,
      nodeId: reference.nodeId.toString(),
      name: reference.displayName.text ?? reference.browseName.name ?? '',
      nodeClass: NodeClass[reference.nodeClass] ?? 'other',
    })),
    referenceCount: references.length,
  };
}

const nodeIdIn = (value: DataValue | undefined): readonly string[] =>
  value?.statusCode.isGood() && value.value.value ? [String(value.value.value)] : [];

const roleIdsIn = (value: DataValue | undefined): readonly string[] => {
  const entries: unknown = value?.statusCode.isGood() ? value.value.value : null;
  return (Array.isArray(entries) ? entries : []).map((entry: { readonly roleId?: unknown }) => String(entry.roleId));
};

/** The names of types and roles, which nobody knows by their numbers. */
async function namesOf(
  session: ClientSession,
  nodeIds: readonly string[],
  limited: Limited,
): Promise<ReadonlyMap<string, string>> {
  if (nodeIds.length === 0) return new Map();
  const read = await readTogether(
    session,
    nodeIds.map((nodeId) => ({ nodeId, attributeId: AttributeIds.BrowseName })),
    limited,
  );
  return new Map(
    read.flatMap(({ statusCode, value }, index) => {
      const name = (value.value as { readonly name?: string | null } | null)?.name;
      return statusCode.isGood() && name ? [[nodeIds[index] ?? '', name] as const] : [];
    }),
  );
}

function attributeOf(
  name: Wished,
  read: DataValue | undefined,
  names: ReadonlyMap<string, string>,
): readonly DescribedAttribute[] {
  const value: unknown = read?.value.value;
  if (!read?.statusCode.isGood() || value === null || value === undefined) return [];
  const text = words(name, value, read, names).slice(0, longestText);
  return text === '' ? [] : [{ name, value: text }];
}

function words(name: Wished, value: unknown, read: DataValue, names: ReadonlyMap<string, string>): string {
  const bits = typeof value === 'number' ? value : 0;
  switch (name) {
    case 'NodeClass':
      return NodeClass[bits] ?? String(value);
    case 'DataType':
      return names.get(String(value)) ?? String(value);
    case 'ValueRank':
      return ranks[bits] ?? `${bits} dimensions`;
    case 'AccessLevel':
    case 'UserAccessLevel':
      return bitNames(bits, accessLevelBits).join(', ') || 'nothing';
    case 'AccessRestrictions':
      return bitNames(bits, accessRestrictionBits).join(', ') || 'none';
    case 'EventNotifier':
      return (bits & 1) !== 0 ? 'sends events' : 'sends no events';
    case 'MinimumSamplingInterval':
      return bits < 0 ? 'not known' : `${bits} ms`;
    case 'RolePermissions':
    case 'UserRolePermissions':
      return permissionWords(value, names);
    default: {
      return value instanceof LocalizedText ? (value.text ?? '') : (readValue(read).value ?? '');
    }
  }
}

const ranks: Readonly<Record<number, string>> = {
  [-3]: 'scalar or list',
  [-2]: 'any',
  [-1]: 'scalar',
  0: 'list of any dimensions',
  1: 'list',
};

const permissionWords = (value: unknown, names: ReadonlyMap<string, string>): string =>
  (Array.isArray(value) ? value : [])
    .map((entry: { readonly roleId?: unknown; readonly permissions?: unknown }) => {
      const granted = bitNames(Number(entry.permissions ?? 0), permissionBits).join(', ');
      const role = String(entry.roleId);
      return `${names.get(role) ?? role}: ${granted || 'nothing'}`;
    })
    .join('; ') || 'none';
