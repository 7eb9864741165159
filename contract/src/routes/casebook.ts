import * as z from 'zod';
import {
  caseActWish,
  casebookView,
  caseView,
  conversationView,
  evidenceBegun,
  evidenceReading,
  evidencePart,
  evidencePlace,
  evidenceReceived,
  evidenceWish,
  messageBytes,
  mostEvidenceBytes,
  readingRuleRow,
  readingRulesFile,
  readingRuleWish,
  ruleTrial,
  ruleTrialWish,
} from '../casebook.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** What machines and wires recorded, and the cases that it makes. */
export const casebookRoutes = {
  casebook: route(at.casebook, {
    summary: 'Failed attempts from logs and captures, grouped into cases, and the files that they are from',
    role: 'viewer',
    answer: casebookView,
  }),
  case: route(at.case, {
    summary: 'One case: why it failed, what to do, and its newest attempts',
    role: 'viewer',
    answer: caseView,
  }),
  actOnCase: route(at.actOnCase, {
    summary: 'Writes a note, gives the case to somebody, closes it or opens it again',
    role: 'engineer',
    body: caseActWish,
    answer: z.object({}),
  }),
  beginEvidence: route(at.beginEvidence, {
    summary: 'Announces a capture or a log; one of the same name and size that was cut off is gone on with',
    role: 'engineer',
    body: evidenceWish,
    answer: evidenceBegun,
  }),
  sendEvidence: route(at.sendEvidence, {
    summary: 'The next part of a file; behind the last one it is read',
    role: 'engineer',
    body: evidencePart,
    answer: evidenceReceived,
  }),
  evidencePlace: route(at.evidencePlace, {
    summary: 'What stands at a place of a log that was brought',
    role: 'engineer',
    query: z.object({ position: z.coerce.number().int().min(0).max(mostEvidenceBytes) }),
    answer: evidencePlace,
  }),
  conversation: route(at.conversation, {
    summary: 'What two machines said to each other in a capture: each message, decoded',
    role: 'engineer',
    answer: conversationView,
  }),
  messageBytes: route(at.messageBytes, {
    summary: 'The bytes of one message, unless they may hold a password',
    role: 'engineer',
    answer: messageBytes,
  }),
  setEvidenceReading: route(at.setEvidenceReading, {
    summary: 'Says how the clock stood that a file was written by, and by which rule it is read, and reads it again',
    role: 'engineer',
    body: evidenceReading,
    answer: z.object({}),
  }),
  removeEvidence: route(at.removeEvidence, {
    summary: 'Throws a file away, with the attempts that it tells of',
    role: 'engineer',
    answer: z.object({}),
  }),
  readingRules: route(at.readingRules, {
    summary: 'Rules by which lines of logs are read that have no form that is known',
    role: 'viewer',
    answer: z.array(readingRuleRow),
  }),
  addReadingRule: route(at.addReadingRule, {
    summary: 'Adds a reading rule',
    role: 'engineer',
    body: readingRuleWish,
    answer: readingRuleRow,
  }),
  takeReadingRules: route(at.takeReadingRules, {
    summary: 'Takes rules from a file: new ones are added, those of a known name changed',
    role: 'engineer',
    body: readingRulesFile,
    answer: z.object({ added: z.int(), changed: z.int() }),
  }),
  tryReadingRule: route(at.tryReadingRule, {
    summary: 'What a rule makes of a sample; nothing is kept',
    role: 'engineer',
    body: ruleTrialWish,
    answer: ruleTrial,
  }),
  putReadingRule: route(at.putReadingRule, {
    summary: 'Changes a reading rule; files that are read by it are read again',
    role: 'engineer',
    body: readingRuleWish,
    answer: readingRuleRow,
  }),
  removeReadingRule: route(at.removeReadingRule, {
    summary: 'Removes a reading rule; files that were read by it are read again without one',
    role: 'engineer',
    answer: z.object({}),
  }),
};
