import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import { openDatabase } from '../database/database.js';
import type { OpenDatabase } from '../database/database.js';
import { given } from '../testing/given.js';
import { appendAudit, newestAudit, verifyAudit } from './trail.js';

let database: OpenDatabase;
beforeAll(async () => {
  database = await openDatabase(given('HINGE_TEST_DATABASE_URL'), pino({ level: 'silent' }));
});
afterAll(() => database.close());

describe('the audit trail', () => {
  it('is one whole chain, also where many write at once', async () => {
    const write = (index: number) =>
      database.db.transaction((tx) =>
        appendAudit(tx, {
          actor: 'test',
          action: 'written at once',
          subject: String(index),
          details: { b: 1, a: [index] },
        }),
      );
    await Promise.all(Array.from({ length: 12 }, (_, index) => write(index)));
    const { rows, breaks } = await verifyAudit(database.db);
    expect(breaks).toEqual([]);
    expect(rows).toBeGreaterThanOrEqual(12);
  });

  it('can’t be changed or shortened', async () => {
    const refused = (statement: ReturnType<typeof sql>) =>
      expect(database.db.execute(statement)).rejects.toMatchObject({
        cause: { message: expect.stringContaining('append-only') as string },
      });
    await refused(sql`update audit set actor = 'somebody else'`);
    await refused(sql`delete from audit`);
    await refused(sql`update facts set source = 'tried'`);
    await refused(sql`truncate facts`);
  });

  it('stays whole whatever stands in the words of others', async () => {
    const odd = 'a\u0000b\ud800c \udfff😀';
    const details = { [odd]: [odd, { inner: odd }], left: undefined, big: 1e21, small: -0 };
    await database.db.transaction((tx) => appendAudit(tx, { actor: odd, action: 'odd words', subject: odd, details }));
    expect((await verifyAudit(database.db)).breaks).toEqual([]);
    const [row] = await newestAudit(database.db, { subject: 'a\ufffdb\ufffdc \ufffd😀' });
    expect(row).toMatchObject({ actor: 'a\ufffdb\ufffdc \ufffd😀', action: 'odd words' });
  });

  it('shows every place where somebody got round that', async () => {
    await database.db
      .transaction(async (tx) => {
        for (const action of ['forged', 'honest', 'forged', 'honest'])
          await appendAudit(tx, { actor: 'test', action, subject: 'x', details: {} });
        await tx.execute(sql`alter table audit disable trigger audit_append_only`);
        await tx.execute(sql`update audit set actor = 'forger' where action = 'forged'`);
        expect((await verifyAudit(tx)).breaks).toHaveLength(2);
        await tx.execute(sql`delete from audit where action = 'forged'`);
        expect((await verifyAudit(tx)).breaks).toHaveLength(2);
        throw new Error('undo all this');
      })
      .catch((error: Error) => expect(error.message).toBe('undo all this'));
    expect((await verifyAudit(database.db)).breaks).toEqual([]);
  });
});
