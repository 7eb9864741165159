import { z } from 'zod';
import { firstStepIds } from '@loyal-hinge/core';
import { discoveryState, discoveryWish } from '../discovery.js';
import { waits } from '../proposals.js';
import { application, link, machine, plant, plantDocument, zone } from '../plant.js';
import { done, nothing, route } from './route.js';

/** What the plant is made of, and finding what is there. */
export const plantRoutes = {
  plant: route({ method: 'get', path: '/api/plant', summary: 'The whole plant', role: 'viewer', answer: plant }),
  firstSteps: route({
    method: 'get',
    path: '/api/first-steps',
    summary: 'What leads from an empty plant to its first check, and how far it has come',
    role: 'viewer',
    answer: z.object({
      steps: z.array(z.object({ id: z.enum(firstStepIds), title: z.string(), why: z.string(), done: z.boolean() })),
    }),
  }),
  exportPlant: route({
    method: 'get',
    path: '/api/plant/document',
    summary: 'The whole plant as a file',
    role: 'viewer',
    answer: plantDocument,
  }),
  importPlant: route({
    method: 'put',
    path: '/api/plant/document',
    summary: 'Replaces the whole plant by a file’s; all or nothing',
    role: 'engineer',
    body: plantDocument,
    answer: waits,
  }),
  exportMachines: route({
    method: 'get',
    path: '/api/plant/machines.csv',
    summary: 'All machines as CSV',
    role: 'viewer',
    answer: z.string(),
  }),
  importMachines: route({
    method: 'post',
    path: '/api/plant/machines.csv',
    summary: 'Adds or changes machines from CSV; all or nothing',
    role: 'engineer',
    body: z.object({ csv: z.string().max(4_000_000) }),
    answer: z.object({ machines: z.int() }),
  }),
  putZone: route({
    method: 'put',
    path: '/api/plant/zones/:id',
    summary: 'Adds or changes a zone',
    role: 'engineer',
    body: zone,
    answer: zone,
  }),
  putMachine: route({
    method: 'put',
    path: '/api/plant/machines/:id',
    summary: 'Adds or changes a machine',
    role: 'engineer',
    body: machine,
    answer: machine,
  }),
  putApplication: route({
    method: 'put',
    path: '/api/plant/applications/:id',
    summary: 'Adds or changes an application',
    role: 'engineer',
    body: application,
    answer: application,
  }),
  putLink: route({
    method: 'put',
    path: '/api/plant/links/:id',
    summary: 'Adds or changes a link',
    role: 'engineer',
    body: link,
    answer: link,
  }),
  removeZone: route({
    method: 'delete',
    path: '/api/plant/zones/:id',
    summary: 'Removes a zone that holds no machine',
    role: 'engineer',
    answer: done,
  }),
  removeMachine: route({
    method: 'delete',
    path: '/api/plant/machines/:id',
    summary: 'Removes a machine that holds no application',
    role: 'engineer',
    answer: done,
  }),
  removeApplication: route({
    method: 'delete',
    path: '/api/plant/applications/:id',
    summary: 'Removes an application that no link uses',
    role: 'engineer',
    answer: done,
  }),
  removeLink: route({
    method: 'delete',
    path: '/api/plant/links/:id',
    summary: 'Removes a link; its facts are kept',
    role: 'engineer',
    answer: done,
  }),
  discovery: route({
    method: 'get',
    path: '/api/discovery',
    summary: 'Servers that were found, and how they stand to the plant',
    role: 'viewer',
    answer: discoveryState,
  }),
  beginDiscovery: route({
    method: 'post',
    path: '/api/discovery',
    summary: 'Begins to look for servers; nothing is added to the plant',
    role: 'engineer',
    body: discoveryWish,
    answer: discoveryState,
  }),
  stopDiscovery: route({
    method: 'post',
    path: '/api/discovery/stop',
    summary: 'Stops looking for servers',
    role: 'engineer',
    body: nothing,
    answer: done,
  }),
};
