import { appendFile } from 'node:fs/promises';
import { asc, desc } from 'drizzle-orm';
import * as z from 'zod';
import type { Logger } from 'pino';
import type { Database } from '../database/database.js';
import { audit, auditSeals } from '../database/schema.js';
import { readIfThere, writeWhole } from '../system/files.js';

const sealEveryMs = 10_000;
/** Lines of the file of anchors that are looked at: one a day. */
const mostAnchors = 4000;

/** A head of the trail: everything up to it hangs on its hash, and the seal on a key that the database doesn’t have. */
const sealedHead = z.object({
  day: z.string(),
  sequence: z.int(),
  hash: z.string(),
  at: z.string(),
  /** Tells keys apart, and nothing about them. */
  keyId: z.string(),
  seal: z.string(),
});
export type SealedHead = z.infer<typeof sealedHead>;

/** Where heads are kept outside the database. */
export interface AnchorFiles {
  /** The newest head. */
  readonly head: string;
  /** A line a day. */
  readonly anchors: string;
}

/** Authenticates a text for one purpose with a key that is kept elsewhere. */
export interface Authenticates {
  mac(purpose: string, text: string): string;
}

/** Makes and checks seals; without the key nothing can be said of them. */
export class SealMaker {
  readonly keyId: string;

  constructor(private readonly sealing: Authenticates) {
    this.keyId = sealing.mac('audit seal key', '').slice(0, 12);
  }

  make({ sequence, hash }: Pick<SealedHead, 'sequence' | 'hash'>, at: string): SealedHead {
    const head = { day: at.slice(0, 10), sequence, hash, at, keyId: this.keyId };
    return { ...head, seal: this.sealOf(head) };
  }

  /** null: it was made with another key. */
  fits(head: SealedHead): boolean | null {
    return head.keyId === this.keyId ? head.seal === this.sealOf(head) : null;
  }

  private sealOf({ sequence, hash, at }: Pick<SealedHead, 'sequence' | 'hash' | 'at'>): string {
    return this.sealing.mac('audit seal', JSON.stringify([sequence, hash, at]));
  }
}

/**
 * Seals the head of the trail every few seconds, the newest of each day for good; and tells a line a day to a file and to the
 * log, from where it can be sent to a place that nobody here can change. A trail that was shortened is never sealed over.
 */
export class TrailSeals {
  private timer: NodeJS.Timeout | null = null;
  private turn: Promise<void> = Promise.resolve();
  private anchored: string | null = null;
  private warned = false;

  constructor(
    private readonly db: Database,
    private readonly maker: SealMaker,
    private readonly files: AnchorFiles,
    private readonly logger: Logger,
  ) {}

  async start(): Promise<void> {
    this.anchored = (await readAnchors(this.files)).at(-1)?.day ?? null;
    await this.seal();
    this.timer = setInterval(() => void this.seal(), sealEveryMs).unref();
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.seal();
  }

  /** What fails is tried again at the next turn. */
  private seal(): Promise<void> {
    this.turn = this.turn
      .then(() => this.sealHead())
      .catch((error: unknown) => this.logger.warn({ reason: String(error) }, 'the audit trail could not be sealed'));
    return this.turn;
  }

  private async sealHead(): Promise<void> {
    const [row] = await this.db
      .select({ sequence: audit.sequence, hash: audit.hash })
      .from(audit)
      .orderBy(desc(audit.sequence))
      .limit(1);
    const [newest] = await this.db.select().from(auditSeals).orderBy(desc(auditSeals.sequence)).limit(1);
    const known = [newest, await readHead(this.files)].filter((head) => head !== undefined && head !== null);
    const sealed = Math.max(0, ...known.map(({ sequence }) => sequence));
    if (sealed > (row?.sequence ?? 0)) {
      if (!this.warned) this.logger.error({ sealed, sequence: row?.sequence ?? 0 }, 'the audit trail was shortened');
      this.warned = true;
      return;
    }
    if (!row || (newest?.sequence === row.sequence && known.length > 1 && newest.keyId === this.maker.keyId)) return;
    const head = this.maker.make(row, new Date().toISOString());
    await this.db.insert(auditSeals).values(head).onConflictDoUpdate({ target: auditSeals.day, set: head });
    await writeWhole(this.files.head, JSON.stringify(head));
    if (this.anchored === head.day) return;
    await appendFile(this.files.anchors, `${JSON.stringify(head)}\n`, { mode: 0o600 });
    this.anchored = head.day;
    this.logger.info({ anchor: head }, 'anchor of the audit trail');
  }
}

/** Every head that was sealed, wherever it is kept. */
export async function sealedHeads(db: Database, files: AnchorFiles): Promise<readonly SealedHead[]> {
  const kept = await db.select().from(auditSeals).orderBy(asc(auditSeals.sequence));
  const head = await readHead(files);
  return [...kept, ...(head ? [head] : []), ...(await readAnchors(files))];
}

async function readHead({ head }: AnchorFiles): Promise<SealedHead | null> {
  return headIn((await readIfThere(head)) ?? '');
}

async function readAnchors({ anchors }: AnchorFiles): Promise<readonly SealedHead[]> {
  const lines = ((await readIfThere(anchors)) ?? '').split('\n').slice(-mostAnchors);
  return lines.flatMap((line) => headIn(line) ?? []);
}

export function headIn(line: string): SealedHead | null {
  try {
    return sealedHead.parse(JSON.parse(line));
  } catch {
    return null;
  }
}
