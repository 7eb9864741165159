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
