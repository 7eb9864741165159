import type { Logger } from 'pino';
import { isQuietAt, tellChanges, turnOf } from '@loyal-hinge/core/casebook';
import type { LinkChange, RecipientRow, RecipientWish } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { declaredRangesOf, nameServerOf, plantNameOf } from '../database/settings.js';
import type { EventLog } from '../events/event-log.js';
import { invalid, notFound, notTaken } from '../http/problems.js';
import { changesAfter, newestSpan } from '../link-history/spans.js';
import { isDeclared } from '../probe/address-ranges.js';
import { resolveHost } from '../probe/resolve.js';
import type { SecretStore } from '../secrets/sealing.js';
import { RegularLook } from '../processes/regular-look.js';
import { freeId } from '../system/free-id.js';
import { placeOf, send } from './send.js';
import type { Message } from './send.js';
import {
  allRecipients,
  changeRecipient,
  findRecipient,
  keepRecipient,
  removeRecipient,
  rowOf,
  secretOf,
  takeReady,
} from './store.js';
import type { Recipient } from './store.js';

const lookEveryMs = 10_000;
const resolveMs = 5_000;
/** So many stand in one message; those behind them follow in the next. */
const mostChanges = 200;
const firstWaitMs = 60_000;
const longestWaitMs = 3_600_000;

/**
 * Tells people and programs when links fall and work again: what changes shortly after each other in one message, what
 * changes in quiet hours after them, and what could not be sent again and again until it is taken. One that was taken while
 * the database went away may come twice; none is left out.
 */
export class Recipients {
  private looks: RegularLook | null = null;
  private readonly stopping = new AbortController();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  start(): void {
    this.looks = new RegularLook(
      lookEveryMs,
      () => this.look(),
      (reason) => this.logger.warn({ reason }, 'nobody could be told of changes'),
    );
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    await this.looks?.stop();
  }

  async view(): Promise<{ recipients: RecipientRow[] }> {
    const all = await allRecipients(this.db);
    return { recipients: await Promise.all(all.map((one) => rowOf(this.db, one))) };
  }

  async add(wish: RecipientWish, actor: string): Promise<RecipientRow> {
    const taken = (await allRecipients(this.db)).map(({ id }) => id);
    return this.keep(freeId(wish.name, taken), null, wish, actor);
  }

  async put(id: string, wish: RecipientWish, actor: string): Promise<RecipientRow> {
    return this.keep(id, await this.known(id), wish, actor);
  }

  async remove(id: string, actor: string): Promise<void> {
    const { name } = await this.known(id);
    await this.db.transaction(async (tx) => {
      await removeRecipient(tx, id);
      await this.secrets.forget(tx, secretOf(id));
      await appendAudit(tx, { actor, action: 'recipient removed', subject: id, details: { name } });
    });
    await this.tell();
  }

  /** Sends a message that says that it is a test. */
  async attempt(id: string, actor: string): Promise<void> {
    const one = await this.known(id);
    const plant = await plantNameOf(this.db);
    const text = `This is a test, asked for by ${actor}. ${one.name} is told here when links of ${plant} fall and work again.\n`;
    try {
      await this.send(one, { subject: `${plant}: a test`, text, body: { kind: 'test', changes: [] } });
    } catch (error) {
      throw notTaken(`The test could not be sent: ${whyOf(error)}.`, 'Change the way by which it goes, and try again.');
    }
    await changeRecipient(this.db, id, { fault: null, failures: 0, nextTryAt: null });
    await this.tell();
  }

  private async look(): Promise<void> {
    const isTold = await this.db.transaction(async (tx) => {
      const ready = await takeReady(tx, new Date().toISOString());
      let isAny = false;
      for (const one of ready) isAny = (await this.tellOne(tx, one)) || isAny;
      return isAny;
    });
    if (isTold) await this.tell();
  }

