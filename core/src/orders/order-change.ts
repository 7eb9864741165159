import { stageOfAccessChange, undoOfAccessChange } from '../rights/access-change.js';
import type { AccessChange } from '../rights/access-change.js';
import { undoOfDcomChange } from '../dcom/permission-order.js';
import type { DcomChange } from '../dcom/permission-order.js';
import { undoOfMapping } from '../field/mapping-change.js';
import type { MappingChange } from '../field/mapping-change.js';
import { undoOfDoors } from '../entry/door-change.js';
import type { DoorChange } from '../entry/door-change.js';
import { undoOfPassageChange } from '../passage/rule-order.js';
import type { PassageChange } from '../passage/rule-order.js';
import { undoOfTunnelChange } from '../tunnels/tunnel-order.js';
import type { TunnelChange } from '../tunnels/tunnel-order.js';
import { stageOf, targetOf, undoOf } from '../trust/plant-trust/trust-change.js';
import type { Stage, TrustChange } from '../trust/plant-trust/trust-change.js';

/** Whatever a line of a work order may change. A capability that joins adds its changes here, and its row below. */
export type OrderChange =
  TrustChange | DoorChange | AccessChange | DcomChange | PassageChange | TunnelChange | MappingChange;

/** The capability that words a change, carries it out, proves it and undoes it. */
export type ChangeCapability = 'trust' | 'entry' | 'accounts' | 'dcom' | 'passage' | 'tunnels' | 'field';

/** What a work order has to know of a change without knowing what it means. */
interface KnownChange<Change> {
  readonly capability: ChangeCapability;
  /** What is changed: lines of the same target are carried out together. */
  target(change: Change): string;
  /** Giving comes before replacing, and replacing before taking away. */
  stage(change: Change): Stage;
  /** The change that takes it back; null where there is none. */
  undo(change: Change): Change | null;
}

const ofTrust: KnownChange<TrustChange> = { capability: 'trust', target: targetOf, stage: stageOf, undo: undoOf };

const ofEntry: KnownChange<DoorChange> = {
  capability: 'entry',
  target: ({ serverId }) => serverId,
  stage: ({ kind }) => (kind === 'open-doors' ? 0 : 2),
  undo: undoOfDoors,
};

const ofAccounts: KnownChange<AccessChange> = {
  capability: 'accounts',
  target: ({ serverId }) => serverId,
  stage: stageOfAccessChange,
  undo: undoOfAccessChange,
};

const ofDcom: KnownChange<DcomChange> = {
  capability: 'dcom',
  target: ({ machineId }) => machineId,
  stage: () => 1,
  undo: undoOfDcomChange,
};

const ofPassage: KnownChange<PassageChange> = {
  capability: 'passage',
  target: ({ firewallId }) => firewallId,
  stage(change) {
    if (change.kind !== 'replace-rules') return change.kind === 'add-rules' ? 0 : 2;
    if (change.rules.length === 0) return 0;
    return change.by.length === 0 ? 2 : 1;
  },
  undo: undoOfPassageChange,
};

const ofTunnels: KnownChange<TunnelChange> = {
  capability: 'tunnels',
  target: (change) => ('outpostId' in change ? change.outpostId : change.linkId),
  stage: ({ kind }) => (kind === 'set-up-tunnel-end' ? 0 : kind === 'take-down-tunnel-end' ? 2 : 1),
  undo: undoOfTunnelChange,
};

const ofField: KnownChange<MappingChange> = {
  capability: 'field',
  target: ({ serverId }) => serverId,
  stage: () => 1,
  undo: undoOfMapping,
};

const kinds: Readonly<Record<TrustChange['kind'], KnownChange<TrustChange>>> &
  Readonly<Record<DoorChange['kind'], KnownChange<DoorChange>>> &
  Readonly<Record<AccessChange['kind'], KnownChange<AccessChange>>> &
  Readonly<Record<DcomChange['kind'], KnownChange<DcomChange>>> &
  Readonly<Record<PassageChange['kind'], KnownChange<PassageChange>>> &
  Readonly<Record<TunnelChange['kind'], KnownChange<TunnelChange>>> &
  Readonly<Record<MappingChange['kind'], KnownChange<MappingChange>>> = {
  'list-certificate': ofTrust,
  'unlist-certificate': ofTrust,
  'list-crl': ofTrust,
  'unlist-crl': ofTrust,
  'renew-certificate': ofTrust,
  'install-certificate': ofTrust,
  'open-doors': ofEntry,
  'close-doors': ofEntry,
  'add-role-rule': ofAccounts,
  'remove-role-rule': ofAccounts,
  'change-user': ofAccounts,
  'change-password': ofAccounts,
  'trust-user': ofAccounts,
  'distrust-user': ofAccounts,
  'set-permission': ofDcom,
  'add-rules': ofPassage,
  'remove-rules': ofPassage,
  'replace-rules': ofPassage,
  'set-up-tunnel-end': ofTunnels,
  'take-down-tunnel-end': ofTunnels,
  'lead-through-tunnel': ofTunnels,
  'lead-straight': ofTunnels,
  'set-mapping': ofField,
};

const knownOf = ({ kind }: OrderChange): KnownChange<OrderChange> => kinds[kind];

export const isTrustChange = (change: OrderChange): change is TrustChange => capabilityOf(change) === 'trust';
export const isDcomChange = (change: OrderChange): change is DcomChange => capabilityOf(change) === 'dcom';

/** Whose change it is. */
export const capabilityOf = (change: OrderChange): ChangeCapability => knownOf(change).capability;
/** The id of what is changed. */
export const changedBy = (change: OrderChange): string => knownOf(change).target(change);
/** When in an order it is made. */
export const stageOfChange = (change: OrderChange): Stage => knownOf(change).stage(change);
/** The change that takes it back; null where there is none. */
export const wayBackOf = (change: OrderChange): OrderChange | null => knownOf(change).undo(change);
/** Lines in the order in which nothing is cut off in between: what gives first, what takes away last. */
export const orderedSafely = <Line extends { readonly change: OrderChange }>(lines: readonly Line[]): readonly Line[] =>
  [...lines].sort((left, right) => stageOfChange(left.change) - stageOfChange(right.change));
