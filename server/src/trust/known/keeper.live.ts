import pg from 'pg';
import { pino } from 'pino';
import { connectDatabase } from '../../database/database.js';
import type { OpenDatabase } from '../../database/database.js';
import { signIn } from '../../testing/calls.js';
import { ownPassword, ownServer } from '../../testing/own-server.js';
import { TrustKeeper } from './keeper.js';
import type { KnownTrust } from './known-trust.js';

const own = ownServer('keeper');
let database: OpenDatabase;
let client: pg.Client;
let engineer: Awaited<ReturnType<typeof signIn>>;

beforeAll(async () => {
  await own.setUp();
  engineer = await signIn('engineer', (await own.serve()).url, ownPassword);
  database = connectDatabase(own.databaseUrl, pino({ level: 'silent' }), 4);
  client = new pg.Client({ connectionString: own.databaseUrl });
  await client.connect();
});
afterAll(async () => {
  await client.end();
  await database.close();
  await own.remove();
});

/** What is known, without the moment at which it was asked for. */
const plain = ({ trust, applications, shelf, readings, ways, places }: KnownTrust) => ({
  parties: trust.parties.map(({ lists, certificate, ...party }) => ({
    ...party,
    certificate: certificate?.thumbprint ?? null,
    lists: lists && {
      trusted: lists.trusted.map(({ thumbprint }) => thumbprint).sort(),
      rejected: lists.rejected.map(({ thumbprint }) => thumbprint).sort(),
      crls: [...lists.trustedCrls, ...lists.issuerCrls].map(({ id }) => id).sort(),
    },
  })),
  links: [...trust.links].sort((left, right) => left.linkId.localeCompare(right.linkId)),
  crlsDemanded: trust.crlsDemanded,
  applications: [...applications].sort(),
  certificates: [...shelf.certificates.keys()].sort(),
  crls: shelf.crls.map(({ id }) => id).sort(),
  readings: [...readings].sort(),
  ways: [...ways].sort(),
  zones: places.zones,
});
const afresh = async () => plain(await new TrustKeeper(database.db).now());
const partyOf = ({ trust }: KnownTrust, id: string) => trust.parties.find(({ applicationId }) => applicationId === id);

describe('what is known of trust, kept in memory', () => {
  it('is the same as when it is read afresh, whatever was changed', async () => {
    const keeper = new TrustKeeper(database.db);
    const before = plain(await keeper.now());
    const { trusted } = partyOf(await keeper.now(), 'line-display-client')?.lists ?? { trusted: [] };
    const { link } = await engineer.call('link', { linkId: 'energy--furnace' });
    const zone = { id: 'attic', name: 'Attic', order: 9 };
    const changes: (() => Promise<unknown>)[] = [
      () =>
        client.query('delete from trust_entries where application_id = $1 and thumbprint = $2', [
          'line-display-client',
          trusted[0]?.thumbprint,
        ]),
      () => engineer.call('putLink', { id: 'another' }, { ...link, id: 'another', name: 'Another' }),
      () => engineer.call('removeLink', { id: 'another' }),
      () => engineer.call('putZone', { id: 'attic' }, zone),
      () => client.query("update trust_ways set restarts = not restarts where application_id = 'furnace-server'"),
      () => client.query("update settings set value = 'true' where key = 'crlsDemanded'"),
      () => client.query("update applications set name = 'Furnace' where id = 'furnace-server'"),
      () => client.query('delete from trust_ways'),
    ];
    for (const change of changes) {
      await change();
      expect(plain(await keeper.now())).toEqual(await afresh());
    }
    expect(plain(await keeper.now())).not.toEqual(before);
  });

  it('stays the same object where nothing of it has changed', async () => {
    const keeper = new TrustKeeper(database.db);
    const first = await keeper.now();
    expect((await keeper.now()).trust.parties).toBe(first.trust.parties);
    await client.query("update trust_readings set tried_at = now() where application_id = 'lehr-server'");
    await client.query("update applications set name = 'Tin bath' where id = 'tin-bath-server'");
    const second = await keeper.now();
    expect(partyOf(second, 'lehr-server')).toBe(partyOf(first, 'lehr-server'));
    expect(partyOf(second, 'tin-bath-server')).not.toBe(partyOf(first, 'tin-bath-server'));
  });

  it('misses nothing that is committed late', async () => {
    const keeper = new TrustKeeper(database.db);
    await keeper.now();
    const late = new pg.Client({ connectionString: own.databaseUrl });
    await late.connect();
    await late.query('begin');
    await late.query("update applications set name = 'Late' where id = 'stacker-server'");
    // One that began afterwards, and is over before.
    await client.query("update applications set name = 'Early' where id = 'cutter-server'");
    const between = await keeper.now();
    expect([partyOf(between, 'cutter-server')?.name, partyOf(between, 'stacker-server')?.name]).toEqual([
      'Early',
      'Stacker server',
    ]);
    await late.query('commit');
    await late.end();
    expect(partyOf(await keeper.now(), 'stacker-server')?.name).toBe('Late');
  });

  it('lets nobody who changes something wait for another who changes something else of the same application', async () => {
    const [one, other] = [own.databaseUrl, own.databaseUrl].map(
      (connectionString) => new pg.Client({ connectionString }),
    );
    if (!one || !other) throw new Error('there are two');
    await Promise.all([one.connect(), other.connect()]);
    try {
      await Promise.all([one.query('begin'), other.query("begin; set local lock_timeout = '1s'")]);
      await one.query("update applications set name = 'One' where id = 'furnace-server'");
      await other.query(
        "insert into trust_ways (application_id, way, restarts) values ('furnace-server', 'files', false)",
      );
      await other.query('commit');
      await one.query('commit');
    } finally {
      await Promise.all([one.end(), other.end()]);
    }
  });

  it('misses nothing where what was noted twice is cleared away', async () => {
    const keeper = new TrustKeeper(database.db);
    await keeper.now();
    for (const name of ['First', 'Second'])
      await client.query('update applications set name = $1 where id = $2', [name, 'crane-server']);
    await client.query('select settle_trust_versions()');
    const { rows } = await client.query(
      "select from trust_versions where part = 'application' and id = 'crane-server'",
    );
    expect(rows).toHaveLength(1);
    expect(partyOf(await keeper.now(), 'crane-server')?.name).toBe('Second');
  });

  it('is read again as a whole after a change of very much', async () => {
    const keeper = new TrustKeeper(database.db);
    await keeper.now();
    await client.query(`insert into links select 'many-' || n, name, client_id, server_id, endpoint_url, pinned_address,
      chosen_endpoint, needs, identity, floor, stale_after_ms, kind from links, generate_series(1, 2500) n
      where id = (select min(id) from links)`);
    const { rows } = await client.query("select 1 from trust_versions where part = 'plant' and id = ''");
    expect(rows.length).toBeGreaterThan(0);
    expect(plain(await keeper.now())).toEqual(await afresh());
  });
});