  /** @returns whether something was sent, or could not be */
  private async tellOne(tx: Queryable, one: Recipient): Promise<boolean> {
    const now = Date.now();
    const changes = await changesAfter(this.db, { after: one.toldUpTo, most: mostChanges, newest: false });
    const worth = changes.filter((change) => turnOf(change) !== null);
    const upTo = changes.at(-1)?.id;
    const [oldest] = worth;
    if (!oldest) {
      if (upTo !== undefined) await changeRecipient(tx, one.id, { toldUpTo: upTo });
      return false;
    }
    if (isQuietAt(now, one.quiet, one.zone)) return false;
    if (Date.parse(oldest.at) > now - one.groupMinutes * 60_000) return false;
    try {
      await this.send(one, await this.messageOf(worth));
      const lastToldAt = new Date().toISOString();
      await changeRecipient(tx, one.id, {
        toldUpTo: upTo ?? one.toldUpTo,
        lastToldAt,
        fault: null,
        failures: 0,
        nextTryAt: null,
      });
    } catch (error) {
      const failures = one.failures + 1;
      const waitMs = Math.min(longestWaitMs, firstWaitMs * 2 ** Math.min(10, failures - 1));
      const nextTryAt = new Date(now + waitMs).toISOString();
      await changeRecipient(tx, one.id, { fault: whyOf(error), failures, nextTryAt });
      this.logger.warn({ recipient: one.id, reason: whyOf(error) }, 'a message could not be sent; it is tried again');
    }
    return true;
  }

  private async messageOf(changes: readonly LinkChange[]): Promise<Message> {
    const { subject, text, fell, works } = tellChanges(await plantNameOf(this.db), changes);
    const told = changes.map(({ linkId, linkName, at, from, to, step, says }) => ({
      linkId,
      linkName,
      at,
      from,
      to,
      step,
      says,
    }));
    return { subject, text, body: { kind: 'changes', fell, works, changes: told } };
  }

  private async send({ id, way }: Recipient, message: Message): Promise<void> {
    const { host, place } = placeOf(way);
    const kept = await this.secrets.findFor(this.db, secretOf(id), { applicationUri: place });
    if (kept && !('secret' in kept)) throw new Error('its secret was given for another place: give it again');
    await send(way, message, { address: await this.addressOf(host), secret: kept?.secret ?? null });
  }

  /** Nothing outside the declared ranges is ever dialled. */
  private async addressOf(host: string): Promise<string> {
    const [nameServer, ranges] = await Promise.all([nameServerOf(this.db), declaredRangesOf(this.db)]);
    const { addresses } = await resolveHost(host, nameServer, resolveMs, this.stopping.signal);
    if (addresses.length === 0) throw new Error(`the name ${host} leads nowhere`);
    const address = addresses.find((one) => isDeclared(one, ranges));
    if (address === undefined)
      throw new Error(`${host} (${addresses.join(', ')}) lies outside the ranges that may be dialled (Settings)`);
    return address;
  }

  private async keep(id: string, before: Recipient | null, wish: RecipientWish, actor: string): Promise<RecipientRow> {
    const { place } = placeOf(wish.way);
    const isKept = before !== null && placeOf(before.way).place === place && (await this.hasSecret(id, place));
    const wantsOne = wish.way.kind === 'webhook' || wish.way.userName !== null;
    if (wantsOne && wish.secret === null && !isKept) {
      const says = wish.way.kind === 'webhook' ? 'Type the key by which messages are signed.' : 'Type the password.';
      throw invalid('A secret is missing.', [{ place: 'secret', says }]);
    }
    await this.db.transaction(async (tx) => {
      // Who was left in peace is told of what happens from now on, not of all that did.
      const isNew = before === null || before.isPaused;
      await keepRecipient(tx, id, wish, isNew ? await newestSpan(tx) : null);
      if (!wantsOne) await this.secrets.forget(tx, secretOf(id));
      else if (wish.secret !== null) await this.secrets.keep(tx, secretOf(id), wish.secret, { applicationUri: place });
      const { secret: _, ...details } = wish;
      await appendAudit(tx, { actor, action: before ? 'recipient changed' : 'recipient added', subject: id, details });
    });
    await this.tell();
    return rowOf(this.db, await this.known(id));
  }

  private async hasSecret(id: string, place: string): Promise<boolean> {
    const kept = await this.secrets.findFor(this.db, secretOf(id), { applicationUri: place });
    return kept !== null && 'secret' in kept;
  }

  private async known(id: string): Promise<Recipient> {
    const one = await findRecipient(this.db, id);
    if (!one) throw notFound('recipient', id);
    return one;
  }

  private tell(): Promise<void> {
    return this.events.tell({ kind: 'rounds-changed' });
  }
}

/** Why something was not sent, in one line, without what was sent. */
function whyOf(error: unknown): string {
  const said = error instanceof Error ? error.message : String(error);
  return said.replace(/\s+/g, ' ').slice(0, 300) || 'no reason was given';
}
