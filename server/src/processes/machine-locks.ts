import { and, eq } from 'drizzle-orm';
import { persist } from '../database/database.js';
import type { Database, Queryable } from '../database/database.js';
import { machineLocks } from '../database/schema.js';
import { conflict } from '../http/problems.js';
import type { ServerProcess } from './server-process.js';
import { Turns } from './turns.js';

const lookEveryMs = 250;
/** One who has to wait hears so late who holds the machine. */
const tellAfterMs = 700;
/** How long a lock is taken and given back for while the database is away. */
const databasePatienceMs = 5 * 60_000;

export interface LockWish {
  /** Who holds it, in words, for those who wait: “the check of Historian to Furnace”. */
  readonly holder: string;
  /** How long to wait for it; without it, for ever. */
  readonly patienceMs?: number;
  /** Ends the waiting. */
  readonly signal?: AbortSignal;
  /** Whether a person holds it, for as long as they like. */
  readonly byPerson?: boolean;
  /** Told once which person’s work has to be waited for. */
  readonly waits?: (holder: string) => void;
}

/**
 * One connection at a time per machine, whoever dials it: checks, bench, push management, the search for servers, in this
 * process and in every other one on the same data. The lock is a row; it falls with the process that holds it.
 */
export class MachineLocks {
  private readonly turns = new Turns();

  constructor(
    private readonly db: Database,
    private readonly server: ServerProcess,
  ) {}

  /**
   * Waits for the machine, and holds it while `run` runs; its signal aborts if the lock can’t be trusted any more.
   * @throws a problem that names the holder, where the wait takes longer than asked for
   */
  take<Result>(machineId: string, wish: LockWish, run: (lost: AbortSignal) => Promise<Result>): Promise<Result> {
    const until = wish.patienceMs === undefined ? Infinity : Date.now() + wish.patienceMs;
    const limits = wish.patienceMs === undefined ? [] : [AbortSignal.timeout(wish.patienceMs)];
    const impatient = AbortSignal.any([...limits, ...(wish.signal ? [wish.signal] : [])]);
    const { waits } = wish;
    const telling = waits && setTimeout(() => void this.tellHolder(machineId, waits), tellAfterMs);
    const turn = this.turns.take(
      machineId,
      async () => {
        await this.acquire(machineId, wish, until);
        clearTimeout(telling);
        try {
          return await run(this.server.lostHold);
        } finally {
          await persist(databasePatienceMs, () => this.release(machineId)).catch(() => undefined);
        }
      },
      { signal: impatient, refusal: () => this.refusal(machineId) },
    );
    return turn.finally(() => clearTimeout(telling));
  }

  /** The same for one who has other things to do: where the machine is not free now, nothing is run, and null is given. */
  async takeIfFree<Result>(
    machineId: string,
    wish: Pick<LockWish, 'holder' | 'signal'>,
    run: (lost: AbortSignal) => Promise<Result>,
  ): Promise<{ readonly result: Result } | null> {
    if (this.turns.isTaken(machineId)) return null;
    return this.turns.take(machineId, async () => {
      wish.signal?.throwIfAborted();
      if (!(await persist(databasePatienceMs, () => this.tryAcquire(machineId, wish)))) {
        await this.server.strikeOffDead();
        return null;
      }
      try {
        return { result: await run(this.server.lostHold) };
      } finally {
        await persist(databasePatienceMs, () => this.release(machineId)).catch(() => undefined);
      }
    });
  }

  /** The person’s work that holds a machine, in words; null where none does. */
  async personAt(machineId: string): Promise<string | null> {
    return (await heldByPeople(this.db).catch(() => null))?.get(machineId) ?? null;
  }

  private async acquire(machineId: string, wish: LockWish, until: number): Promise<void> {
    for (;;) {
      wish.signal?.throwIfAborted();
      if (await persist(databasePatienceMs, () => this.tryAcquire(machineId, wish))) return;
      if (Date.now() > until) throw await this.refusal(machineId);
      await this.server.strikeOffDead();
      await new Promise((resolve) => setTimeout(resolve, lookEveryMs));
    }
  }

  /** Asked twice, since an answer may be lost with its connection: a lock that is ours already is taken. */
  private async tryAcquire(machineId: string, { holder, byPerson = false }: LockWish): Promise<boolean> {
    const mine = { serverId: this.server.id, holder, byPerson };
    const taken = await this.db
      .insert(machineLocks)
      .values({ machineId, ...mine })
      .onConflictDoUpdate({
        target: machineLocks.machineId,
        set: mine,
        setWhere: eq(machineLocks.serverId, this.server.id),
      })
      .returning({ machineId: machineLocks.machineId });
    return taken.length > 0;
  }

  private async release(machineId: string): Promise<void> {
    await this.db
      .delete(machineLocks)
      .where(and(eq(machineLocks.machineId, machineId), eq(machineLocks.serverId, this.server.id)));
  }

  private async tellHolder(machineId: string, waits: (holder: string) => void): Promise<void> {
    const holder = await this.personAt(machineId);
    if (holder !== null) waits(holder);
  }

  private async refusal(machineId: string): Promise<Error> {
    const [row] = await this.db.select().from(machineLocks).where(eq(machineLocks.machineId, machineId));
    return conflict(
      `The machine is in use by ${row?.holder ?? 'somebody else'}, and takes one connection at a time.`,
      'Try again when that has ended.',
    );
  }
}

/** Which machines people hold for as long as they like, and who. */
export async function heldByPeople(db: Queryable): Promise<ReadonlyMap<string, string>> {
  const rows = await db.select().from(machineLocks).where(eq(machineLocks.byPerson, true));
  return new Map(rows.map(({ machineId, holder }) => [machineId, holder]));
}
