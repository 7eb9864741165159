import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import { given } from '../testing/given.js';
import { connectDatabase } from './database.js';

/** Its only connection: one that is kept by a mishap is missed at once. */
const openOne = () => connectDatabase(given('HINGE_TEST_DATABASE_URL'), pino({ level: 'silent' }), 1);

describe('the connections of a database', () => {
  it('are given back where a transaction cannot even begin', async () => {
    const { db, isUp, close } = openOne();
    try {
      const begin = db.transaction(() => Promise.resolve('done'), {
        isolationLevel: 'no such level' as 'serializable',
      });
      await expect(begin).rejects.toThrow(/begin/);
      expect(await isUp()).toBe(true);
      expect(await db.transaction((tx) => tx.execute(sql`select 1`).then(() => 'done'))).toBe('done');
    } finally {
      await close();
    }
  });

  it('are given back where one breaks in the middle of a transaction', async () => {
    const { db, isUp, close } = openOne();
    try {
      const cut = db.transaction((tx) => tx.execute(sql`select pg_terminate_backend(pg_backend_pid())`));
      await expect(cut).rejects.toThrow();
      expect(await isUp()).toBe(true);
    } finally {
      await close();
    }
  });
});
