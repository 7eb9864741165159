import * as z from 'zod';
import { dcomDifferences, dcomMachines, dcomView, machineFiles } from '../dcom.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** What machines’ exports say of DCOM. */
export const dcomRoutes = {
  dcomMachines: route(at.dcomMachines, {
    summary: 'Machines with classic applications, and what their newest exports say',
    role: 'viewer',
    answer: dcomMachines,
  }),
  dcomMachine: route(at.dcomMachine, {
    summary: 'Who may do what on a machine over DCOM, by its exports',
    role: 'viewer',
    query: z.object({ export: z.coerce.number().int().optional() }),
    answer: dcomView,
  }),
  importMachineSettings: route(at.importMachineSettings, {
    summary: 'Keeps exports of a machine’s registry, and what it prints of accounts',
    role: 'engineer',
    body: machineFiles,
    answer: dcomView,
  }),
  compareMachineSettings: route(at.compareMachineSettings, {
    summary: 'In what two exports of a machine differ',
    role: 'viewer',
    answer: dcomDifferences,
  }),
};
