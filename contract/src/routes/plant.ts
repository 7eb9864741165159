import * as z from 'zod';
import { linkKindIds } from '@loyal-hinge/core';
import { firstStepIds } from '@loyal-hinge/core';
import { discoveryState, discoveryWish } from '../discovery.js';
import { waits } from '../proposals.js';
import {
  application,
  link,
  machine,
  plant,
  plantDocument,
  zone,
  choosable,
  plantChoices,
  plantPage,
  plantView,
} from '../plant.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** What the plant is made of, and finding what is there. */
export const plantRoutes = {
  plantView: route(at.plantView, {
    summary: 'Some rows of a part of the plant, filtered, by name',
    role: 'viewer',
    query: plantPage,
    answer: plantView,
  }),
  plantChoices: route(at.plantChoices, {
    summary: 'Machines, clients or servers by name, for choosing one',
    role: 'viewer',
    query: z.object({
      of: z.enum(choosable),
      find: z.string().max(300).optional(),
      /** Only applications that speak it. */
      speaks: z.enum(linkKindIds).optional(),
    }),
    answer: plantChoices,
  }),
  plant: route(at.plant, {
    summary: 'The whole plant',
    role: 'viewer',
    answer: plant,
  }),
  firstSteps: route(at.firstSteps, {
    summary: 'What leads from an empty plant to its first check, and how far it has come',
    role: 'viewer',
    answer: z.object({
      steps: z.array(z.object({ id: z.enum(firstStepIds), title: z.string(), why: z.string(), done: z.boolean() })),
    }),
  }),
  exportPlant: route(at.exportPlant, {
    summary: 'The whole plant as a file',
    role: 'viewer',
    answer: plantDocument,
  }),
  importPlant: route(at.importPlant, {
    summary: 'Replaces the whole plant by a file’s; all or nothing',
    role: 'engineer',
    body: plantDocument,
    answer: waits,
  }),
  exportMachines: route(at.exportMachines, {
    summary: 'All machines as CSV',
    role: 'viewer',
    answer: z.string(),
  }),
  importMachines: route(at.importMachines, {
    summary: 'Adds or changes machines from CSV; all or nothing',
    role: 'engineer',
    body: z.object({ csv: z.string().max(4_000_000) }),
    answer: z.object({ machines: z.int() }),
  }),
  putZone: route(at.putZone, {
    summary: 'Adds or changes a zone',
    role: 'engineer',
    body: zone,
    answer: zone,
  }),
  putMachine: route(at.putMachine, {
    summary: 'Adds or changes a machine',
    role: 'engineer',
    body: machine,
    answer: machine,
  }),
  putApplication: route(at.putApplication, {
    summary: 'Adds or changes an application',
    role: 'engineer',
    body: application,
    answer: application,
  }),
  putLink: route(at.putLink, {
    summary: 'Adds or changes a link',
    role: 'engineer',
    body: link,
    answer: link,
  }),
  removeZone: route(at.removeZone, {
    summary: 'Removes a zone that holds no machine',
    role: 'engineer',
    answer: done,
  }),
  removeMachine: route(at.removeMachine, {
    summary: 'Removes a machine that holds no application',
    role: 'engineer',
    answer: done,
  }),
  removeApplication: route(at.removeApplication, {
    summary: 'Removes an application that no link uses',
    role: 'engineer',
    answer: done,
  }),
  removeLink: route(at.removeLink, {
    summary: 'Removes a link; its facts are kept',
    role: 'engineer',
    answer: done,
  }),
  discovery: route(at.discovery, {
    summary: 'Servers that were found, and how they compare with the plant',
    role: 'viewer',
    answer: discoveryState,
  }),
  beginDiscovery: route(at.beginDiscovery, {
    summary: 'Begins to look for servers; nothing is added to the plant',
    role: 'engineer',
    body: discoveryWish,
    answer: discoveryState,
  }),
  stopDiscovery: route(at.stopDiscovery, {
    summary: 'Stops looking for servers',
    role: 'engineer',
    body: nothing,
    answer: done,
  }),
};
