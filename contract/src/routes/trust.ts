import * as z from 'zod';
import { pointInTime } from '../plant.js';
import { trustChange, workOrder } from '../orders.js';
import {
  certificatePage,
  droppedFile,
  giveWaiver,
  holderDetail,
  horizon,
  linkTurn,
  readingOutcome,
  recognisedFile,
  reportedBundle,
  setAsideEntry,
  trustOverview,
  strategy,
  trustFinding,
  trustParty,
  trustPlans,
  trustWay,
  gridPage,
  partiesWish,
  waiver,
} from '../trust/index.js';
import { passwordMove } from '../links.js';
import { waits } from '../proposals.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** Who trusts whom: lists, plans, what is set aside, what ends when. */
export const trustRoutes = {
  trust: route(at.trust, {
    summary: 'Who trusts whom, filtered, some applications at a time',
    role: 'viewer',
    query: gridPage,
    answer: trustOverview,
  }),
  exportTrust: route(at.exportTrust, {
    summary: 'The cells of the trust grid that fit, as a CSV file',
    role: 'viewer',
    query: gridPage.pick({ find: true, only: true }),
    answer: z.string(),
  }),
  trustFinding: route(at.trustFinding, {
    summary: 'How many links stop at trust, and what is trusted for nothing',
    role: 'viewer',
    answer: trustFinding,
  }),
  trustParties: route(at.trustParties, {
    summary: 'Applications as those that show certificates and trust others, by name',
    role: 'viewer',
    query: partiesWish,
    answer: z.object({ fitting: z.int(), parties: z.array(trustParty) }),
  }),
  trustHolder: route(at.trustHolder, {
    summary: 'The lists of one application, with their history',
    role: 'viewer',
    answer: holderDetail,
  }),
  releasePushPassword: route(at.releasePushPassword, {
    summary: 'Releases the stored password of push management for another target than it was given for',
    role: 'approver',
    body: passwordMove,
    answer: done,
  }),
  readTrust: route(at.readTrust, {
    summary: 'Reads the lists of a running server',
    role: 'engineer',
    body: nothing,
    answer: readingOutcome,
  }),
  readAllTrust: route(at.readAllTrust, {
    summary: 'Begins to read the lists of all servers that speak push management',
    role: 'engineer',
    body: nothing,
    answer: z.object({ applicationIds: z.array(z.string()) }),
  }),
  exportBundle: route(at.exportBundle, {
    summary: 'The lists of an application as a zip (Part 12 Annex F), with what its work orders still want',
    role: 'engineer',
    answer: z.string(),
  }),
  importBundle: route(at.importBundle, {
    summary: 'Imports a PKI folder that was copied from the machine',
    role: 'engineer',
    body: z.object({ file: droppedFile, copiedAt: pointInTime('This is no point in time.') }),
    answer: reportedBundle,
  }),
  recognise: route(at.recognise, {
    summary: 'Says what files are, and stores the certificates and CRLs in them',
    role: 'engineer',
    body: z.object({ files: z.array(droppedFile).min(1).max(200) }),
    answer: z.object({ files: z.array(recognisedFile) }),
  }),
  certificatePage: route(at.certificatePage, {
    summary: 'A certificate with its chain, where it is listed and what depends on it',
    role: 'viewer',
    answer: certificatePage,
  }),
  giveWaiver: route(at.giveWaiver, {
    summary: 'Lets an application skip a step of the validation for one certificate, until a date',
    role: 'approver',
    body: giveWaiver,
    answer: waits.extend({ waiver: waiver.nullable() }),
  }),
  takeBackWaiver: route(at.takeBackWaiver, {
    summary: 'Withdraws a waiver before its date',
    role: 'approver',
    answer: waiver,
  }),
  setTrustWay: route(at.setTrustWay, {
    summary: 'Says how the lists of an application are changed',
    role: 'engineer',
    body: trustWay,
    answer: done,
  }),
  stepBack: route(at.stepBack, {
    summary: 'Proposes a work order that undoes one change of lists',
    role: 'engineer',
    body: nothing,
    answer: workOrder,
  }),
  trustPlans: route(at.trustPlans, {
    summary: 'The smallest changes after which every link is trusted, by both strategies; of many the first that fit',
    role: 'viewer',
    query: z.object({ find: z.string().max(300).optional() }),
    answer: trustPlans,
  }),
  proposePlan: route(at.proposePlan, {
    summary: 'Proposes a whole plan as a work order',
    role: 'engineer',
    body: z.object({ strategy }),
    answer: workOrder,
  }),
  trustWhatIf: route(at.trustWhatIf, {
    summary: 'Which links turn by changes; nothing is changed',
    role: 'viewer',
    body: z.object({ changes: z.array(trustChange).max(20_000) }),
    answer: z.object({ turns: z.array(linkTurn) }),
  }),
  setAside: route(at.setAside, {
    summary: 'All certificates that are in rejected lists',
    role: 'viewer',
    answer: z.object({ entries: z.array(setAsideEntry) }),
  }),
  dismissSetAside: route(at.dismissSetAside, {
    summary: 'Postpones the review of a certificate that is set aside, or resumes it',
    role: 'engineer',
    body: z.object({ holderId: z.string().max(80), thumbprint: z.string().max(80), dismissed: z.boolean() }),
    answer: done,
  }),
  horizon: route(at.horizon, {
    summary: 'What ends when, and which links fall with it',
    role: 'viewer',
    answer: horizon,
  }),
};
