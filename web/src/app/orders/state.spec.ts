import type { OrderLine, WorkOrder } from '@loyal-hinge/contract';
import { line, order as orderOf } from '../../testing/trust-answers';
import { orderHeadline } from './state';

const order = (state: WorkOrder['state'], ...lines: OrderLine['state'][]): WorkOrder =>
  orderOf({ state, proposedBy: 'the engineer', lines: lines.map((one) => line({ state: one })) });

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
