import './skip-key-test.js';
import { join, resolve } from 'node:path';
import { writeHandover } from './handover.js';
import { startPlant } from './start-plant.js';

const folder = resolve(process.argv[2] ?? '.data/stand-ins');

const plant = await startPlant(folder);
await writeHandover(join(folder, 'handover.json'), plant.handover);
const ready = { ready: true, servers: plant.servers.length };
if (process.send) process.send(ready);
else console.log(JSON.stringify(ready));

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  await plant.stop();
  process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
process.on('disconnect', () => void stop());
