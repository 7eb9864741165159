import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { command } from './lib/command.mjs';
import { pidFile } from './lib/demo-outposts.mjs';
import { root } from './lib/places.mjs';
import { say } from './lib/say.mjs';

const usual = 30;
const longest = 3_600;
const end = 'furnace-tunnel-dials';

/** Cuts the demo’s line between office and furnace for some seconds: one end of the tunnel is halted, and neither side is told. */
await command(async ({ add }) => {
  const seconds = Number(process.argv[2] ?? usual);
  if (!(seconds >= 1 && seconds <= longest)) throw new Error(`Give a number of seconds from 1 to ${longest}.`);
  const pid = pidOf();
  const resume = () => process.kill(pid, 'SIGCONT');
  process.kill(pid, 'SIGSTOP');
  add(resume);
  say(`The line between office and furnace is cut for ${seconds} s. Look at Passage, Gateways. Ctrl-C joins it again.`);
  await new Promise((done) => setTimeout(done, seconds * 1000));
  resume();
  say('The line is joined again.');
  process.exit(0);
});

function pidOf() {
  try {
    const pid = Number(readFileSync(join(root, '.data', 'demo', 'outposts', end, pidFile), 'utf8'));
    process.kill(pid, 0);
    return pid;
  } catch {
    throw new Error('The demo’s tunnel does not run. Start the demo first: npm run demo');
  }
}
