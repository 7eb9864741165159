import {
  doorRules,
  doorTurns,
  entryClosing,
  entryFloor,
  entryFloors,
  entryPage,
  entryView,
  exceptionView,
  giveException,
} from '../doors.js';
import { waits } from '../proposals.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** Which doors servers offer, who comes in by them, and what the plant accepts. */
export const entryRoutes = {
  entry: route(at.entry, {
    summary:
      'The doors of all servers (policy, mode, kind of user) with the links behind each, filtered, some at a time',
    role: 'viewer',
    query: entryPage,
    answer: entryView,
  }),
  entryClosing: route(at.entryClosing, {
    summary: 'The weak doors that can be closed without cutting a link off, and the shortest way to closing all',
    role: 'viewer',
    answer: entryClosing,
  }),
  doorWhatIf: route(at.doorWhatIf, {
    summary: 'Which links would take another door or be cut off if doors were closed or opened; nothing is changed',
    role: 'viewer',
    body: doorRules,
    answer: doorTurns,
  }),
  entryFloors: route(at.entryFloors, {
    summary: 'The least that the plant accepts, and the exceptions from it',
    role: 'viewer',
    answer: entryFloors,
  }),
  putEntryFloor: route(at.putEntryFloor, {
    summary: 'Says what the plant accepts of an endpoint, and of who signs in there',
    role: 'approver',
    body: entryFloor,
    answer: waits.extend({ floor: entryFloor }),
  }),
  giveException: route(at.giveException, {
    summary: 'Lets another floor hold for one server or link, until a day',
    role: 'approver',
    body: giveException,
    answer: waits.extend({ exception: exceptionView.nullable() }),
  }),
  endException: route(at.endException, {
    summary: 'Ends an exception before its date',
    role: 'approver',
    answer: exceptionView,
  }),
} as const;
