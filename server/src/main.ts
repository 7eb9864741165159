import { pino } from 'pino';
import { readConfiguration } from './configuration.js';
import { startServer } from './start-server.js';

const configuration = readConfiguration(process.env);
const logger = pino({ level: configuration.logLevel });
const server = await startServer(configuration, logger);
logger.info({ url: server.url }, 'serving');
process.send?.({ ready: true, url: server.url });

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  await server.stop();
  process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
process.on('disconnect', () => void stop());
// A dropped connection deep inside the UA library must not take the server down; it is logged and shows in the check.
process.on('unhandledRejection', (reason) =>
  logger.error({ reason: String(reason) }, 'a call was left without an answer'),
);
