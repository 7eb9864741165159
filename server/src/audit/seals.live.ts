import { execFile } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import type { Caller } from '../testing/calls.js';
import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('seals');
let engineer: Caller;
let base: string;
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  engineer = await signIn('engineer', base, ownPassword);
});
afterAll(() => own.remove());

const verified = () => engineer.call('verifyAudit', {}, {});
/** Waits until the newest row is sealed. */
const sealed = () =>
  until(verified, ({ isWhole, sealed: head, rows }) => isWhole && head !== null && head.upTo > 0 && rows > 0);

/** What somebody does who has the database to themselves, and afterwards puts it back as it was. */
async function asOwner(statements: readonly string[], look: () => Promise<void>): Promise<void> {
  const client = new pg.Client({ connectionString: own.databaseUrl });
  await client.connect();
  try {
    await client.query('create table kept as select * from audit');
    await client.query('alter table audit disable trigger audit_append_only');
    for (const statement of statements) await client.query(statement);
    await look();
    await client.query('delete from audit');
    await client.query('insert into audit select * from kept');
    await client.query('drop table kept');
    await client.query('alter table audit enable trigger audit_append_only');
  } finally {
    await client.end();
  }
}

describe('the sealed trail', () => {
  it('is whole as it is written, and sealed within moments', async () => {
    const before = (await sealed()).sealed?.upTo ?? 0;
    await signIn('viewer', base, ownPassword);
    const after = await until(verified, ({ sealed: head }) => (head?.upTo ?? 0) > before);
    expect(after).toMatchObject({ isWhole: true, faults: [] });
  });

  it('tells where its end was taken away, also with the seals of the database', async () => {
    await sealed();
    const cut = 'delete from audit where sequence > (select max(sequence) - 1 from audit)';
    await asOwner([cut], async () => {
      expect((await verified()).faults).toEqual([expect.stringContaining('Its end is missing')]);
    });
    await asOwner([cut, 'create table seals as select * from audit_seals', 'delete from audit_seals'], async () => {
      expect((await verified()).faults).toEqual([expect.stringContaining('Its end is missing')]);
    });
    await own.read('insert into audit_seals select * from seals');
    await sealed();
  });

  it('tells where it was written again with a chain that fits', async () => {
    await sealed();
    const anew = `
      do $$ declare row audit%rowtype; previous text := repeat('0', 64); begin
        for row in select * from audit order by sequence loop
          previous := encode(sha256(convert_to(row.sequence || previous, 'UTF8')), 'hex');
          update audit set hash = previous where sequence = row.sequence;
        end loop; end $$`;
    await asOwner([anew], async () => {
      expect((await verified()).faults).toContainEqual(expect.stringContaining('It was rewritten'));
    });
  });

  it('leaves a line a day in a file, by which a copy elsewhere is compared', async () => {
    await sealed();
    const anchors = join(own.folder, 'audit-anchors.jsonl');
    await until(
      () => Promise.resolve(existsSync(anchors)),
      (isThere) => isThere,
    );
    const lines = readFileSync(anchors, 'utf8').trim().split('\n');
    expect(lines).toHaveLength(1);
    const elsewhere = join(own.folder, 'elsewhere.jsonl');
    const anchor = JSON.parse(lines[0] ?? '') as { hash: string };
    writeFileSync(elsewhere, `${JSON.stringify({ ...anchor, hash: anchor.hash.replace(/./g, '0') })}\n`);
    const verify = (...args: string[]) =>
      new Promise<string>((resolve) =>
        execFile(
          process.execPath,
          ['server/dist/setup/verify.js', ...args],
          { env: { ...process.env, HINGE_DATABASE_URL: own.databaseUrl, HINGE_DATA: own.folder } },
          (error, out) => resolve(`${error?.code ?? 0} ${out}`),
        ),
      );
    expect(await verify()).toMatch(/^0 The audit trail is whole: \d+ rows\.\nIt is sealed up to row/);
    expect(await verify(elsewhere)).toMatch(
      /^1 .*was changed after it was written.\n1 seal was not made by Loyal Hinge/,
    );
  });
});

describe('the rows of the trail', () => {
  it('are found by who, what, when and any words, a page at a time', async () => {
    for (let index = 0; index < 3; index += 1) await signIn('approver', base, ownPassword);
    const { entries, actors, actions } = await engineer.query('audit', { actor: 'approver', action: 'signed in' });
    expect(entries.length).toBeGreaterThanOrEqual(3);
    expect(new Set(entries.map(({ actor, action }) => `${actor} ${action}`))).toEqual(new Set(['approver signed in']));
    expect([actors, actions]).toEqual([expect.arrayContaining(['approver']), expect.arrayContaining(['signed in'])]);
    const { entries: none } = await engineer.query('audit', { find: '100%_of nothing' });
    expect(none).toEqual([]);
    const today = new Date().toISOString().slice(0, 10);
    expect((await engineer.query('audit', { from: today, to: today })).entries.length).toBeGreaterThan(0);
    expect((await engineer.query('audit', { to: '2020-01-01' })).entries).toEqual([]);
    const [, second] = entries;
    const rest = await engineer.query('audit', { actor: 'approver', before: String(second?.sequence) });
    expect(rest.entries.every(({ sequence }) => sequence < (second?.sequence ?? 0))).toBe(true);
  });

  it('are saved as CSV in which nothing is a formula', async () => {
    await fetch(`${base}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: '=HYPERLINK("x")', password: 'wrong' }),
    });
    const answer = await fetch(`${base}/api/audit.csv?action=sign-in%20refused`, { headers: engineer.headers });
    expect(answer.headers.get('content-type')).toContain('text/csv');
    const csv = await answer.text();
    expect(csv).toContain(`"'=HYPERLINK(""x"")"`);
    expect(csv.split('\r\n')[0]).toBe('number,at (UTC),who,what,about,details,hash');
  });
});
