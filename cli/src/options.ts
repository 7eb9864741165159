import { parseArgs } from 'node:util';
import { CannotRun, messageOf } from './cannot-run.js';

type Kinds = Readonly<Record<string, 'text' | 'flag'>>;
type Options<Given extends Kinds> = {
  readonly [Name in keyof Given]: Given[Name] extends 'flag' ? boolean : string | null;
};

/** Reads `--name value` and `--flag`; anything else is refused with the usage. */
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
        Object.entries(kinds).map(([name, kind]) => [name, { type: kind === 'flag' ? 'boolean' : 'string' }] as const),
      ),
    });
    const options = Object.fromEntries(
      Object.entries(kinds).map(([name, kind]) => [name, values[name] ?? (kind === 'flag' ? false : null)]),
    );
    return { options: options as Options<Given>, rest: positionals };
  } catch (error) {
    throw new CannotRun(`${messageOf(error)}\n\n${usage}`);
  }
}
