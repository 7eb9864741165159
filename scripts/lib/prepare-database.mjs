import { setupScript } from './places.mjs';
import { runOwn } from './run.mjs';

/** Brings the tables of a database up to date as their owner, and gives the running server its own role on them. */
export const prepareDatabase = ({ url, serverUrl }, name = 'postgres') =>
  runOwn(setupScript('prepare-database'), [], {
    env: { HINGE_DATABASE_URL: Object.assign(new URL(url), { pathname: name }).href },
    input: new URL(serverUrl).password,
  });
