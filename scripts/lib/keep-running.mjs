import { appendFileSync } from 'node:fs';
import { join } from 'node:path';
import { say, sentenceOf } from './say.mjs';

const firstWaitMs = 1000;
const longestWaitMs = 30_000;
/** Who has run for so long starts again without a wait the next time. */
const calmMs = 60_000;

/** What the start script has to tell: shown, and written into `start.log` with the time. */
export const startLog = (dataFolder) => (text) => {
  say(text);
  try {
    appendFileSync(join(dataFolder, 'start.log'), `${new Date().toISOString()} ${text}\n`, { mode: 0o600 });
  } catch {
    // A full disk must not end what still runs.
  }
};

/**
 * Starts a part and starts it again whenever it ends by itself, each time after a longer wait.
 * The first start may fail; what it fails with is the caller’s.
 * @param start begins the part: `ended` resolves with why, `stop` ends it
 */
export async function keepRunning(name, start, { log, isStopping }) {
  let running = await start();
  const watch = async () => {
    let begun = Date.now();
    for (let waitMs = firstWaitMs; ; waitMs = Math.min(waitMs * 2, longestWaitMs)) {
      const why = await running.ended;
      if (isStopping()) return;
      if (Date.now() - begun > calmMs) waitMs = firstWaitMs;
      log(`${name} ended (${why}). It is started again in ${waitMs / 1000} s.`);
      await new Promise((resolve) => setTimeout(resolve, waitMs));
      if (isStopping()) return;
      begun = Date.now();
      running = await start().then(
        (again) => (log(`${name} runs again.`), again),
        (error) => ({ ended: Promise.resolve(sentenceOf(error)), stop: () => undefined }),
      );
    }
  };
  void watch();
  return { now: () => running, stop: () => running.stop() };
}
