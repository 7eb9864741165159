import { parseArgs } from 'node:util';
import { giveUp, sentenceOf } from './say.mjs';

/**
 * Runs one of the project’s commands: what it started is stopped at its end, by a signal too, last first;
 * an error is one sentence and exit status 1.
 * @param work gets `add`, which takes what is to be stopped, and `isStopping`
 */
export async function command(work) {
  const parts = [];
  let stopping = null;
  const stop = () => (stopping ??= stopAll(parts));
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.on(signal, () => void stop().then(() => process.exit(0)));
  try {
    await work({ add: (part) => parts.push(part), stop, isStopping: () => stopping !== null });
  } catch (error) {
    if (stopping) return void (await stopping);
    await stop();
    console.error(`\n${sentenceOf(error)}`);
    process.exit(1);
  }
}

async function stopAll(parts) {
  for (const part of [...parts].reverse()) await part();
}

/** The options of a command; an unknown one is told with those that there are. */
export function optionsOf(options) {
  try {
    return parseArgs({ options, strict: true }).values;
  } catch {
    const known = Object.entries(options).map(([name, { type }]) => `--${name}${type === 'string' ? ' …' : ''}`);
    return giveUp(`The options of this command are ${known.join(', ')}.`);
  }
}
