import type { TrustChange } from '@loyal-hinge/core';
import { give, renew, take } from '../../../core/src/testing/changes.js';
import { batchesOf } from './batches.js';
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
