import { keepRunning } from './keep-running.mjs';
import { startHinge, watchAnswers } from './serve.mjs';

/** Ports looked for anew at the first start, where others that start beside it take them first. */
const portRaces = 10;

/**
 * Starts the database and then the server, and keeps both running: what dies is started again.
 * A database that comes back on another port takes the server along to it.
 * @param parts.startDatabase starts it, on the given port where there is one
 * @param parts.environmentOf the server’s environment, by the URL of the database as the server’s own role
 * @param parts.atFirst what the server’s environment has besides, at its first start alone
 * @param parts.beforeServer what is to be done once the database runs
 * @param parts.port the server’s port
 * @param parts.nextPort says which one instead, where another program took it meanwhile
 */
export async function keepAll(parts) {
  const {
    startDatabase,
    environmentOf,
    atFirst = {},
    beforeServer,
    nextPort,
    dataFolder,
    log,
    add,
    isStopping,
  } = parts;
  let { port } = parts;
  let known = null;
  let server = null;
  const database = await keepRunning(
    'The database',
    async () => {
      const started = await startDatabase(known?.port).catch(() => startDatabase(undefined));
      if (known && started.url !== known.url) void server?.stop();
      return (known = started);
    },
    { log, isStopping },
  );
  add(() => database.stop());
  await beforeServer(environmentOf(known.serverUrl), known);
  const startServer = async () => {
    for (let race = 0; ; race += 1)
      try {
        return await startHinge({ ...environmentOf(known.serverUrl), ...(server ? {} : atFirst) }, dataFolder, port);
      } catch (error) {
        if (server || !error.portTaken || race === portRaces) throw error;
        port = await nextPort();
      }
  };
  server = await keepRunning('The server', startServer, { log, isStopping });
  add(() => server.stop());
  add(watchAnswers(() => server.now(), dataFolder, log));
  return server.now();
}
