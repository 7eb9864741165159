import pg from 'pg';
import { given } from '../testing/given.js';

let client: pg.Client;
beforeAll(async () => {
  client = new pg.Client({ connectionString: given('HINGE_TEST_DATABASE_URL') });
  await client.connect();
});
afterAll(() => client.end());

describe('the tables', () => {
  it('have an index for every foreign key: whatever it leads to is removed without reading all', async () => {
    const { rows } = await client.query<{ table: string; columns: string }>(`
      select c.conrelid::regclass::text as table, array_to_string(c.conkey, ' ') as columns from pg_constraint c
      where c.contype = 'f' and c.connamespace = 'public'::regnamespace and not exists (
        select 1 from pg_index i where i.indrelid = c.conrelid and i.indpred is null
          and (string_to_array(i.indkey::text, ' ')::int2[])[1:cardinality(c.conkey)] = c.conkey)`);
    expect(rows).toEqual([]);
  });

  it('have foreign keys at all', async () => {
    const { rows } = await client.query(
      "select 1 from pg_constraint where contype = 'f' and connamespace = 'public'::regnamespace",
    );
    expect(rows.length).toBeGreaterThan(15);
  });
});
