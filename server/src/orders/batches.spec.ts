import type { OrderChange, TrustChange } from '@loyal-hinge/core';
import { give, renew, take } from '../../../core/src/testing/changes.js';
import { batchesOf, isDoneAtOnce } from './batches.js';
import type { LineRow } from './store.js';

const line = (position: number, change: TrustChange): LineRow => ({
  orderId: 'o',
  position,
  change,
  why: '',
  linkIds: [],
  state: 'waiting',
  says: null,
  restarted: false,
  wrote: true,
  by: null,
  at: null,
  provedAt: null,
  serverId: null,
});
const crl = (holderId: string): TrustChange => ({
  kind: 'list-crl',
  holderId,
  list: 'issuers',
  crlId: 'CC',
  before: null,
});

describe('the lines of a work order', () => {
  it('go together by target, so that a server is written to and restarted once', () => {
    const batches = batchesOf([line(1, give('furnace')), line(2, give('lehr')), line(3, crl('furnace'))]);
    expect(batches.map(({ target, lines }) => [target, lines.map(({ position }) => position)])).toEqual([
      ['furnace', [1, 3]],
      ['lehr', [2]],
    ]);
  });

  it('give trust first, then renew, then take away, whatever their order', () => {
    const batches = batchesOf([line(1, take('furnace')), line(2, renew('furnace')), line(3, give('furnace'))]);
    expect(batches.map(({ stage, lines }) => [stage, lines[0]?.position])).toEqual([
      [0, 3],
      [1, 2],
      [2, 1],
    ]);
  });
});

describe('what is done at once at a target', () => {
  const rules = (kind: 'add-rules' | 'remove-rules', firewallId = 'gate'): OrderChange => ({
    kind,
    firewallId,
    what: 'a link',
    hook: 'forward',
    in: '',
    out: '',
    table: 't',
    chain: 'c',
    before: null,
    rules: ['tcp dport 4840 accept'],
    commands: [],
    undo: [],
  });
  const user: OrderChange = {
    kind: 'change-user',
    serverId: 'furnace',
    userName: 'display',
    before: null,
    after: null,
    secretId: null,
  };
  const led = (linkId: string): OrderChange => ({
    kind: 'lead-straight',
    tunnelId: 't',
    tunnel: 'T',
    machineId: 'board',
    linkId,
    client: 'Board',
    host: 'furnace',
    port: 4840,
    entranceAddress: '10.4.0.5',
    entrancePort: 4840,
  });

  it('is all that a bundle of trust holds, whether it gives or takes', () => {
    expect(isDoneAtOnce(give('furnace'), take('furnace'))).toBe(true);
    expect(isDoneAtOnce(give('furnace'), give('lehr'))).toBe(false);
  });

  it('are the rules of one step at one firewall, and not those that go last', () => {
    expect(isDoneAtOnce(rules('add-rules'), rules('add-rules'))).toBe(true);
    expect(isDoneAtOnce(rules('add-rules'), rules('remove-rules'))).toBe(false);
    expect(isDoneAtOnce(rules('add-rules'), rules('add-rules', 'other'))).toBe(false);
  });

  it('is nothing of another capability at the same server, and one client at a time', () => {
    expect(isDoneAtOnce(give('furnace'), user)).toBe(false);
    expect(isDoneAtOnce(led('a'), led('a'))).toBe(true);
    expect(isDoneAtOnce(led('a'), led('b'))).toBe(false);
  });
});
