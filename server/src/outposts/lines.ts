import type { Talk } from '@loyal-hinge/outpost';
import type { FromOutpost, FromServer, OutpostKind } from '@loyal-hinge/contract/line';
import type { Logger } from 'pino';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { Notices } from '../events/notices.js';
import type { ServerProcess } from '../processes/server-process.js';
import { certifiedOf, changeOutpost, findOutpost, freeOrphaned } from './store.js';
import type { OutpostRow } from './store.js';

/** How often it is looked whether what outposts were told still holds. */
const lookMs = 15_000;

export type OutpostTalk = Talk<FromOutpost, FromServer>;

/** What a capability has to do with outposts of its kind. */
export interface OutpostEars {
  /** All that an outpost has to be told, as things are now. What it was told already is not told again. */
  wanted(outpost: OutpostRow): Promise<readonly FromServer[]>;
  /** What outposts of its kind told over a former connection is no longer so. */
  readonly forgetsFormer?: true;
  /** What an outpost told. @returns true where pages have to hear of it */
  told(outpost: OutpostRow, message: FromOutpost): Promise<boolean>;
  /** Takes a message at once, without looking the outpost up. @returns false where it is not of that kind */
  quickly?(outpostId: string, message: FromOutpost): boolean;
  /** It is connected to this process from now on. */
  here?(outpostId: string): void;
  /** It is connected to this process no longer. */
  gone?(outpostId: string): void;
}

interface Line {
  readonly kind: OutpostKind;
  readonly talk: OutpostTalk;
  readonly thumbprint: string;
  readonly said: Set<string>;
}

/** The outposts that are connected to this process. */
export class OutpostLines {
  private readonly lines = new Map<string, Line>();
  private readonly ears = new Map<OutpostKind, OutpostEars>();
  private timer: NodeJS.Timeout | null = null;
  private isStopping = false;

  constructor(
    private readonly db: Database,
    private readonly server: Pick<ServerProcess, 'id' | 'clearingBy'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {
    server.clearingBy(async () => {
      if ((await freeOrphaned(db)).length > 0) await events.tell({ kind: 'outposts-changed' });
    });
  }

  /** Who hears outposts of a kind. */
  hearing(kind: OutpostKind, ears: OutpostEars): void {
    this.ears.set(kind, ears);
  }

  start(notices: Notices): void {
    notices.hear((notice) => {
      if (notice.kind === 'outpost') void this.look(notice.outpostId);
    });
    this.timer = setInterval(() => {
      for (const id of this.lines.keys()) void this.look(id).then(() => this.stillHere(id));
    }, lookMs);
    this.timer.unref();
  }

  stop(): void {
    this.isStopping = true;
    if (this.timer) clearInterval(this.timer);
    for (const { talk } of this.lines.values()) talk.close();
  }

  /** An outpost has shown who it is. One that was connected before is connected anew: its former connection is dead. */
  async arrive(outpost: OutpostRow, thumbprint: string, talk: OutpostTalk, address: string): Promise<void> {
    const { id, name } = outpost;
    const former = this.lines.get(id);
    this.lines.set(id, { kind: outpost.kind, talk, thumbprint, said: new Set() });
    former?.talk.close();
    if (former) this.ears.get(former.kind)?.gone?.(id);
    await changeOutpost(this.db, id, {
      processId: this.server.id,
      heardAt: new Date().toISOString(),
      address,
      ...(thumbprint === outpost.thumbprint ? { formerThumbprint: null } : {}),
      ...(this.ears.get(outpost.kind)?.forgetsFormer ? { told: null } : {}),
    });
    // It tells of itself from here on.
    talk.say({ kind: 'welcome', id, name });
    this.ears.get(outpost.kind)?.here?.(id);
    await this.events.tell({ kind: 'outposts-changed' });
    await this.look(id);
  }

  async left(id: string, talk: OutpostTalk): Promise<void> {
    const line = this.lines.get(id);
    if (line?.talk !== talk) return;
    this.lines.delete(id);
    this.ears.get(line.kind)?.gone?.(id);
    if (this.isStopping) return;
    // By now it may be connected to another process.
    const outpost = await findOutpost(this.db, id);
    if (outpost?.processId === this.server.id) await changeOutpost(this.db, id, { processId: null });
    await this.events.tell({ kind: 'outposts-changed' });
  }

  /** Whether an outpost is connected to this process. */
  has(id: string): boolean {
    return this.lines.has(id);
  }

  /** @returns false where it is not connected to this process, or the message is too long for it */
  say(id: string, message: FromServer): boolean {
    return this.lines.get(id)?.talk.say(message) ?? false;
  }

  async heard(id: string, message: FromOutpost): Promise<void> {
    const line = this.lines.get(id);
    if (line && this.ears.get(line.kind)?.quickly?.(id, message)) return;
    const outpost = await findOutpost(this.db, id);
    if (!outpost) return this.end(id, { kind: 'removed', says: 'This outpost was removed.' });
    await changeOutpost(this.db, id, { heardAt: new Date().toISOString() });
    const isNews = await this.ears.get(outpost.kind)?.told(outpost, message);
    if (isNews) await this.events.tell({ kind: 'outposts-changed' });
  }

  /** Tells an outpost what it has to hear now, and was not told yet; nothing where it is not connected to this process. */
  async look(id: string): Promise<void> {
    const line = this.lines.get(id);
    if (!line) return;
    try {
      const outpost = await findOutpost(this.db, id);
      if (!outpost) return this.end(id, { kind: 'removed', says: 'This outpost was removed.' });
      if (line.thumbprint !== outpost.thumbprint && line.thumbprint !== outpost.formerThumbprint)
        return this.end(id, { kind: 'removed', says: 'This outpost stands elsewhere now. Ask for a new ticket.' });
      const messages = [...((await this.ears.get(outpost.kind)?.wanted(outpost)) ?? [])];
      if (outpost.thumbprint !== null && outpost.thumbprint !== line.thumbprint) {
        const certified = await certifiedOf(this.db, outpost);
        if (certified) messages.unshift({ kind: 'certificate', ...certified });
      }
      const written = messages.map((message) => [JSON.stringify(message), message] as const);
      for (const [text, message] of written) if (!line.said.has(text)) line.talk.say(message);
      line.said.clear();
      for (const [text] of written) line.said.add(text);
    } catch (error) {
      this.logger.warn({ outpost: id, reason: String(error) }, 'an outpost could not be told what it shall hold');
    }
  }

  /** Who is connected sends signs of life, or is cut off: those that are left were heard just now. */
  private async stillHere(id: string): Promise<void> {
    if (!this.lines.has(id)) return;
    const heardAt = new Date().toISOString();
    await changeOutpost(this.db, id, { heardAt, processId: this.server.id }).catch(() => undefined);
  }

  private end(id: string, last: FromServer): void {
    const line = this.lines.get(id);
    this.lines.delete(id);
    line?.talk.close(last);
    if (line) this.ears.get(line.kind)?.gone?.(id);
  }
}
