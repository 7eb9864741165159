import type { Logger } from 'pino';
import type { Database } from '../database/database.js';
import { isDatabaseAway, isDiskFull } from '../database/faults.js';
import { readSetting } from '../database/settings.js';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import { ProblemError } from '../http/problems.js';
import type { EvidenceFiles } from './evidence-files.js';
import type { CasebookJobs } from './jobs.js';
import { changeEvidence, evidenceBeingRead, findEvidence } from './store.js';

const noteEveryMs = 3000;
const readAgainMs = 5000;

/** Has files read in workers, says how far they are, ends it, and reads again what could not be written down. */
export class EvidenceReader {
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

  /** Called before the server stops: what is being read then is read anew at the next start. */
  stop(): void {
    this.isStopping = true;
  }

  /** Nobody wants it any more. */
  end(evidenceId: string): void {
    this.reading.get(evidenceId)?.abort();
  }

  /** Reads a file that is here, from its beginning; a reading that is under way ends. What comes of it stands in the database. */
  read(evidenceId: string): void {
    this.end(evidenceId);
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
      if (this.reading.get(evidenceId) === ending) this.reading.delete(evidenceId);
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
