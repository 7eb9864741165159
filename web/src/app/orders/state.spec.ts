import type { OrderLine, WorkOrder } from '@loyal-hinge/contract';
import { orderHeadline } from './state';

const line = (state: OrderLine['state']): OrderLine => ({
  position: 1,
  change: { kind: 'list-certificate', holderId: 'a', list: 'trusted', thumbprint: 'AA', until: null },
  title: '',
  target: '',
  before: '',
  after: '',
  why: '',
  way: 'push',
  restart: false,
  undo: '',
  linkIds: [],
  state,
  says: null,
  by: null,
  at: null,
  provedAt: null,
});
const order = (state: WorkOrder['state'], ...lines: OrderLine['state'][]): WorkOrder => ({
  id: 'o',
  title: 'An order',
  state,
  proposedBy: 'the engineer',
  proposedAt: '2026-03-01T12:00:00.000Z',
  decidedBy: null,
  decidedAt: null,
  lines: lines.map(line),
});

describe('how a work order stands, in a sentence', () => {
  it.each([
    [order('proposed', 'waiting', 'waiting'), '2 changes proposed by the engineer; nothing is done yet.'],
    [order('approved', 'waiting'), 'Approved; nothing is done yet.'],
    [order('approved', 'failed', 'waiting'), 'Stopped: 1 line failed, 0 of 2 done, 0 proved.'],
    [order('approved', 'by hand', 'proved'), 'Stopped: 1 line waits for a person, 1 of 2 done, 1 proved.'],
    [order('running', 'proved', 'claimed'), 'Being carried out: 1 of 2 done, 1 proved.'],
    [order('done', 'done', 'proved'), 'Carried out: 2 of 2 done, 1 proved.'],
    [order('proved', 'proved'), 'Carried out and proved.'],
    [order('withdrawn', 'waiting'), 'Withdrawn; nothing was done.'],
  ])('%#', (told, words) => expect(orderHeadline(told)).toBe(words));
});
