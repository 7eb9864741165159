import type { Database } from '../database/database.js';

/** What is too heavy for the thread that answers everybody: each takes and gives plain values, and works on the database alone. */
export type Jobs = Readonly<Record<string, (db: Database, input: never, note: Note) => Promise<unknown>>>;
/** A job that goes on for long says how far it is: one that says nothing for two minutes is ended. */
export type Note = (progress: number) => void;

type NameIn<Some extends Jobs> = keyof Some & string;
type InputOf<Some extends Jobs, Name extends NameIn<Some>> = Parameters<Some[Name]>[1];
type ResultOf<Some extends Jobs, Name extends NameIn<Some>> = Awaited<ReturnType<Some[Name]>>;

export interface RunMore {
  readonly isBegun?: boolean;
  readonly noted?: Note;
}

/** Runs some jobs in workers: what a capability sees of all the heavy work. */
export interface Runs<Some extends Jobs> {
  /**
   * @param signal ends it for the one who asked. Without one it is a part of something that was begun already, and is
   * never refused because others wait.
   * @param more whether it is such a part although it can be ended, and who is told how far it is
   */
  run<Name extends NameIn<Some>>(
    name: Name,
    input: InputOf<Some, Name>,
    signal?: AbortSignal,
    more?: RunMore,
  ): Promise<ResultOf<Some, Name>>;
}
