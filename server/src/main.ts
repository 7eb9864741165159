import { readConfiguration } from './setup/configuration.js';
import { openLog } from './system/logging.js';
import { startServer } from './start-server.js';
import { isPortTaken, whyNot } from './setup/why-not.js';

const logger = openLog(process.env['HINGE_LOG'] ?? 'info');
// A dropped connection deep inside the UA library must not take the server down; it is logged and shows in the check.
process.on('unhandledRejection', (reason) =>
  logger.error({ reason: String(reason) }, 'a call was left without an answer'),
);

try {
  const server = await startServer(readConfiguration(process.env), logger);
  logger.info({ url: server.url }, 'serving');
  process.send?.({ ready: true, url: server.url });
  let stopping = false;
  const stop = async (): Promise<void> => {
    if (stopping) return;
    stopping = true;
    await server.stop();
    process.exit(0);
  };
  for (const event of ['SIGINT', 'SIGTERM', 'disconnect']) process.on(event, () => void stop());
} catch (error) {
  logger.fatal({ err: error }, 'not started');
  // Whoever started this process shows the sentence; the log has the rest.
  const end = (): never => process.exit(1);
  if (process.send) process.send({ failed: whyNot(error), portTaken: isPortTaken(error) }, end);
  else end();
}
