import type { OrderLine, WorkOrder } from '@loyal-hinge/contract';
import { line, order as orderOf } from '../../testing/trust-answers';
import { orderActions, orderHeadline, ordersFeature } from './state';

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

describe('why an order could not be proposed', () => {
  const problem = { title: 'Can’t be done now', detail: 'It is so already.', faults: [] } as never;
  const reduce = ordersFeature.reducer;
  const failed = reduce(undefined, orderActions.failed({ does: 'propose', problem }));

  it('is told, and no more on the next page that opens', () => {
    expect(failed.commands.problem).toBe(problem);
    expect(reduce(failed, orderActions.begin()).commands.problem).toBeNull();
  });
});
