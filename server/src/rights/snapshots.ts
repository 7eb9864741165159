import { randomUUID } from 'node:crypto';
import type { Logger } from 'pino';
import { assess, isPlantFault, usualRules } from '@loyal-hinge/core';
import type { Fact, LinkInPlant, SecurityMode } from '@loyal-hinge/core';
import type { RightsSnapshot, SnapshotState, SnapshotWish } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, notFound } from '../http/problems.js';
import { meansOfLink } from '../means/means-of-link.js';
import { subjectAround } from '../plant/part.js';
import { memoryLog } from '../probe/memory-log.js';
import { walkLink } from '../probe/walk-link.js';
import type { MachineLocks } from '../processes/machine-locks.js';
import type { ServerProcess } from '../processes/server-process.js';
import type { SecretStore } from '../secrets/sealing.js';
import { serverWithIdentities } from './identities.js';
import type { ServerIdentity, ServerWithIdentities } from './identities.js';
import {
  addNodes,
  addSnapshots,
  endOrphaned,
  findSnapshot,
  moveSnapshot,
  patternOf,
  removeSnapshot,
  snapshotView,
} from './store.js';
import type { SnapshotRow } from './store.js';
import { SpaceWalk, mostNodes } from './walk-space.js';

const patienceMs = 5 * 60_000;
/** A session that ends in the middle is opened again, as long as the one before has seen something. */
const mostSessions = 20;
const tellEveryMs = 500;

interface Walked {
  readonly state: SnapshotState;
  readonly says: string | null;
}

