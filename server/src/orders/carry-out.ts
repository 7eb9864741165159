import type { Logger } from 'pino';
import { givesCertificate, stageOf, targetOf, undoOf, wayWords } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { WorkOrder } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import type { HeavyWork } from '../heavy/heavy-work.js';
import { ProblemError, conflict, invalid, notFound } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import type { Links } from '../links/service.js';
import type { ServerProcess } from '../processes/server-process.js';
import { authoritiesHere } from '../trust/authorities/store.js';
import type { Carried, TrustCarrier } from '../trust/carrier.js';
import type { CertificateRenewal } from '../trust/renewal.js';
import { clientsHeld, wayOf } from '../trust/store.js';
import { batchesOf } from './batches.js';
import type { Batch } from './batches.js';
import type { RenewalProof } from './renewal-proof.js';
import { isSignedHere } from './shown.js';
import { StageGate } from './stage-gate.js';
import type { WorkOrders } from './service.js';
import { wantsAnother } from './wants-another.js';
import { claimLines, findOrder, linesOf, moveLines, moveOrder, releaseInterrupted, releaseOrder } from './store.js';
import type { LineRow } from './store.js';

/** How long an order keeps trying to write down what it did while the database is away. */
const patienceMs = 5 * 60_000;

const isBeingCarriedOut = () => conflict('This order is being carried out.', 'Watch its lines.');

/** Carries work orders out, line by line, in the background of the call that asked for it. */
export class OrderCarrier {
  private readonly running = new Map<string, Promise<void>>();
  /** Orders that this process has begun, or is about to. */
  private readonly atWork = new Set<string>();
  private readonly stopping = new AbortController();

