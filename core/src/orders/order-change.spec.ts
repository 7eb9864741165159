import { give, renew, take } from '../testing/changes';
import { capabilityOf, changedBy, orderedSafely, stageOfChange, wayBackOf } from './order-change';
import type { OrderChange } from './order-change';

const placed = {
  firewallId: 'gate',
  what: 'a link',
  hook: 'forward',
  in: '',
  out: '',
  table: 't',
  chain: 'c',
  before: 2,
  commands: ['do it'],
  undo: ['undo it'],
} as const;
const end = { tunnelId: 't', tunnel: 'T', machineId: 'board', outpostId: 't-dials', side: 'dials' } as const;
const led = {
  tunnelId: 't',
  tunnel: 'T',
  machineId: 'board',
  linkId: 'board--furnace',
  client: 'Board',
  host: 'furnace',
  port: 4840,
  entranceAddress: '10.4.0.5',
  entrancePort: 4841,
} as const;
const user = {
  serverId: 'furnace',
  thumbprint: 'AB',
  subject: 'CN=user',
  notAfter: '2027-01-01T00:00:00.000Z',
} as const;
const door = { policy: 'None', mode: 'None', token: 'Anonymous' } as const;
const rule = { about: 'identity', criterion: 'UserName', criteria: 'display' } as const;
const ofRole = { serverId: 'furnace', roleId: 'i=15680', role: 'Operator', rule } as const;
const settings = { flags: [], description: '' } as const;

/** One of each kind, with what it is made on and when in an order. */
const samples: Readonly<
  Record<OrderChange['kind'], { readonly change: OrderChange; readonly at: string; readonly stage: 0 | 1 | 2 }>
> = {
  'list-certificate': { change: give('furnace'), at: 'furnace', stage: 0 },
  'unlist-certificate': { change: take('furnace'), at: 'furnace', stage: 2 },
  'list-crl': {
    change: { kind: 'list-crl', holderId: 'furnace', list: 'issuers', crlId: 'CC', before: 'BB' },
    at: 'furnace',
    stage: 0,
  },
  'unlist-crl': {
    change: { kind: 'unlist-crl', holderId: 'furnace', list: 'issuers', crlId: 'CC', instead: 'BB' },
    at: 'furnace',
    stage: 2,
  },
  'renew-certificate': { change: renew('furnace'), at: 'furnace', stage: 1 },
  'install-certificate': {
    change: { kind: 'install-certificate', applicationId: 'furnace', thumbprint: 'AA', before: 'BB' },
    at: 'furnace',
    stage: 1,
  },
  'open-doors': { change: { kind: 'open-doors', serverId: 'furnace', doors: [door] }, at: 'furnace', stage: 0 },
  'close-doors': { change: { kind: 'close-doors', serverId: 'furnace', doors: [door] }, at: 'furnace', stage: 2 },
  'add-role-rule': { change: { kind: 'add-role-rule', ...ofRole }, at: 'furnace', stage: 0 },
  'remove-role-rule': { change: { kind: 'remove-role-rule', ...ofRole }, at: 'furnace', stage: 2 },
  'change-user': {
    change: {
      kind: 'change-user',
      serverId: 'furnace',
      userName: 'display',
      before: settings,
      after: { ...settings, description: 'other' },
      secretId: null,
    },
    at: 'furnace',
    stage: 1,
  },
  'change-password': {
    change: { kind: 'change-password', serverId: 'furnace', userName: 'display', secretId: 's' },
    at: 'furnace',
    stage: 1,
  },
  'trust-user': { change: { kind: 'trust-user', ...user }, at: 'furnace', stage: 0 },
  'distrust-user': { change: { kind: 'distrust-user', ...user }, at: 'furnace', stage: 2 },
  'set-permission': {
    change: { kind: 'set-permission', machineId: 'data', what: '', path: 'K', name: 'N', before: null, after: 'AA==' },
    at: 'data',
    stage: 1,
  },
  'add-rules': { change: { kind: 'add-rules', ...placed, rules: ['a'] }, at: 'gate', stage: 0 },
  'remove-rules': { change: { kind: 'remove-rules', ...placed, rules: ['a'] }, at: 'gate', stage: 2 },
  'replace-rules': { change: { kind: 'replace-rules', ...placed, rules: ['a'], by: ['b'] }, at: 'gate', stage: 1 },
  'set-up-tunnel-end': {
    change: { kind: 'set-up-tunnel-end', ...end, address: '10.1.0.5', port: 4850 },
    at: 't-dials',
    stage: 0,
  },
  'take-down-tunnel-end': {
    change: { kind: 'take-down-tunnel-end', ...end, address: '10.1.0.5', port: 4850 },
    at: 't-dials',
    stage: 2,
  },
  'lead-through-tunnel': { change: { kind: 'lead-through-tunnel', ...led }, at: 'board--furnace', stage: 1 },
  'lead-straight': { change: { kind: 'lead-straight', ...led }, at: 'board--furnace', stage: 1 },
  'set-mapping': {
    change: { kind: 'set-mapping', serverId: 'furnace', path: 'Crown', before: 'unit 1', after: 'unit 2' },
    at: 'furnace',
    stage: 1,
  },
};
const all = Object.entries(samples);

describe('a change of a work order', () => {
  it.each(all)('%s is made on its target, in its turn', (kind, { change, at, stage }) => {
    expect([change.kind, changedBy(change), stageOfChange(change)]).toEqual([kind, at, stage]);
  });

  it.each(all)('%s is the same again when its way back is gone twice, or has no way back', (_, { change }) => {
    const back = wayBackOf(change);
    if (back === null) return expect(['renew-certificate', 'change-password']).toContain(change.kind);
    expect(back).not.toEqual(change);
    expect([capabilityOf(back), changedBy(back)]).toEqual([capabilityOf(change), changedBy(change)]);
    if (change.kind !== 'renew-certificate') expect(wayBackOf(back)).toMatchObject({ kind: change.kind });
  });

  it('that takes rules away goes last, one that brings them back first, and one that narrows between', () => {
    const rules = (from: readonly string[], to: readonly string[]): OrderChange => ({
      kind: 'replace-rules',
      ...placed,
      rules: from,
      by: to,
    });
    expect([rules(['a'], []), rules(['a'], ['b']), rules([], ['a'])].map(stageOfChange)).toEqual([2, 1, 0]);
  });

  it('stands in an order so that nothing is cut off in between, and as it was where that is all the same', () => {
    const taken = { change: samples['take-down-tunnel-end'].change };
    const led1 = { change: samples['lead-straight'].change };
    const added = { change: samples['add-rules'].change };
    const opened = { change: samples['open-doors'].change };
    expect(orderedSafely([taken, led1, added, opened])).toEqual([added, opened, led1, taken]);
  });
});
