import * as z from 'zod';
import {
  conduitWidths,
  conduitWish,
  firewallView,
  firewallWish,
  passageDocument,
  passageTurns,
  passageView,
  ruleEdits,
  ruleFile,
  serviceWish,
} from '../passage.js';
import { at } from './addresses.js';
import { route } from './route.js';

const added = z.object({ id: z.string() });

/** Firewalls, conduits, and the ways of links over them. */
export const passageRoutes = {
  passage: route(at.passage, {
    summary: 'Firewalls and conduits, and what they let through of what each link needs',
    role: 'viewer',
    answer: passageView,
  }),
  exportPassage: route(at.exportPassage, {
    summary: 'All firewalls with their newest rules, conduits and services, as one document',
    role: 'viewer',
    answer: passageDocument,
  }),
  importPassage: route(at.importPassage, {
    summary: 'Adds or changes firewalls, conduits and services from a document; all or nothing',
    role: 'engineer',
    body: passageDocument,
    answer: z.object({ firewalls: z.int(), conduits: z.int(), services: z.int() }),
  }),
  addFirewall: route(at.addFirewall, {
    summary: 'Adds a firewall',
    role: 'engineer',
    body: firewallWish,
    answer: added,
  }),
  firewall: route(at.firewall, {
    summary: 'A firewall’s rules, and what each is worth',
    role: 'viewer',
    answer: firewallView,
  }),
  putFirewall: route(at.putFirewall, {
    summary: 'Changes a firewall',
    role: 'engineer',
    body: firewallWish,
    answer: added,
  }),
  removeFirewall: route(at.removeFirewall, {
    summary: 'Removes a firewall and its rules',
    role: 'engineer',
    answer: z.object({}),
  }),
  importRules: route(at.importRules, {
    summary: 'Keeps a firewall’s rules, as it writes them',
    role: 'engineer',
    body: ruleFile,
    answer: firewallView,
  }),
  rulesWhatIf: route(at.rulesWhatIf, {
    summary: 'Which links would be judged otherwise, were rules changed',
    role: 'viewer',
    body: ruleEdits,
    answer: passageTurns,
  }),
  conduitWidths: route(at.conduitWidths, {
    summary: 'What conduits let through that no link needs',
    role: 'viewer',
    answer: conduitWidths,
  }),
  addConduit: route(at.addConduit, { summary: 'Adds a conduit', role: 'engineer', body: conduitWish, answer: added }),
  putConduit: route(at.putConduit, {
    summary: 'Changes a conduit',
    role: 'engineer',
    body: conduitWish,
    answer: added,
  }),
  removeConduit: route(at.removeConduit, { summary: 'Removes a conduit', role: 'engineer', answer: z.object({}) }),
  addService: route(at.addService, { summary: 'Adds a service', role: 'engineer', body: serviceWish, answer: added }),
  putService: route(at.putService, {
    summary: 'Changes a service',
    role: 'engineer',
    body: serviceWish,
    answer: added,
  }),
  removeService: route(at.removeService, { summary: 'Removes a service', role: 'engineer', answer: z.object({}) }),
};
