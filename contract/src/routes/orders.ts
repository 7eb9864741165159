import { z } from 'zod';
import { carryOutOrder, proposedOrder, workOrder, workOrderRow } from '../orders.js';
import { nothing, route } from './route.js';

/** Work orders. */
export const ordersRoutes = {
  orders: route({
    method: 'get',
    path: '/api/orders',
    summary: 'All work orders',
    role: 'viewer',
    answer: z.object({ orders: z.array(workOrderRow) }),
  }),
  order: route({
    method: 'get',
    path: '/api/orders/:id',
    summary: 'One work order with its lines',
    role: 'viewer',
    answer: workOrder,
  }),
  proposeOrder: route({
    method: 'post',
    path: '/api/orders',
    summary: 'Proposes a work order',
    role: 'engineer',
    body: proposedOrder,
    answer: workOrder,
  }),
  approveOrder: route({
    method: 'post',
    path: '/api/orders/:id/approval',
    summary: 'Approves a work order',
    role: 'approver',
    body: nothing,
    answer: workOrder,
  }),
  withdrawOrder: route({
    method: 'post',
    path: '/api/orders/:id/withdrawal',
    summary: 'Withdraws a work order that was not begun',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  carryOutOrder: route({
    method: 'post',
    path: '/api/orders/:id/carrying-out',
    summary: 'Carries an approved work order out, or goes on with one that stopped',
    role: 'engineer',
    body: carryOutOrder,
    answer: workOrder,
  }),
  lineDoneByHand: route({
    method: 'post',
    path: '/api/orders/:id/lines/:position/done',
    summary: 'Says that a line was done at the machine',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  undoLine: route({
    method: 'post',
    path: '/api/orders/:id/lines/:position/undoing',
    summary: 'Carries the way back of a line out',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
};
