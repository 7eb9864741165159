import { z } from 'zod';
import { id } from '../plant.js';
import { certificateView, check, checkDetail, judgedUrl, linkDetail, linkRow, mended, mending } from '../links.js';
import { nothing, route } from './route.js';

/** Links, their checks, and mending them. */
export const linksRoutes = {
  links: route({
    method: 'get',
    path: '/api/links',
    summary: 'All links with the verdicts of their steps',
    role: 'viewer',
    answer: z.object({ links: z.array(linkRow) }),
  }),
  link: route({
    method: 'get',
    path: '/api/links/:linkId',
    summary: 'One link, assessed and explained',
    role: 'viewer',
    answer: linkDetail,
  }),
  checkLink: route({
    method: 'post',
    path: '/api/links/:linkId/checks',
    summary: 'Asks for a check of one link',
    role: 'engineer',
    body: nothing,
    answer: check,
  }),
  checkAll: route({
    method: 'post',
    path: '/api/checks',
    summary: 'Asks for a check of every link, or of those named',
    role: 'engineer',
    body: z.object({ linkIds: z.array(id).max(100_000).optional() }),
    answer: z.object({ checks: z.array(check) }),
  }),
  check: route({
    method: 'get',
    path: '/api/checks/:checkId',
    summary: 'A check with its facts and what they amount to',
    role: 'viewer',
    answer: checkDetail,
  }),
  cancelCheck: route({
    method: 'post',
    path: '/api/checks/:checkId/cancel',
    summary: 'Cancels a check',
    role: 'engineer',
    body: nothing,
    answer: check,
  }),
  mend: route({
    method: 'post',
    path: '/api/links/:linkId/mendings',
    summary: 'Carries out a remedy, and checks the link again',
    role: 'engineer',
    body: mending,
    answer: mended,
  }),
  judgeUrl: route({
    method: 'get',
    path: '/api/judged-url',
    summary: 'Cleans and judges an endpoint URL',
    role: 'viewer',
    query: z.object({ url: z.string().max(4096), serverId: z.string().max(80).optional() }),
    answer: judgedUrl,
  }),
  certificate: route({
    method: 'get',
    path: '/api/certificates/:thumbprint',
    summary: 'A certificate that was seen',
    role: 'viewer',
    answer: certificateView,
  }),
};
