import * as z from 'zod';
import { workOrder } from '../orders.js';
import {
  authorityView,
  createAuthority,
  importAuthority,
  broughtCertificate,
  issueCrlRequest,
  issueRequest,
  issuedCertificate,
  madeTicket,
  makeTicket,
  pullRequest,
  pullResult,
  pullTicket,
  pulled,
  renewAuthority,
  revokeRequest,
  signTicket,
  signingRequest,
} from '../trust/index.js';
import { at } from './addresses.js';
import { done, route } from './route.js';

/** Who signs: authorities, requests, tickets. */
export const authoritiesRoutes = {
  authorities: route(at.authorities, {
    summary: 'The plant’s authorities',
    role: 'viewer',
    answer: z.object({ authorities: z.array(authorityView) }),
  }),
  createAuthority: route(at.createAuthority, {
    summary: 'Creates an authority',
    role: 'administrator',
    body: createAuthority,
    answer: authorityView,
  }),
  importAuthority: route(at.importAuthority, {
    summary: 'Imports an existing authority',
    role: 'administrator',
    body: importAuthority,
    answer: authorityView,
  }),
  renewAuthority: route(at.renewAuthority, {
    summary:
      'Creates the certificate that replaces an authority’s own; both are valid side by side until everything has moved',
    role: 'administrator',
    body: renewAuthority,
    answer: authorityView,
  }),
  issueCertificate: route(at.issueCertificate, {
    summary: 'Signs a certificate request',
    role: 'engineer',
    body: issueRequest,
    answer: issuedCertificate,
  }),
  revokeCertificate: route(at.revokeCertificate, {
    summary: 'Revokes a certificate, and issues a CRL that says so',
    role: 'approver',
    body: revokeRequest,
    answer: authorityView,
  }),
  issueCrl: route(at.issueCrl, {
    summary: 'Issues the next CRL',
    role: 'engineer',
    body: issueCrlRequest,
    answer: authorityView,
  }),
  requestCertificate: route(at.requestCertificate, {
    summary: 'Creates a request that an authority whose key is kept elsewhere is to sign',
    role: 'engineer',
    body: z.object({ applicationId: z.string().max(80) }),
    answer: signingRequest,
  }),
  bringCertificate: route(at.bringCertificate, {
    summary: 'Takes the certificate that was signed elsewhere, and proposes to give it to its application',
    role: 'engineer',
    body: broughtCertificate,
    answer: workOrder,
  }),
  dropRequest: route(at.dropRequest, {
    summary: 'Withdraws a certificate request',
    role: 'engineer',
    answer: done,
  }),
  pullTickets: route(at.pullTickets, {
    summary: 'Tickets with which applications fetch certificates by themselves',
    role: 'viewer',
    answer: z.object({ tickets: z.array(pullTicket) }),
  }),
  makePullTicket: route(at.makePullTicket, {
    summary: 'Creates a ticket for one application; its token is shown only now',
    role: 'engineer',
    body: makeTicket,
    answer: madeTicket,
  }),
  signPullTicket: route(at.signPullTicket, {
    summary: 'Signs the request that came with a ticket',
    role: 'engineer',
    body: signTicket,
    answer: pullTicket,
  }),
  pullRequest: route(at.pullRequest, {
    summary: 'An application hands its certificate request in, with its token instead of a sign-in',
    role: null,
    body: pullRequest,
    answer: pulled,
  }),
  pullResult: route(at.pullResult, {
    summary: 'An application fetches its certificate and trust list, once, with its token instead of a sign-in',
    role: null,
    body: pullResult,
    answer: pulled,
  }),
};
