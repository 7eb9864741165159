import { randomUUID } from 'node:crypto';
import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import { linesAt } from '@loyal-hinge/core/casebook';
import { mostEvidenceBytes } from '@loyal-hinge/contract';
import type { EvidencePlace, EvidenceReading } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { isDatabaseAway, isDiskFull } from '../database/faults.js';
import { readSetting } from '../database/settings.js';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import { conflict, notFound, ProblemError } from '../http/problems.js';
import type { EvidenceFiles } from './evidence-files.js';
import type { CasebookJobs } from './jobs.js';
import { ruleFor } from './reading-rules.js';
import {
  addEvidence,
  changeEvidence,
  cutOffEvidence,
  evidenceBefore,
  evidenceBeingRead,
  findEvidence,
  noteReceived,
  removeEvidence,
} from './store.js';

export const usualRecordsKeptDays = 365;
const dayMs = 86_400_000;
/** Who lets old files go. */
const keeper = 'Loyal Hinge';
const headBytes = 16;
const shownBytes = 16 * 1024;
const shownLines = 4;
const noteEveryMs = 3000;
const readAgainMs = 5000;

const gone = 'The file is no longer there: it was not to be kept (Settings), or somebody else removed it.';
const bringAgain = 'Remove it here, and bring it again.';

/** Takes captures and logs in part by part, has them read, and throws them away. */
export class EvidenceKeeping {
  private isStopping = false;
  /** What is being read now, and how it is ended. */
  private readonly reading = new Map<string, AbortController>();
  private notedAt = 0;

