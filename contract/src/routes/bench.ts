import * as z from 'zod';
import {
  benchDescribed,
  benchHistory,
  benchMatches,
  benchNode,
  benchOpened,
  benchOpening,
  benchReading,
  benchTyped,
  benchUndo,
  benchWatchWish,
  benchWrite,
  benchWritten,
  recording,
  recordingWish,
} from '../bench.js';
import { at } from './addresses.js';
import { done, nothing, route } from './route.js';

/** Live sessions by hand. */
export const benchRoutes = {
  openBench: route(at.openBench, {
    summary: 'Opens a live session on a link',
    role: 'engineer',
    body: benchOpening,
    answer: benchOpened,
  }),
  browseBench: route(at.browseBench, {
    summary: 'Children of a node',
    role: 'engineer',
    query: z.object({ parent: z.string().max(1000).optional() }),
    answer: z.object({ nodes: z.array(benchNode) }),
  }),
  readBench: route(at.readBench, {
    summary: 'Reads one node',
    role: 'engineer',
    query: z.object({ nodeId: z.string().min(1).max(1000) }),
    answer: benchReading,
  }),
  describeBench: route(at.describeBench, {
    summary: 'Attributes and references of a node',
    role: 'engineer',
    query: z.object({ nodeId: z.string().min(1).max(1000) }),
    answer: benchDescribed,
  }),
  matchBench: route(at.matchBench, {
    summary: 'Variables whose paths fit a pattern, such as Lehr/Zone */Temperature; at most 5,000',
    role: 'engineer',
    query: z.object({ pattern: z.string().min(1).max(500) }),
    answer: benchMatches,
  }),
  historyBench: route(at.historyBench, {
    summary: 'Values of a node that the server has recorded, of the last minutes; at most 2,000',
    role: 'engineer',
    query: z.object({
      nodeId: z.string().min(1).max(1000),
      minutes: z.coerce.number().int().min(1).max(44_640),
    }),
    answer: benchHistory,
  }),
  watchBench: route(at.watchBench, {
    summary: 'What of a session is watched from now on; its changes come over the stream of the session',
    role: 'engineer',
    body: benchWatchWish,
    answer: done,
  }),
  typedBench: route(at.typedBench, {
    summary: 'What a value to be written to a node is held to',
    role: 'engineer',
    query: z.object({ nodeId: z.string().min(1).max(1000) }),
    answer: benchTyped,
  }),
  writeBench: route(at.writeBench, {
    summary: 'Writes a value that somebody typed, and reads it back; it stands in the audit trail',
    role: 'engineer',
    body: benchWrite,
    answer: benchWritten,
  }),
  undoBench: route(at.undoBench, {
    summary: 'Writes the value that was there before the last write of this session',
    role: 'engineer',
    body: benchUndo,
    answer: benchWritten,
  }),
  beginRecording: route(at.beginRecording, {
    summary: 'Records values of a live session into a CSV file, for a while and as long as the session lasts',
    role: 'engineer',
    body: recordingWish,
    answer: recording,
  }),
  recordings: route(at.recordings, {
    summary: 'What the caller has recorded, the newest first',
    role: 'engineer',
    answer: z.object({ recordings: z.array(recording) }),
  }),
  stopRecording: route(at.stopRecording, {
    summary: 'Ends a recording; what was recorded is kept',
    role: 'engineer',
    body: nothing,
    answer: recording,
  }),
  exportRecording: route(at.exportRecording, {
    summary: 'What was recorded so far, as a CSV file',
    role: 'engineer',
    answer: z.string(),
  }),
  closeBench: route(at.closeBench, {
    summary: 'Closes a live session',
    role: 'engineer',
    answer: done,
  }),
};
