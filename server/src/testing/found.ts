import type { Caller } from './calls.js';
import { until } from './until.js';

/** What a check of a link, asked for now, finds. */
export async function found(caller: Caller, linkId: string): Promise<string | null> {
  const { id } = await caller.call('checkLink', { linkId }, {});
  const ended = await until(
    () => caller.call('check', { checkId: id }),
    ({ check }) => check.endedAt !== null,
  );
  return ended.check.found;
}
