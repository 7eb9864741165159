import * as z from 'zod';
import { carryOutOrder, proposedOrder, workOrder, workOrderRow } from '../orders.js';
import { at } from './addresses.js';
import { nothing, route } from './route.js';

/** Work orders. */
export const ordersRoutes = {
  orders: route(at.orders, {
    summary: 'All work orders',
    role: 'viewer',
    answer: z.object({ orders: z.array(workOrderRow) }),
  }),
  order: route(at.order, {
    summary: 'One work order with its lines',
    role: 'viewer',
    answer: workOrder,
  }),
  proposeOrder: route(at.proposeOrder, {
    summary: 'Proposes a work order',
    role: 'engineer',
    body: proposedOrder,
    answer: workOrder,
  }),
  approveOrder: route(at.approveOrder, {
    summary: 'Approves a work order',
    role: 'approver',
    body: nothing,
    answer: workOrder,
  }),
  withdrawOrder: route(at.withdrawOrder, {
    summary: 'Withdraws a work order that was not begun',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  carryOutOrder: route(at.carryOutOrder, {
    summary: 'Carries an approved work order out, or goes on with one that stopped',
    role: 'engineer',
    body: carryOutOrder,
    answer: workOrder,
  }),
  lineDoneByHand: route(at.lineDoneByHand, {
    summary: 'Reports that a line was done at the machine',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  undoLine: route(at.undoLine, {
    summary: 'Undoes a line',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
};
