import { check } from './cert/check.js';
import { lint } from './cert/lint.js';
import { show } from './cert/show.js';
import { access } from './dcom/access.js';
import { descriptor } from './dcom/descriptor.js';
import { probe } from './dcom/probe.js';
import { settings } from './dcom/settings.js';
import { verdict } from './passage/verdict.js';
import { CannotRun } from './cannot-run.js';
import type { Command, Out } from './command.js';

const commands: Readonly<Record<string, Command>> = {
  'cert check': check,
  'cert show': show,
  'cert lint': lint,
  'dcom access': access,
  'dcom descriptor': descriptor,
  'dcom settings': settings,
  'dcom probe': probe,
  'passage verdict': verdict,
};

/**
 * Runs one command. Exit codes: 0 everything is in order, 3 it ran and found something, 2 it could not run.
 */
export async function hinge(args: readonly string[], out: Out, errors: Out): Promise<number> {
  const [place, verb, ...rest] = args;
  const command = commands[`${place ?? ''} ${verb ?? ''}`];
  if (!command || rest.includes('--help')) {
    const asked = args.includes('--help') || args.length === 0;
    (asked ? out : errors).write(command ? `${command.usage}\n` : usage(asked ? null : args.join(' ')));
    return asked ? 0 : 2;
  }
  try {
    return await command.run(rest, out, errors);
  } catch (error) {
    if (!(error instanceof CannotRun)) throw error;
    errors.write(`${error.message}\n`);
    return 2;
  }
}

function usage(unknown: string | null): string {
  const lines = Object.values(commands).map((command) => command.usage);
  return `${unknown === null ? '' : `“hinge ${unknown}” is not known.\n\n`}${lines.join('\n\n')}\n`;
}
