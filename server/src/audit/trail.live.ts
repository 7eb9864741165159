import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import { openDatabase } from '../database/database.js';
import type { OpenDatabase } from '../database/database.js';
import { given } from '../testing/given.js';
import { appendAudit, verifyAudit } from './trail.js';

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
    const { rows, brokenAt } = await verifyAudit(database.db);
    expect(brokenAt).toBeNull();
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

  it('shows where somebody got round that', async () => {
    await database.db
      .transaction(async (tx) => {
        await appendAudit(tx, { actor: 'test', action: 'honest', subject: 'x', details: {} });
        await tx.execute(sql`alter table audit disable trigger audit_append_only`);
        await tx.execute(sql`update audit set actor = 'forger' where action = 'honest'`);
        expect((await verifyAudit(tx)).brokenAt).not.toBeNull();
        throw new Error('undo all this');
      })
      .catch((error: Error) => expect(error.message).toBe('undo all this'));
    expect((await verifyAudit(database.db)).brokenAt).toBeNull();
  });
});
