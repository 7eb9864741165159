import { readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { readConfiguration, startGateway } from '../../gateway/dist/index.js';

/** A gateway as a process of its own, which tells its measurer what it has heard: run by `gateway.mjs`, for measurements alone. */
const [file] = process.argv.slice(2);
const read = readConfiguration(readFileSync(file, 'utf8'));
if (!read.ok) throw new Error(read.says);
const { gateway, stop } = await startGateway(read.value, dirname(file), () => undefined);

process.on('message', (asked) => {
  if (asked === 'stop') return void stop().then(() => process.exit(0));
  const { sources } = gateway.statistics;
  const { total, items } = gateway.itemsShown('', 0, 100_000);
  process.send({
    there: sources.filter(({ state }) => state === 'there').length,
    items: total,
    changes: sources.reduce((sum, { changes }) => sum + changes, 0),
    // Each counter goes up by one: together they say how many changes there were.
    counted: items.reduce((sum, { shown }) => sum + (Number(shown.value) || 0), 0),
    residentMb: process.memoryUsage().rss / 1e6,
  });
});
process.on('disconnect', () => process.exit(0));
