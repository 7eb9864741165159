import { listenWish, serverReports } from '../reports.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** What servers say of themselves. */
export const reportRoutes = {
  serverReports: route(at.serverReports, {
    summary: 'Audit events that a server has sent, and whether it is listened to',
    role: 'viewer',
    answer: serverReports,
  }),
  listenToServer: route(at.listenToServer, {
    summary: 'Listens to the audit events of a server for a while, as its administrator; nothing is changed there',
    role: 'engineer',
    body: listenWish,
    answer: serverReports,
  }),
  listenNoMore: route(at.listenNoMore, {
    summary: 'Ends listening to a server; what was heard is kept',
    role: 'engineer',
    body: nothing,
    answer: done,
  }),
};
