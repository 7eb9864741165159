import * as z from 'zod';
import { outpost, outpostRequest, outpostTicket, signOutpost, ticketWish } from '../outposts.js';
import { probesView, probeWish } from '../probes.js';
import { at } from './addresses.js';
import { done, route } from './route.js';

/** Processes of the product on other machines: how they come to their certificates, and the probes among them. */
export const outpostRoutes = {
  makeOutpostTicket: route(at.makeOutpostTicket, {
    summary: 'Creates a ticket with which an outpost asks for its certificate; it is shown only now',
    role: 'engineer',
    body: ticketWish,
    answer: outpostTicket,
  }),
  bringOutpostRequest: route(at.bringOutpostRequest, {
    summary: 'Takes the certificate request of an outpost that was brought by hand',
    role: 'engineer',
    body: outpostRequest,
    answer: outpost,
  }),
  signOutpost: route(at.signOutpost, {
    summary: 'Signs the certificate request of an outpost',
    role: 'engineer',
    body: signOutpost,
    answer: outpost,
  }),
  refuseOutpost: route(at.refuseOutpost, {
    summary: 'Refuses the certificate request of an outpost; its ticket can’t be used any more',
    role: 'engineer',
    answer: outpost,
  }),
  probes: route(at.probes, {
    summary: 'Probes, and the machines for which they stand',
    role: 'viewer',
    answer: probesView,
  }),
  addProbe: route(at.addProbe, {
    summary: 'Adds a probe',
    role: 'engineer',
    body: probeWish,
    answer: z.object({ id: z.string() }),
  }),
  putProbe: route(at.putProbe, {
    summary: 'Changes a probe, and for which machines it stands',
    role: 'engineer',
    body: probeWish,
    answer: done,
  }),
  removeProbe: route(at.removeProbe, {
    summary: 'Removes a probe; the server itself checks its links again',
    role: 'engineer',
    answer: done,
  }),
};