/** Takes snapshots of rights: signs in as each identity in turn, and walks through all nodes. Nothing is written at a server. */
export class RightsSnapshots {
  /** What cancels each snapshot that waits or is being taken. */
  private readonly running = new Map<string, AbortController>();
  /** Servers of which snapshots are being taken. */
  private readonly servers = new Set<string>();
  private readonly stopping = new AbortController();
  private readonly work = new Set<Promise<void>>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly locks: Pick<MachineLocks, 'take'>,
    private readonly server: Pick<ServerProcess, 'id'>,
    private readonly events: EventLog,
    private readonly logger: Logger,
  ) {}

  /** Begins one for each identity of a server; they are taken one after the other. */
  async begin(serverId: string, wish: SnapshotWish, actor: string): Promise<RightsSnapshot[]> {
    const server = await serverWithIdentities(this.db, serverId);
    if (this.servers.has(serverId))
      throw conflict('A snapshot of this server is being taken.', 'Wait until it ends, or cancel it.');
    this.servers.add(serverId);
    try {
      return await this.beginAt(server, wish.part || null, actor);
    } catch (error) {
      this.servers.delete(serverId);
      throw error;
    }
  }

  private async beginAt(
    { id: serverId, identities }: ServerWithIdentities,
    part: string | null,
    actor: string,
  ): Promise<RightsSnapshot[]> {
    const rows = identities.map((identity) => ({
      id: randomUUID(),
      serverId,
      userName: identity.userName,
      linkId: identity.by,
      part,
      askedBy: actor,
      processId: this.server.id,
    }));
    await this.db.transaction(async (tx) => {
      await addSnapshots(tx, rows);
      const names = identities.map(({ userName }) => userName || 'anonymous');
      const details = { identities: names, ...(part === null ? {} : { part }) };
      await appendAudit(tx, { actor, action: 'rights snapshot asked for', subject: serverId, details });
    });
    for (const { id } of rows) this.running.set(id, new AbortController());
    const work = this.takeAll(serverId, identities, rows).finally(() => {
      this.servers.delete(serverId);
      this.work.delete(work);
    });
    this.work.add(work);
    const kept = await Promise.all(rows.map(({ id }) => findSnapshot(this.db, id)));
    return kept.flatMap((row) => (row ? [snapshotView(row)] : []));
  }

  async cancel(id: string): Promise<void> {
    const row = await findSnapshot(this.db, id);
    if (!row) throw notFound('snapshot', id);
    const running = this.running.get(id);
    if (!running) throw conflict('This snapshot is not being taken here.', 'Check its state.');
    running.abort(new Error('it was cancelled.'));
  }

  async remove(id: string, actor: string): Promise<void> {
    const row = await findSnapshot(this.db, id);
    if (!row) throw notFound('snapshot', id);
    if (this.running.has(id)) throw conflict('This snapshot is being taken.', 'Cancel it first.');
    await this.db.transaction(async (tx) => {
      if (await removeSnapshot(tx, id))
        await appendAudit(tx, { actor, action: 'rights snapshot removed', subject: row.serverId, details: { id } });
    });
    await this.tell(row.serverId, row.nodes, 'cancelled');
  }

  endOrphaned = (): Promise<void> => endOrphaned(this.db);

  /** Ends what is being taken; called before the server stops. */
  async settle(): Promise<void> {
    this.stopping.abort(new Error('the server stops.'));
    await Promise.all(this.work);
  }

  private async takeAll(
    serverId: string,
    identities: readonly ServerIdentity[],
    rows: readonly Pick<SnapshotRow, 'id' | 'userName' | 'part'>[],
  ): Promise<void> {
    for (const { id, userName, part } of rows) {
      const identity = identities.find((one) => one.userName === userName);
      const cancelling = this.running.get(id);
      if (!identity || !cancelling) continue;
      const signal = AbortSignal.any([cancelling.signal, this.stopping.signal]);
      const walk = new SpaceWalk(patternOf(part));
      const { state, says } = await this.take(serverId, id, identity, walk, signal).catch((error: unknown): Walked => {
        if (!signal.aborted) this.logger.error({ err: error, snapshotId: id }, 'a snapshot of rights failed');
        return ended(
          walk,
          signal,
          signal.aborted ? String((signal.reason as Error).message) : 'the server met an error.',
        );
      });
      const endedAt = new Date().toISOString();
      await persist(patienceMs, () =>
        moveSnapshot(this.db, id, ['waiting', 'running'], { state, says, endedAt, nodes: walk.nodes }),
      ).catch(() => undefined);
      this.running.delete(id);
      await this.tell(serverId, walk.nodes, state);
    }
  }

  private async take(
    serverId: string,
    id: string,
    identity: ServerIdentity,
    walk: SpaceWalk,
    signal: AbortSignal,
  ): Promise<Walked> {
    const found = await persist(patienceMs, () => subjectAround(this.db, identity.by));
    if (isPlantFault(found)) return { state: 'failed', says: found.says };
    const subject = identity.userName === '' ? asNobody(found) : found;
    await persist(patienceMs, () => moveSnapshot(this.db, id, ['waiting'], { state: 'running' }));
    await this.tell(serverId, 0, 'running');
    const who = identity.userName || 'anonymous';
    const wish = { holder: `the rights snapshot of ${subject.server.name} as ${who}`, signal };
    return this.locks.take(subject.serverMachine.id, wish, async (lost) => {
      let why: string | null = null;
      for (let sessions = 0; sessions < mostSessions && !walk.isWhole && !walk.isTooLarge; sessions += 1) {
        const before = walk.nodes;
        why = await this.throughOneSession(serverId, id, subject, walk, AbortSignal.any([signal, lost]));
        if (why !== null && walk.nodes === before) break;
      }
      return ended(walk, signal, why);
    });
  }

  /** @returns why it is not over; null: it is */
  private async throughOneSession(
    serverId: string,
    id: string,
    subject: LinkInPlant,
    walk: SpaceWalk,
    signal: AbortSignal,
  ): Promise<string | null> {
    const means = await persist(patienceMs, () => meansOfLink(this.db, this.secrets, subject));
    const log = memoryLog();
    const { facts } = log;
    let wasOpen = false;
    let toldAt = 0;
    await walkLink(subject, means, log, signal, async (session) => {
      wasOpen = true;
      const mode = modeIn(facts);
      await walk.goOn(
        session,
        async (seen) => {
          const nodes = walk.nodes + seen.length;
          await persist(patienceMs, () => addNodes(this.db, id, seen, { nodes, mode }));
          if (Date.now() - toldAt < tellEveryMs) return;
          toldAt = Date.now();
          await this.tell(serverId, nodes, 'running');
        },
        signal,
      );
    });
    signal.throwIfAborted();
    if (walk.isWhole || walk.isTooLarge) return null;
    const stop = facts.findLast((fact) => fact.kind === 'check-stopped');
    if (wasOpen) return stop ? `The session ended: ${stop.reason}` : 'The session ended.';
    return assess(subject, facts, usualRules, new Date().toISOString()).headline;
  }

  private async tell(serverId: string, nodes: number, state: SnapshotState): Promise<void> {
    await this.events.tell({ kind: 'rights-changed', serverId, nodes, state }).catch(() => undefined);
  }
}

function ended(walk: SpaceWalk, signal: AbortSignal, why: string | null): Walked {
  const { refused } = walk;
  const unseen =
    refused.length === 0
      ? null
      : `${refused.length} nodes could not be looked at, such as ${refused[0]?.path.join('/') || 'Objects'} (${refused[0]?.code ?? ''}).`;
  if (walk.isWhole) return { state: 'whole', says: unseen };
  if (walk.isTooLarge) return { state: 'part', says: `It has more than ${mostNodes} nodes; these were seen.` };
  if (signal.aborted) return { state: 'cancelled', says: why ?? 'It was cancelled.' };
  return { state: walk.nodes > 0 ? 'part' : 'failed', says: why };
}

/** The same link, by somebody without a name. */
const asNobody = (subject: LinkInPlant): LinkInPlant => ({
  ...subject,
  link: { ...subject.link, identity: { kind: 'anonymous' }, chosenEndpoint: null },
});

/** The mode of the session’s channel, which was noted when it was opened. */
function modeIn(facts: readonly Fact[]): SecurityMode {
  const channel = facts.findLast((fact) => fact.kind === 'channel');
  return (channel?.kind === 'channel' ? channel.securityMode : null) ?? 'None';
}
