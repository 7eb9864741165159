import type { ShownProblem } from './problem';

/** What a place has asked the server to do: which commands are under way, and what the last one met. */
export interface Commands<Does extends string> {
  /** One that was asked for twice stands there twice. */
  readonly running: readonly Does[];
  readonly problem: ShownProblem | null;
  /** How many were carried out: whoever waits for one sees it grow. */
  readonly done: number;
}

export const noCommands: Commands<never> = { running: [], problem: null, done: 0 };

export const begun = <Does extends string>(commands: Commands<Does>, does: Does): Commands<Does> => ({
  ...commands,
  running: [...commands.running, does],
  problem: null,
});

/** @param problem why it could not be carried out; null: it was */
export function ended<Does extends string>(
  { running, done }: Commands<Does>,
  does: Does,
  problem: ShownProblem | null = null,
): Commands<Does> {
  const place = running.indexOf(does);
  return {
    running: running.filter((_, index) => index !== place),
    problem,
    done: problem === null ? done + 1 : done,
  };
}
