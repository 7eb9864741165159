import pg from 'pg';
import { signIn } from '../testing/calls.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { prepareServerRole } from './server-role.js';

const own = ownServer('server_role');
let client: pg.Client;
let base: string;
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  await signIn('viewer', base, ownPassword);
  client = new pg.Client({ connectionString: own.serverDatabaseUrl });
  await client.connect();
});
afterAll(async () => {
  await client.end();
  await own.remove();
});

describe('the database role of the running server', () => {
  it.each([
    "update audit set actor = 'somebody else'",
    'delete from audit',
    'truncate audit',
    'delete from facts',
    'delete from facts_of_other_months',
    'drop table facts_of_other_months',
    'insert into kept_facts select * from facts',
    "select make_parts('facts', 'month', now(), now() + interval '90 years')",
    "update facts set source = 'reckoned'",
    'delete from trust_history',
    'alter table audit disable trigger audit_append_only',
    'drop trigger audit_append_only on audit',
    'drop table audit',
    'alter table audit owner to current_user',
    'create or replace function refuse_change() returns trigger language plpgsql as $$ begin return null; end $$',
    "set session_replication_role = 'replica'",
    "select setval('audit_sequence_seq', 1)",
    'alter role current_user superuser',
    'create table public.another (id integer)',
    "copy audit to program 'cat'",
  ])('may not: %s', async (statement) => {
    await expect(client.query(statement)).rejects.toMatchObject({ code: expect.stringMatching(/^42501$/) });
  });

  it('lets no facts go that are of today, whatever moment it names', async () => {
    const facts = () => own.read<{ facts: string }>('select count(*) as facts from facts');
    const before = await facts();
    await client.query("select forget_facts(now() + interval '10 years'), forget_events(now() + interval '10 years')");
    expect(await facts()).toEqual(before);
    await client.query('select make_parts_ahead()');
  });

  it('gives itself nothing', async () => {
    // What it has not it can’t give, not even to itself.
    await client.query('grant update on audit to current_user');
    await expect(client.query("update audit set actor = 'x'")).rejects.toMatchObject({ code: '42501' });
  });

  it('lets old checks go, and appends to the trail', async () => {
    expect((await client.query("select forget_checks('2020-01-01', 10) as gone")).rows).toEqual([{ gone: 0 }]);
    const rows = await own.read<{ actor: string }>("select actor from audit where action = 'signed in'");
    expect(rows.map(({ actor }) => actor)).toContain('viewer');
  });

  it('is prepared again without harm, and gets the password that it is given', async () => {
    const { password } = new URL(own.serverDatabaseUrl);
    await prepareServerRole(own.databaseUrl, password);
    await signIn('engineer', base, ownPassword);
  });

  it('does not start on tables of another version, and says what to do', async () => {
    await own.read("insert into drizzle.__drizzle_migrations (hash, created_at) values ('of tomorrow', 1)");
    await expect(own.serve()).rejects.toThrow(/a newer version.*prepare-database/s);
    await own.read("delete from drizzle.__drizzle_migrations where hash = 'of tomorrow'");
  });
});