  constructor(
    private readonly db: Database,
    private readonly files: EvidenceFiles,
    private readonly heavy: Runs<CasebookJobs>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  /** Reads again what was being read when the server stopped. */
  async resume(): Promise<void> {
    for (const id of await evidenceBeingRead(this.db)) this.read(id);
  }

  async begin(wish: { readonly name: string; readonly bytes: number }, actor: string) {
    const before = await cutOffEvidence(this.db, wish, actor);
    if (before) return { evidenceId: before.id, received: before.received };
    const id = randomUUID();
    await this.db.transaction(async (tx) => {
      await addEvidence(tx, { ...wish, id, broughtBy: actor });
      await appendAudit(tx, { actor, action: 'evidence brought', subject: id, details: { ...wish } });
    });
    await this.tell();
    return { evidenceId: id, received: 0 };
  }

  /** @returns bytes that are here now */
  async take(evidenceId: string, from: number, content: Uint8Array): Promise<number> {
    const row = await this.known(evidenceId);
    if (row.state !== 'arriving') throw conflict('This file is here already.', 'There is nothing to send.');
    if (from !== row.received)
      throw conflict(`${row.received} bytes of this file are here.`, `Go on from byte ${row.received}.`);
    const received = from + content.length;
    if (received > row.bytes)
      throw conflict('The file is larger than it was said to be.', 'Remove it here, and bring it again.');
    await this.files.write(evidenceId, content, from);
    if (!(await noteReceived(this.db, row, from, received)))
      throw conflict(
        'Another part of this file has come meanwhile.',
        'Look how much of it is here, and go on from there.',
      );
    if (received === row.bytes) this.read(evidenceId);
    return received;
  }

  /** What stands at a place of a file, where it is text. */
  async placeOf(evidenceId: string, position: number): Promise<EvidencePlace> {
    const { name } = await this.known(evidenceId);
    const [head, bytes] = await Promise.all([
      this.files.read(evidenceId, 0, headBytes),
      this.files.read(evidenceId, position, shownBytes),
    ]);
    if (!head || !bytes) throw conflict(gone, bringAgain);
    const lines = linesAt(head, bytes, position, shownLines);
    return { name, lines: lines && [...lines] };
  }

  /** Where a file lies. */
  async fileOf(evidenceId: string): Promise<string> {
    const { id } = await this.known(evidenceId);
    return this.files.pathOf(id);
  }

  /** Has files read again that are here; what is being read ends first. */
  async readAgain(evidenceIds: readonly string[]): Promise<void> {
    for (const id of evidenceIds) {
      const row = await findEvidence(this.db, id);
      const isSettled = row?.state === 'read' || row?.state === 'refused';
      if (!isSettled || !(await this.files.has(id))) continue;
      await changeEvidence(this.db, id, { state: 'reading' });
      this.read(id);
    }
    await this.tell();
  }

  /** @param reading its clock, and the rule by which it is read; without one it stays as it was */
  async setReading(evidenceId: string, { ruleId, ...clock }: EvidenceReading, actor: string): Promise<void> {
    const row = await this.known(evidenceId);
    if (row.state === 'arriving' || row.state === 'reading')
      throw conflict('This file is not read yet.', 'Wait until it is.');
    if (!(await this.files.has(evidenceId))) throw conflict(gone, bringAgain);
    await this.db.transaction(async (tx) => {
      if (ruleId && !(await ruleFor(tx, ruleId))) throw notFound('reading rule', ruleId);
      await changeEvidence(tx, evidenceId, { clock, state: 'reading', ...(ruleId === undefined ? {} : { ruleId }) });
      const details = { ...clock, ...(ruleId === undefined ? {} : { ruleId }) };
      await appendAudit(tx, { actor, action: 'evidence clock set', subject: evidenceId, details });
    });
    this.read(evidenceId);
  }

  async remove(evidenceId: string, actor: string): Promise<void> {
    const row = await this.known(evidenceId);
    this.reading.get(evidenceId)?.abort();
    await this.db.transaction(async (tx) => {
      await removeEvidence(tx, evidenceId);
      const details = { name: row.name, bytes: row.bytes };
      await appendAudit(tx, { actor, action: 'evidence removed', subject: evidenceId, details });
    });
    await this.files.remove(evidenceId);
    await this.tell();
  }

  /** Takes a file in that lies in a folder of this computer, and has it read. */
  async takeIn(path: string, name: string, broughtBy: string): Promise<void> {
    const id = randomUUID();
    try {
      const bytes = await this.files.takeIn(id, path);
      if (bytes === 0 || bytes > mostEvidenceBytes) throw new RangeError(`it has ${bytes} bytes`);
      await this.db.transaction(async (tx) => {
        await addEvidence(tx, { id, name, bytes, broughtBy });
        await changeEvidence(tx, id, { received: bytes, state: 'reading' });
        const details = { name, bytes, path };
        await appendAudit(tx, { actor: broughtBy, action: 'evidence brought', subject: id, details });
      });
    } catch (error) {
      await this.files.remove(id);
      throw error;
    }
    this.read(id);
  }

  /** Lets go what was brought so many days ago. */
  async forgetOld(): Promise<void> {
    const days = await readSetting(this.db, 'recordsKeptDays');
    const before = Date.now() - (typeof days === 'number' ? days : usualRecordsKeptDays) * dayMs;
    const since = new Date(before).toISOString();
    /* Whole months first: then there is little left to be taken out of tables. */
    await this.db.execute(sql`select forget_attempts(${since})`);
    for (const id of await evidenceBefore(this.db, since)) await this.remove(id, keeper);
  }

  /** Called before the server stops: what is being read then is read anew at the next start. */
  stop(): void {
    this.isStopping = true;
  }

  private async known(evidenceId: string) {
    const row = await findEvidence(this.db, evidenceId);
    if (!row) throw notFound('file', evidenceId);
    return row;
  }

  private read(evidenceId: string): void {
    this.readNow(evidenceId).catch((error: unknown) => {
      this.logger.error({ err: error, evidenceId }, 'a file could not be read; it is read at the next start');
    });
  }

  private async readNow(evidenceId: string): Promise<void> {
    const ending = new AbortController();
    this.reading.set(evidenceId, ending);
    await changeEvidence(this.db, evidenceId, { readBytes: 0 });
    await this.tell();
    try {
      const wanted = { evidenceId, path: this.files.pathOf(evidenceId) };
      const noted = (bytes: number): void => this.noteRead(evidenceId, bytes);
      await this.heavy.run('readEvidence', wanted, ending.signal, { isBegun: true, noted });
      const row = await findEvidence(this.db, evidenceId);
      /* What nobody can read again is not kept; by another rule it may be read. */
      const isKept = (await readSetting(this.db, 'recordedFilesKept')) !== false;
      const isHopeless = row?.state === 'refused' && row.ruleId === null;
      if (isHopeless || !isKept) await this.files.remove(evidenceId);
    } catch (error) {
      if (this.isStopping || ending.signal.aborted) return;
      if (isDatabaseAway(error) || isDiskFull(error)) {
        this.logger.warn(
          { evidenceId, reason: String(error) },
          'the database could not take a file in; it is read again',
        );
        setTimeout(() => this.readUnlessStopped(evidenceId), readAgainMs).unref();
        return;
      }
      this.logger.error({ err: error, evidenceId }, 'a file could not be read');
      const fault =
        error instanceof ProblemError ? error.problem.detail : 'The server met an error while it read the file.';
      await changeEvidence(this.db, evidenceId, { state: 'refused', fault }).catch(() => undefined);
    } finally {
      this.reading.delete(evidenceId);
    }
    await this.tell();
  }

  /** What the database said meanwhile counts: somebody may have removed it. */
  private readUnlessStopped(evidenceId: string): void {
    if (this.isStopping) return;
    findEvidence(this.db, evidenceId).then(
      (row) => (row?.state === 'reading' ? this.read(evidenceId) : undefined),
      () => setTimeout(() => this.readUnlessStopped(evidenceId), readAgainMs).unref(),
    );
  }

  /** Says how far a file is read, every few seconds. */
  private noteRead(evidenceId: string, readBytes: number): void {
    if (Date.now() - this.notedAt < noteEveryMs) return;
    this.notedAt = Date.now();
    void changeEvidence(this.db, evidenceId, { readBytes })
      .then(() => this.tell())
      .catch(() => undefined);
  }

  private async tell(): Promise<void> {
    await this.events.tell({ kind: 'casebook-changed' }).catch(() => undefined);
  }
}
