import type { Logger } from 'pino';
import type { RoundRow, RoundsView, RoundWish } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import type { Links } from '../links/service.js';
import { linksThere } from '../plant/store.js';
import { RegularLook } from '../processes/regular-look.js';
import { freeId } from '../system/free-id.js';
import { changesAfter } from '../link-history/spans.js';
import {
  addRun,
  allRounds,
  findRound,
  keepRound,
  linksOf,
  nameOf,
  openRun,
  removeRound,
  rowOf,
  takeDue,
  takePending,
  whatThereIs,
} from './store.js';
import type { Round } from './store.js';

const lookEveryMs = 5_000;
const shownChanges = 200;

/** Checks that come round by themselves: which, how often, when not, and what they found changed. */
export class Rounds {
  private looks: RegularLook | null = null;

  constructor(
    private readonly db: Database,
    private readonly links: Pick<Links, 'ask'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  /** Begins rounds when their time comes. */
  start(): void {
    this.looks = new RegularLook(
      lookEveryMs,
      () => this.look(),
      (reason) => this.logger.warn({ reason }, 'rounds could not be looked at'),
    );
  }

  async stop(): Promise<void> {
    await this.looks?.stop();
  }

  async view(): Promise<RoundsView> {
    const [rows, changes, choices] = await Promise.all([
      this.rows(),
      changesAfter(this.db, { after: 0, most: shownChanges, newest: true }),
      whatThereIs(this.db),
    ]);
    return { rounds: rows, changes, ...choices };
  }

  /** All rounds with their last runs, as of one moment: a run that has begun goes with the next time set by it. */
  private rows(): Promise<RoundRow[]> {
    return this.db.transaction(
      async (tx) => {
        const rows: RoundRow[] = [];
        for (const round of await allRounds(tx)) rows.push(await rowOf(tx, round));
        return rows;
      },
      { isolationLevel: 'repeatable read', accessMode: 'read only' },
    );
  }

  async add(wish: RoundWish, actor: string): Promise<RoundRow> {
    const taken = (await allRounds(this.db)).map(({ id }) => id);
    return this.keep(freeId(wish.name, taken), wish, actor, 'round added');
  }

  async put(id: string, wish: RoundWish, actor: string): Promise<RoundRow> {
    await this.known(id);
    return this.keep(id, wish, actor, 'round changed');
  }

  async remove(id: string, actor: string): Promise<void> {
    const { name } = await this.known(id);
    await this.db.transaction(async (tx) => {
      await removeRound(tx, id);
      await appendAudit(tx, { actor, action: 'round removed', subject: id, details: { name } });
    });
    await this.tell();
  }

  /** Begins a round now, beside its times. */
  async run(id: string, actor: string): Promise<void> {
    const round = await this.known(id);
    const begun = await this.db.transaction((tx) => this.begin(tx, round, actor));
    if (!begun) throw conflict(`${round.name} is under way already.`, 'Wait until it has asked for all its links.');
    await this.tell();
    await this.ask();
  }

  private async look(): Promise<void> {
    const begun = await this.db.transaction(async (tx) => {
      const due = await takeDue(tx, Date.now());
      for (const round of due)
        if (!(await this.begin(tx, round, round.name)))
          this.logger.warn({ round: round.name }, 'a round was left out, since the one before it is still under way');
      return due.length > 0;
    });
    const asked = await this.ask();
    if (begun || asked) await this.tell();
  }

  private async begin(tx: Parameters<typeof takeDue>[0], round: Round, askedBy: string): Promise<boolean> {
    if (await openRun(tx, round.id)) return false;
    await addRun(tx, round.id, await linksOf(tx, round.scope), askedBy);
    return true;
  }

  /** @returns whether links were asked for */
  private async ask(): Promise<boolean> {
    const taken = await this.db.transaction((tx) => takePending(tx, Date.now(), lookEveryMs));
    for (const { linkIds, name } of taken) {
      const there = await linksThere(this.db, linkIds);
      await this.links.ask(there, name);
    }
    return taken.length > 0;
  }

  private async keep(id: string, wish: RoundWish, actor: string, action: string): Promise<RoundRow> {
    await this.fits(wish);
    await this.db.transaction(async (tx) => {
      await keepRound(tx, id, wish, Date.now());
      await appendAudit(tx, { actor, action, subject: id, details: { ...wish } });
    });
    await this.tell();
    return rowOf(this.db, await this.known(id));
  }

  private async fits({ scope }: RoundWish): Promise<void> {
    if (scope.kind === 'zone' && (await nameOf(this.db, 'zone', scope.zoneId)) === null)
      throw invalid('The plant has no such zone.', [{ place: 'scope.zoneId', says: 'Choose a zone of the plant.' }]);
    if (scope.kind !== 'links') return;
    const there = new Set(await linksThere(this.db, scope.linkIds));
    const faults = scope.linkIds.flatMap((id, index) =>
      there.has(id) ? [] : [{ place: `scope.linkIds.${index}`, says: `The plant has no link “${id}”.` }],
    );
    if (faults.length > 0) throw invalid('Only links of the plant can be checked.', faults);
  }

  private async known(id: string): Promise<Round> {
    const round = await findRound(this.db, id);
    if (!round) throw notFound('round', id);
    return round;
  }

  private tell(): Promise<void> {
    return this.events.tell({ kind: 'rounds-changed' });
  }
}