  constructor(
    private readonly db: Database,
    private readonly heavy: Pick<HeavyWork, 'run'>,
    private readonly server: Pick<ServerProcess, 'id'>,
    private readonly orders: WorkOrders,
    private readonly carrier: TrustCarrier,
    private readonly renewal: CertificateRenewal,
    private readonly links: Pick<Links, 'askAfresh'>,
    private readonly proof: Pick<RenewalProof, 'doubts'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  /** Begins with an approved order, or goes on with one that stopped at a failure. */
  async begin(id: string, passphrase: string | undefined, actor: Actor): Promise<WorkOrder> {
    const order = await findOrder(this.db, id);
    if (!order) throw notFound('work order', id);
    const lines = await linesOf(this.db, id);
    const open = lines.filter(({ state }) => state === 'waiting' || state === 'failed');
    const signers = await authoritiesHere(this.db);
    if (open.some(({ change }) => isSignedHere(change, signers)) && passphrase === undefined)
      throw invalid('An authority must sign for this order, so its passphrase is needed.', [
        { place: 'passphrase', says: 'It is used once and never kept.' },
      ]);
    if (this.atWork.has(id)) throw isBeingCarriedOut();
    this.atWork.add(id);
    try {
      await this.noteBegun(id, open.length, actor);
    } catch (error) {
      this.atWork.delete(id);
      throw error;
    }
    const work = this.work(id, open, passphrase ?? '', actor.name)
      .catch(async (error: unknown) => {
        if (!this.stopping.signal.aborted) this.logger.error({ err: error, orderId: id }, 'a work order stopped');
        await persist(patienceMs, () => releaseOrder(this.db, id));
      })
      .finally(() => {
        this.running.delete(id);
        this.atWork.delete(id);
      });
    this.running.set(id, work);
    return this.orders.one(id);
  }

  private noteBegun(id: string, lines: number, actor: Actor): Promise<void> {
    return this.db.transaction(async (tx) => {
      if (!(await moveOrder(tx, id, ['approved', 'done'], { state: 'running', serverId: this.server.id })))
        throw (await findOrder(tx, id))?.state === 'running'
          ? isBeingCarriedOut()
          : conflict('Only an approved order is carried out.', 'Have it approved first.');
      await appendAudit(tx, { actor: actor.name, action: 'work order carried out', subject: id, details: { lines } });
    });
  }

  /** Releases what a process that is gone left in the middle, and what this one began without ever hearing that it had. */
  releaseInterrupted(): Promise<void> {
    return releaseInterrupted(this.db, { serverId: this.server.id, isAtWork: (id) => this.atWork.has(id) });
  }

  /** Waits for what is being carried out, and no longer for its proof; called before the server stops. */
  async settle(): Promise<void> {
    this.stopping.abort();
    await Promise.all(this.running.values());
  }

  /** A person says that a line is done at the machine, and with it all that goes to the same machine in one bundle. */
  async doneByHand(id: string, position: number, actor: Actor): Promise<WorkOrder> {
    const lines = await linesOf(this.db, id);
    const asked = lines.find((line) => line.position === position);
    if (!asked) throw notFound('line', String(position));
    const together = lines.filter(({ change }) => targetOf(change) === targetOf(asked.change));
    const positions = together.map((line) => line.position);
    await this.db.transaction(async (tx) => {
      const at = new Date().toISOString();
      const says = `${actor.name} says that it is done.`;
      const moved = await moveLines(tx, id, positions, ['by hand'], { state: 'done', says, by: actor.name, at });
      if (moved.length === 0) throw conflict('This line does not wait for a person.', 'Look at how it stands now.');
      await appendAudit(tx, { actor: actor.name, action: 'lines done by hand', subject: id, details: { positions } });
    });
    await this.askForChecks([...new Set(together.flatMap(({ linkIds }) => linkIds))], actor.name);
    await this.orders.prove(id);
    return this.orders.one(id);
  }

  /**
   * Carries the way back of a line out; where the plant wants a second person for that, it is proposed as an order of its own.
   * @returns the order of the line, or the one that was proposed
   */
  async undo(id: string, position: number, actor: Actor): Promise<WorkOrder> {
    const line = (await linesOf(this.db, id)).find((row) => row.position === position);
    if (!line) throw notFound('line', String(position));
    const change = undoOf(line.change);
    if (!change)
      throw conflict(
        'The way back of this line is not a change that the product can make.',
        'See the history of the lists.',
      );
    if (line.state !== 'done' && line.state !== 'proved')
      throw conflict('This line was not carried out, or is being undone.', 'Look at how it stands now.');
    if (!line.wrote) throw conflict('This line changed nothing: all was so already.', 'There is nothing to undo.');
    if (await wantsAnother(this.db)) {
      const title = `Undo line ${position} of “${(await findOrder(this.db, id))?.title ?? id}”`.slice(0, 200);
      const why = `It takes back what ${line.by ?? 'somebody'} carried out.`;
      return this.orders.propose({ title, lines: [{ change, why, linkIds: line.linkIds }] }, actor);
    }
    await this.undoNow(line, change, actor);
    await this.askForChecks(line.linkIds, actor.name);
    await this.orders.prove(id);
    return this.orders.one(id);
  }

  private async undoNow(line: LineRow, change: TrustChange, actor: Actor): Promise<void> {
    const { orderId, position, state } = line;
    const move = (...[from, to]: [LineRow['state'], Parameters<typeof moveLines>[4]]): Promise<LineRow[]> =>
      moveLines(this.db, orderId, [position], [from], to);
    const claimed = await move(state, { state: 'undoing', serverId: this.server.id });
    if (claimed.length === 0)
      throw conflict('Somebody else undoes this line, or has done so.', 'Look at how it stands now.');
    let carried: Carried;
    try {
      carried = await this.carry(targetOf(change), [change], '', actor.name, `${orderId}/${position}/undo`);
    } catch (error) {
      await persist(patienceMs, () => move('undoing', { state, says: line.says }));
      throw error;
    }
    const says =
      carried.idle?.length === 1 ? 'Nothing was left to undo: it was so already.' : `Undone. ${carried.says}`;
    const at = new Date().toISOString();
    await persist(patienceMs, () =>
      this.db.transaction(async (tx) => {
        const undone = { state: 'undone', says, by: actor.name, at, provedAt: null } as const;
        if ((await moveLines(tx, orderId, [position], ['undoing'], undone)).length === 0) return;
        const details = { position, nothingLeft: carried.idle?.length === 1 };
        await appendAudit(tx, { actor: actor.name, action: 'line undone', subject: orderId, details });
      }),
    );
  }

  private async work(id: string, open: readonly LineRow[], passphrase: string, actor: string): Promise<void> {
    const gate = await this.gateOf(id, actor);
    for (const batch of batchesOf(open)) {
      const waits = await gate.heldBackBy(batch);
      if (waits === null) await this.carryOut(id, batch, passphrase, actor);
      else await this.holdBack(id, batch, waits);
      await this.tell(id);
    }
    await persist(patienceMs, () => this.orders.prove(id));
    await persist(patienceMs, () => this.db.transaction((tx) => moveOrder(tx, id, ['running'], { state: 'approved' })));
    await this.askForChecks([...new Set(open.flatMap(({ linkIds }) => linkIds))], actor);
    await this.tell(id);
  }

  /** Nothing is renewed or taken away while what lets it in, or takes its place, is not there or not proved. */
  private async gateOf(id: string, actor: string): Promise<StageGate> {
    const links = await persist(patienceMs, () => this.heavy.run('trustLinks', undefined));
    const linesNow = async (): Promise<readonly LineRow[]> => {
      await persist(patienceMs, () => this.orders.prove(id));
      return persist(patienceMs, () => linesOf(this.db, id));
    };
    return new StageGate(links, linesNow, async (renewals) => {
      await this.sayTried(id);
      const order = await persist(patienceMs, () => findOrder(this.db, id));
      const since = new Date(order?.decidedAt ?? Date.now()).toISOString();
      return this.proof.doubts(renewals, links, since, actor, this.stopping.signal);
    });
  }

  /** Trying new certificates takes a while: the lines that wait for it say so. */
  private async sayTried(id: string): Promise<void> {
    const waiting = (await persist(patienceMs, () => linesOf(this.db, id))).filter(
      ({ change }) => stageOf(change) === 2,
    );
    const positions = waiting.map(({ position }) => position);
    const says = 'The new certificates are tried first, on every link of theirs.';
    await persist(patienceMs, () => moveLines(this.db, id, positions, ['waiting'], { state: 'waiting', says }));
    await this.tell(id);
  }

  private async holdBack(id: string, { lines }: Batch, says: string): Promise<void> {
    const positions = lines.map(({ position }) => position);
    await persist(patienceMs, () =>
      moveLines(this.db, id, positions, ['waiting', 'failed'], { state: 'waiting', says }),
    );
  }

  private tell(orderId: string): Promise<void> {
    return persist(patienceMs, () => this.events.tell({ kind: 'order-changed', orderId }));
  }

  /** One batch: claimed, carried out, and noted. */
  private async carryOut(id: string, { target, lines }: Batch, passphrase: string, actor: string): Promise<void> {
    const positions = lines.map(({ position }) => position);
    const at = new Date().toISOString();
    if (await this.isByHand(target)) {
      const way = wayWords[(await wayOf(this.db, target))?.way ?? 'unknown'];
      const says = lines.some(({ change }) => givesCertificate(change))
        ? 'It takes no certificate from here. Have it make a request and sign that on the Authority page, or make a ticket for it; then say that it is done.'
        : `It goes ${way}. Fetch the bundle, take it there, then say that it is done.`;
      await moveLines(this.db, id, positions, ['waiting', 'failed'], { state: 'by hand', says, by: actor, at });
      return;
    }
    const claim = { by: actor, at, serverId: this.server.id };
    const claimed = await persist(patienceMs, () => claimLines(this.db, id, positions, claim));
    if (claimed.length === 0) return;
    await this.tell(id);
    try {
      const changes = claimed.map(({ change }) => change);
      const {
        says,
        restarted,
        idle = [],
      } = await this.carry(target, changes, passphrase, actor, `${id}/${positions[0] ?? 0}`);
      await persist(patienceMs, () =>
        this.db.transaction(async (tx) => {
          const moved = await moveLines(tx, id, positions, ['claimed'], { state: 'done', says, restarted });
          // Nothing moves where the answer to the same words was lost with its connection: it is written down then.
          if (moved.length === 0) return;
          const idleAt = claimed.filter(({ change }) => idle.includes(change)).map(({ position }) => position);
          await moveLines(tx, id, idleAt, ['done'], { state: 'done', wrote: false });
          await appendAudit(tx, {
            actor,
            action: 'lists changed',
            subject: target,
            details: { order: id, lines: positions },
          });
        }),
      );
    } catch (error) {
      if (!(error instanceof ProblemError)) this.logger.error({ err: error, orderId: id, target }, 'a line failed');
      const says =
        error instanceof ProblemError
          ? `${error.problem.detail} ${error.problem.remedy}`
          : 'The server met an error. Read the lists of the target, then carry it out again.';
      await persist(patienceMs, () => moveLines(this.db, id, positions, ['claimed'], { state: 'failed', says }));
    }
  }

  private async carry(
    target: string,
    changes: readonly TrustChange[],
    passphrase: string,
    actor: string,
    forLine: string,
  ): Promise<Carried> {
    const [first] = changes;
    switch (first?.kind) {
      case 'renew-certificate':
        return this.renewal.renew(target, first.authority, passphrase, actor, forLine);
      case 'install-certificate':
        return this.renewal.install(target, first.thumbprint, actor);
      default:
        return this.carrier.change(target, changes, actor);
    }
  }

  private async isByHand(target: string): Promise<boolean> {
    const [held, way] = await Promise.all([clientsHeld(this.db), wayOf(this.db, target)]);
    return !held.has(target) && way?.way !== 'push';
  }

  private async askForChecks(linkIds: readonly string[], actor: string): Promise<void> {
    await this.links
      .askAfresh(linkIds, actor)
      .catch((error: unknown) => this.logger.warn({ err: error }, 'links could not be checked after a change'));
  }
}
