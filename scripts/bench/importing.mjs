import { mkdtempSync, openSync, closeSync, readSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { run } from '../lib/run.mjs';
import { signedIn } from './signed-in.mjs';

const lines = 300_000;
const rounds = 3;
const partBytes = 3 << 20;
const columns = 'evidence_id, brought_at, started_at, has_failed, body';

/** What it takes to bring a log in, until its rows are in the database: against PostgreSQL’s own \\copy of the same rows into the same kind of table. */
export async function importing(say, { url }, cluster, postgres, signIn) {
  const folder = mkdtempSync(join(tmpdir(), 'hinge-bench-import-'));
  const psql = (command) =>
    run(join(postgres, 'psql'), ['-qAt', '-v', 'ON_ERROR_STOP=1', '-d', cluster.url, '-c', command], { quiet: true });
  const headers = await signedIn(url, signIn);
  try {
    const own = [];
    const copied = [];
    for (let round = 0; round < rounds; round += 1) {
      const file = join(folder, `door-${round}.log`);
      writeDrops(file, round);
      own.push(await bring(url, headers, file, `door-${round}.log`, psql));
      const rows = join(folder, 'rows');
      await psql(`\\copy (select ${columns} from attempts order by id desc limit ${lines}) to '${rows}'`);
      await psql('create table copied (like attempts including all)');
      await psql('alter table copied add foreign key (evidence_id) references evidence (id)');
      const begun = performance.now();
      await psql(`\\copy copied (${columns}) from '${rows}'`);
      copied.push(performance.now() - begun);
      await psql('drop table copied');
    }
    const [mine, plain] = [median(own), median(copied)];
    say(`
A log of ${lines} lines of firewalls, an attempt each (medians of ${rounds}):
  brought, read and written  ${Math.round(mine)} ms
  \\copy of the same rows     ${Math.round(plain)} ms: ${(mine / plain).toFixed(1)} times`);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const median = (values) => [...values].sort((one, other) => one - other)[Math.floor(values.length / 2)];
const pad = (number) => String(number).padStart(2, '0');

function writeDrops(file, round) {
  const text = Array.from({ length: lines }, (_, index) => {
    const second = index % 86_400;
    const time = `${pad(Math.floor(second / 3600))}:${pad(Math.floor(second / 60) % 60)}:${pad(second % 60)}`;
    return `2026-11-2${round}T${time}Z door-1 kernel: OPC-DROP IN=eth0 OUT=eth1 SRC=10.2.${(index >> 8) % 250}.${index % 250} DST=10.3.0.40 PROTO=TCP SPT=${1024 + (index % 60_000)} DPT=4840 SYN`;
  });
  writeFileSync(file, `${text.join('\n')}\n`);
}

/** @returns milliseconds from the first part to the last row */
async function bring(url, headers, path, name, psql) {
  const send = async (method, place, body) => {
    const answer = await fetch(`${url}/api/casebook${place}`, { method, headers, body: body && JSON.stringify(body) });
    if (!answer.ok) throw new Error(await answer.text());
    return answer.json();
  };
  const bytes = statSync(path).size;
  const begun = performance.now();
  const { evidenceId } = await send('POST', '/evidence', { name, bytes });
  const file = openSync(path, 'r');
  const part = Buffer.alloc(partBytes);
  for (let from = 0; from < bytes;) {
    const content = part.subarray(0, readSync(file, part, 0, partBytes, from)).toString('base64');
    ({ received: from } = await send('PUT', `/evidence/${evidenceId}/parts`, { from, content }));
  }
  closeSync(file);
  /* Asked of the database: the casebook would make its cases anew each time. */
  for (;;) {
    const state = (await psql(`select state from evidence where id = '${evidenceId}'`)).trim();
    if (state === 'read') return performance.now() - begun;
    if (state === 'refused') throw new Error('the log was refused');
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}
