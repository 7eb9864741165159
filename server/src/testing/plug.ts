import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { given } from './given.js';

const { port } = new URL(given('HINGE_TEST_DATABASE_URL'));

/** Stops the database that all tests share as a failing machine would, or starts it again. */
export const plug = (action: 'halt' | 'start') =>
  promisify(execFile)(process.execPath, [
    join(process.cwd(), 'scripts/database.mjs'),
    action,
    given('HINGE_TEST_DATA'),
    port,
  ]);
