import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { root } from '../lib/places.mjs';
import { writeCapture } from './made-capture.mjs';
import { writeLog } from './made-log.mjs';

const hinge = join(root, 'cli/bin/hinge.mjs');
/** No thread beside it helps. */
const onOneCore = ['taskset', '-c', '0'];
const gigabyte = 1 << 30;
const rounds = 3;
const lines = 1_000_000;
/** What both programs are asked for: who talks with whom, how much, and which messages of UA. */
const fields = [
  'ip.src',
  'tcp.srcport',
  'ip.dst',
  'tcp.dstport',
  'tcp.len',
  'opcua.transport.type',
  'opcua.servicenodeid.numeric',
];

/** A million lines of logs, and a capture of a gigabyte: against the disk alone, and against the general network analyser where it is installed. */
export async function recorded(say) {
  const folder = mkdtempSync(join(tmpdir(), 'hinge-bench-capture-'));
  try {
    const file = join(folder, 'made.pcap');
    const conversations = writeCapture(file, gigabyte);
    const megabytes = statSync(file).size / 1024 / 1024;
    say(
      `\nA capture of ${Math.round(megabytes)} MB, ${conversations} conversations, read on one core (medians of ${rounds}):`,
    );
    const disk = [];
    for (let round = 0; round < rounds; round += 1)
      disk.push((await run(['dd', `if=${file}`, 'of=/dev/null', 'bs=1M', 'iflag=direct'])).ms);
    const alone = median(disk);
    const own = [];
    for (let round = 0; round < rounds; round += 1)
      own.push(await run([...onOneCore, process.execPath, hinge, 'capture', 'read', file, '--json']));
    const ms = median(own.map((one) => one.ms));
    const memory = Math.max(...own.map((one) => one.megabytes));
    say(`  the disk alone  ${Math.round(alone)} ms, ${Math.round(megabytes / (alone / 1000))} MB/s`);
    say(
      `  conversations   ${Math.round(ms)} ms, ${Math.round(megabytes / (ms / 1000))} MB/s: ${(ms / alone).toFixed(1)} times; at most ${Math.round(memory)} MB of memory`,
    );
    const other = await run(['tshark', '-r', file, '-T', 'fields', ...fields.flatMap((field) => ['-e', field])]).catch(
      () => null,
    );
    say(
      other
        ? `  the analyser    ${Math.round(other.ms)} ms, ${(other.ms / ms).toFixed(1)} times as long, for the same fields`
        : '  the general network analyser (tshark) is not installed: no comparison',
    );
    const log = join(folder, 'made.log');
    writeLog(log, lines);
    const logs = [];
    for (let round = 0; round < rounds; round += 1)
      logs.push(await run([process.execPath, hinge, 'log', 'read', log, '--json']));
    say(
      `\nA log of ${lines} lines, of firewalls, JSON and plain (medians of ${rounds}):\n  events          ${Math.round(median(logs.map((one) => one.ms)))} ms; at most ${Math.round(Math.max(...logs.map((one) => one.megabytes)))} MB of memory`,
    );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const median = (values) => [...values].sort((one, other) => one - other)[Math.floor(values.length / 2)];

/** How long a program takes, and its memory at most, as the kernel says. */
function run([program, ...args]) {
  return new Promise((resolve, reject) => {
    const begun = performance.now();
    const child = spawn(program, args, { stdio: ['ignore', 'ignore', 'ignore'] });
    let megabytes = 0;
    const look = setInterval(() => (megabytes = Math.max(megabytes, memoryOf(child.pid))), 50);
    child.once('error', (error) => {
      clearInterval(look);
      reject(error);
    });
    child.once('exit', (code) => {
      clearInterval(look);
      if (code !== 0) reject(new Error(`${program} ended with ${code}`));
      else resolve({ ms: performance.now() - begun, megabytes });
    });
  });
}

function memoryOf(pid) {
  try {
    return Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
  } catch {
    return 0;
  }
}
