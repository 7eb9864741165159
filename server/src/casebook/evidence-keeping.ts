import { randomUUID } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { linesAt } from '@loyal-hinge/core/casebook';
import { mostEvidenceBytes } from '@loyal-hinge/contract';
import type { EvidencePlace, EvidenceReading } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { readSetting } from '../database/settings.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, notFound } from '../http/problems.js';
import type { EvidenceFiles } from './evidence-files.js';
import type { EvidenceReader } from './evidence-reader.js';
import { ruleFor } from './reading-rules.js';
import {
  addEvidence,
  changeEvidence,
  cutOffEvidence,
  evidenceBefore,
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

const gone = 'The file is no longer there: it was not to be kept (Settings), or somebody else removed it.';
const bringAgain = 'Remove it here, and bring it again.';

/** Takes captures and logs in part by part, says how they are to be read, and throws them away. */
export class EvidenceKeeping {
  constructor(
    private readonly db: Database,
    private readonly files: EvidenceFiles,
    private readonly reader: EvidenceReader,
    private readonly events: EventLog,
  ) {}

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
    if (received === row.bytes) this.reader.read(evidenceId);
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

  /** Has files read again that are here; a reading that is under way begins anew. */
  async readAgain(evidenceIds: readonly string[]): Promise<void> {
    for (const id of evidenceIds) {
      const row = await findEvidence(this.db, id);
      if (!row || row.state === 'arriving' || !(await this.files.has(id))) continue;
      await changeEvidence(this.db, id, { state: 'reading' });
      this.reader.read(id);
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
      await appendAudit(tx, { actor, action: 'evidence reading set', subject: evidenceId, details });
    });
    this.reader.read(evidenceId);
  }

  async remove(evidenceId: string, actor: string): Promise<void> {
    const row = await this.known(evidenceId);
    this.reader.end(evidenceId);
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
    this.reader.read(id);
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

  private async known(evidenceId: string) {
    const row = await findEvidence(this.db, evidenceId);
    if (!row) throw notFound('file', evidenceId);
    return row;
  }

  private async tell(): Promise<void> {
    await this.events.tell({ kind: 'casebook-changed' }).catch(() => undefined);
  }
}
