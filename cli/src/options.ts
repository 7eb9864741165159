import { parseArgs } from 'node:util';
import { CannotRun, messageOf } from './cannot-run.js';

type Kinds = Readonly<Record<string, 'text' | 'texts' | 'flag'>>;
type Options<Given extends Kinds> = {
  readonly [Name in keyof Given]: Given[Name] extends 'flag'
    ? boolean
    : Given[Name] extends 'texts'
      ? readonly string[]
      : string | null;
};

const emptyOf = { text: null, texts: [], flag: false } as const;

/** Reads `--name value`, which may stand several times where it gives `texts`, and `--flag`; anything else is refused with the usage. */
export function readOptions<Given extends Kinds>(
  args: readonly string[],
  kinds: Given,
  usage: string,
): { readonly options: Options<Given>; readonly rest: readonly string[] } {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: Object.fromEntries(
        Object.entries(kinds).map(
          ([name, kind]) =>
            [name, { type: kind === 'flag' ? 'boolean' : 'string', multiple: kind === 'texts' }] as const,
        ),
      ),
    });
    const options = Object.fromEntries(
      Object.entries(kinds).map(([name, kind]) => [name, values[name] ?? emptyOf[kind]]),
    );
    return { options: options as Options<Given>, rest: positionals };
  } catch (error) {
    throw new CannotRun(`${messageOf(error)}\n\n${usage}`);
  }
}

/** One of some words. */
export function oneOf<Choice extends string>(text: string | null, name: string, choices: readonly Choice[]): Choice {
  if (text === null) throw new CannotRun(`Say --${name}: ${choices.join(', ')}.`);
  const found = choices.find((choice) => choice === text);
  if (!found) throw new CannotRun(`“${text}” is no ${name}; there are ${choices.join(', ')}.`);
  return found;
}

/** A whole number within bounds. @param usual where none is given; without it one has to be */
export function wholeNumber(
  text: string | null,
  name: string,
  { least = 1, most, usual }: { readonly least?: number; readonly most: number; readonly usual?: number },
): number {
  if (text === null && usual !== undefined) return usual;
  const says = `must be a whole number from ${least} to ${most}.`;
  if (text === null) throw new CannotRun(`Say --${name}. It ${says}`);
  const number = Number(text);
  if (!/^\d+$/.test(text) || number < least || number > most) throw new CannotRun(`--${name} ${says}`);
  return number;
}
