import { CannotRun } from './cannot-run.js';
import type { Out } from './command.js';
import { readText } from './files.js';
import { readOptions } from './options.js';

export type Fields = Readonly<Record<string, unknown>>;

/** What is wrong with a case. */
export class BadCase extends Error {}

/**
 * Answers each case of a file, a JSON object a line, with a JSON object a line; one that is no case, or wrong, with an error.
 * @returns 3 where one was, else 0
 */
export function answerCases(
  args: readonly string[],
  out: Out,
  usage: string,
  answer: (fields: Fields) => object,
): number {
  const { options, rest } = readOptions(args, { cases: 'text', json: 'flag' }, usage);
  const file = options.cases ?? rest[0];
  if (file === undefined) throw new CannotRun(`Say which file of cases.\n\n${usage}`);
  if (!options.json) throw new CannotRun(`Answers are JSON alone: add --json.\n\n${usage}`);
  let hasFaults = false;
  readText(file)
    .split(/\r?\n/)
    .forEach((line, index) => {
      if (line.trim() === '') return;
      const told = answered(line, index + 1, answer);
      hasFaults ||= 'error' in told;
      out.write(`${JSON.stringify(told)}\n`);
    });
  return hasFaults ? 3 : 0;
}

function answered(line: string, number: number, answer: (fields: Fields) => object): object {
  let fields: unknown;
  try {
    fields = JSON.parse(line);
  } catch {
    return { id: null, error: `Line ${number} is no JSON.` };
  }
  if (typeof fields !== 'object' || fields === null || Array.isArray(fields))
    return { id: null, error: `Line ${number} is no JSON object.` };
  const id = (fields as Fields)['id'] ?? null;
  try {
    return { id, ...answer(fields as Fields) };
  } catch (error) {
    if (!(error instanceof BadCase)) throw error;
    return { id, error: error.message };
  }
}

export function textIn(fields: Fields, name: string): string {
  const value = fields[name];
  if (typeof value !== 'string') throw new BadCase(`“${name}” must be a text.`);
  return value;
}
