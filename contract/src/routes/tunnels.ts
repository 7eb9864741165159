import * as z from 'zod';
import { tunnelBundle } from '../line/tunnel.js';
import { workOrder } from '../orders.js';
import { tunnelChoices, tunnelledLinkWish, tunnelView, tunnelWish, tunnelsView } from '../tunnels.js';
import { at } from './addresses.js';
import { done, route } from './route.js';

/** Tunnels, and the links that go through them. */
export const tunnelRoutes = {
  tunnels: route(at.tunnels, {
    summary: 'Tunnels, their ends, and the links that go through them',
    role: 'viewer',
    answer: tunnelsView,
  }),
  addTunnel: route(at.addTunnel, {
    summary: 'Adds a tunnel between two machines',
    role: 'engineer',
    body: tunnelWish,
    answer: z.object({ id: z.string() }),
  }),
  tunnel: route(at.tunnel, {
    summary: 'A tunnel, and what its ends told over time',
    role: 'viewer',
    answer: tunnelView,
  }),
  tunnelChoices: route(at.tunnelChoices, {
    summary: 'Machines for the ends of a tunnel, and the links that could go through it',
    role: 'viewer',
    answer: tunnelChoices,
  }),
  putTunnel: route(at.putTunnel, {
    summary: 'Changes where the ends of a tunnel meet, and its limits',
    role: 'engineer',
    body: tunnelWish,
    answer: done,
  }),
  removeTunnel: route(at.removeTunnel, {
    summary: 'Removes a tunnel and its ends; its links go straight again',
    role: 'engineer',
    answer: done,
  }),
  leadThroughTunnel: route(at.leadThroughTunnel, {
    summary: 'Leads a link through a tunnel',
    role: 'engineer',
    body: tunnelledLinkWish,
    answer: done,
  }),
  leadStraight: route(at.leadStraight, {
    summary: 'Leads a link straight to its server again',
    role: 'engineer',
    answer: done,
  }),
  tunnelOrder: route(at.tunnelOrder, {
    summary: 'Proposes a work order: what has to be set up at both machines and at the firewalls between',
    role: 'engineer',
    answer: workOrder,
  }),
  takeDownTunnel: route(at.takeDownTunnel, {
    summary:
      'Proposes a work order: how its links go straight again, its ends stop, and rules go that nobody else needs',
    role: 'engineer',
    answer: workOrder,
  }),
  tunnelEndBundle: route(at.tunnelEndBundle, {
    summary: 'All that an end of a tunnel needs beside its key, as one file',
    role: 'engineer',
    answer: tunnelBundle,
  }),
};
