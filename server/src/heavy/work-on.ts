import { parentPort, workerData } from 'node:worker_threads';
import { pino } from 'pino';
import { connectDatabase } from '../database/database.js';
import type { Database } from '../database/database.js';
import { isDatabaseAway } from '../database/faults.js';
import { ProblemError } from '../http/problems.js';
import type { Jobs, Note } from './jobs.js';
import type { Asked, Failed, Told } from './messages.js';

/** What a worker does all its life: the jobs that it is asked for, each by its name. */
export function workOn(jobs: Jobs): void {
  const { databaseUrl } = workerData as { readonly databaseUrl: string };
  const { db } = connectDatabase(databaseUrl, pino({ level: 'silent' }), 3);
  parentPort?.on('message', ({ id, name, input }: Asked) => {
    const run = jobs[name] as (db: Database, input: unknown, note: Note) => Promise<unknown>;
    // A job may throw before it has promised anything.
    const result = Promise.resolve().then(() => run(db, input, (progress) => tell({ id, progress })));
    result.then(
      (given) => tell({ id, ok: true, result: given }),
      (error: unknown) => tell({ id, ok: false, ...faultOf(error) }),
    );
  });
}

const tell = (told: Told): void => parentPort?.postMessage(told);

/** Errors don’t cross threads as they are: problems keep their words, others their message and code. */
function faultOf(error: unknown): Omit<Failed, 'id' | 'ok'> {
  if (error instanceof ProblemError) return { problem: error.problem, message: error.message, codes: [] };
  /* What a database that went away makes fail has often no code of its own (08006, connection failure). */
  const codes: string[] = isDatabaseAway(error) ? ['08006'] : [];
  for (let current: unknown = error; current instanceof Error; current = current.cause)
    if ('code' in current) codes.push(String(current.code));
  return { problem: null, message: error instanceof Error ? error.message : String(error), codes };
}
