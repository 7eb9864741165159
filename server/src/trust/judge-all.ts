import type { Runs } from '../heavy/jobs.js';
import type { TrustJobs } from './jobs.js';

/**
 * Judges the trust of the whole plant, a while at a time: in between, others get from the same worker what they ask for.
 * What is judged already takes next to no time.
 * @param signal ends it for the one who asked; without one it is nobody’s
 */
export async function judgeAll(trust: Runs<TrustJobs>, signal?: AbortSignal): Promise<void> {
  let from: number | null = 0;
  while (from !== null) from = await trust.run('judgeOn', { from }, signal);
}
