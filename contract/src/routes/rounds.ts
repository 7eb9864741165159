import * as z from 'zod';
import { roundRow, roundsView, roundWish, timelineQuery, timelineView } from '../rounds.js';
import { at } from './addresses.js';
import { route } from './route.js';

/** Checks that come round by themselves, and how links were over time. */
export const roundsRoutes = {
  rounds: route(at.rounds, {
    summary: 'Rounds with their last runs, and what changed',
    role: 'viewer',
    answer: roundsView,
  }),
  addRound: route(at.addRound, {
    summary: 'Adds a round: which links are checked, how often, and when not',
    role: 'engineer',
    body: roundWish,
    answer: roundRow,
  }),
  putRound: route(at.putRound, { summary: 'Changes a round', role: 'engineer', body: roundWish, answer: roundRow }),
  removeRound: route(at.removeRound, { summary: 'Removes a round', role: 'engineer', answer: z.object({}) }),
  runRound: route(at.runRound, { summary: 'Begins a round now', role: 'engineer', answer: z.object({}) }),
  timeline: route(at.timeline, {
    summary: 'How links were over some days, with the share of the time in which they could be used',
    role: 'viewer',
    query: timelineQuery,
    answer: timelineView,
  }),
};
