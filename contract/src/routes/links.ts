import * as z from 'zod';
import { id } from '../plant.js';
import {
  certificateView,
  check,
  checkDetail,
  judgedUrl,
  linkBoard,
  linkDetail,
  linkFilter,
  linkOrders,
  linkPage,
  linkRow,
  mended,
  mending,
  writeProof,
} from '../links.js';
import { at } from './addresses.js';
import { nothing, route } from './route.js';

/** Links, their checks, and mending them. */
export const linksRoutes = {
  links: route(at.links, {
    summary: 'Links with the verdicts of their steps, filtered and sorted, some at a time',
    role: 'viewer',
    query: linkPage,
    answer: linkBoard,
  }),
  linkRow: route(at.linkRow, {
    summary: 'One link as the board shows it',
    role: 'viewer',
    answer: linkRow,
  }),
  exportLinks: route(at.exportLinks, {
    summary: 'The links that fit, as a CSV file',
    role: 'viewer',
    query: linkFilter.extend({ by: z.enum(linkOrders).optional() }),
    answer: z.string(),
  }),
  link: route(at.link, {
    summary: 'One link, assessed and explained',
    role: 'viewer',
    answer: linkDetail,
  }),
  checkLink: route(at.checkLink, {
    summary: 'Asks for a check of one link',
    role: 'engineer',
    body: nothing,
    answer: check,
  }),
  proveWrites: route(at.proveWrites, {
    summary: 'Asks for a check that also writes items with the value that they have, and reads them back',
    role: 'engineer',
    body: writeProof,
    answer: check,
  }),
  checkAll: route(at.checkAll, {
    summary: 'Asks for a check of every link, of those that fit, or of those named',
    role: 'engineer',
    body: z.object({ linkIds: z.array(id).max(100_000).optional(), fitting: linkFilter.optional() }),
    /** Of many checks only the first are told one by one. */
    answer: z.object({ asked: z.int(), checks: z.array(check) }),
  }),
  cancelAll: route(at.cancelAll, {
    summary: 'Cancels all checks that have not ended',
    role: 'engineer',
    body: nothing,
    answer: z.object({ cancelled: z.int() }),
  }),
  check: route(at.check, {
    summary: 'A check with its facts and what they amount to',
    role: 'viewer',
    answer: checkDetail,
  }),
  cancelCheck: route(at.cancelCheck, {
    summary: 'Cancels a check',
    role: 'engineer',
    body: nothing,
    answer: check,
  }),
  mend: route(at.mend, {
    summary: 'Carries out a remedy, and checks the link again',
    role: 'engineer',
    body: mending,
    answer: mended,
  }),
  judgeUrl: route(at.judgeUrl, {
    summary: 'Cleans and judges an endpoint URL',
    role: 'viewer',
    query: z.object({ url: z.string().max(4096), serverId: z.string().max(80).optional() }),
    answer: judgedUrl,
  }),
  certificate: route(at.certificate, {
    summary: 'A certificate that was seen',
    role: 'viewer',
    answer: certificateView,
  }),
};
