import { CannotRun } from './cannot-run.js';
import type { Command, Out } from './command.js';

/** Each command is loaded when it is asked for: what it doesn't need costs no time. */
const commands: Readonly<Record<string, () => Promise<Command>>> = {
  'cert check': async () => (await import('./cert/check.js')).check,
  'cert show': async () => (await import('./cert/show.js')).show,
  'cert lint': async () => (await import('./cert/lint.js')).lint,
  'dcom access': async () => (await import('./dcom/access.js')).access,
  'dcom descriptor': async () => (await import('./dcom/descriptor.js')).descriptor,
  'dcom settings': async () => (await import('./dcom/settings.js')).settings,
  'dcom probe': async () => (await import('./dcom/probe.js')).probe,
  'passage verdict': async () => (await import('./passage/verdict.js')).verdict,
  'capture read': async () => (await import('./capture/read.js')).read,
  'field read': async () => (await import('./field/read.js')).read,
  'field find': async () => (await import('./field/find.js')).find,
  'log read': async () => (await import('./log/read.js')).read,
};

/**
 * Runs one command. Exit codes: 0 everything is in order, 3 it ran and found something, 2 it could not run.
 */
export async function hinge(args: readonly string[], out: Out, errors: Out): Promise<number> {
  const [place, verb, ...rest] = args;
  const load = commands[`${place ?? ''} ${verb ?? ''}`];
  if (!load || rest.includes('--help')) {
    const asked = args.includes('--help') || args.length === 0;
    (asked ? out : errors).write(load ? `${(await load()).usage}\n` : await usage(asked ? null : args.join(' ')));
    return asked ? 0 : 2;
  }
  try {
    return await (await load()).run(rest, out, errors);
  } catch (error) {
    if (!(error instanceof CannotRun)) throw error;
    errors.write(`${error.message}\n`);
    return 2;
  }
}

async function usage(unknown: string | null): Promise<string> {
  const all = await Promise.all(Object.values(commands).map((load) => load()));
  const lines = all.map((command) => command.usage);
  return `${unknown === null ? '' : `“hinge ${unknown}” is not known.\n\n`}${lines.join('\n\n')}\n`;
}
