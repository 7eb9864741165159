import {
  clientSideOf,
  isAddressLiteral,
  isPlantFault,
  otherSide,
  tunnelTargetOf,
  tunnelSides,
} from '@loyal-hinge/core';
import type { TunnelledLinkWish, TunnelWish } from '@loyal-hinge/contract';
import { tunnelLimits } from '@loyal-hinge/contract/line';
import type { FromOutpost, TunnelBundle } from '@loyal-hinge/contract/line';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { tellOutpost } from '../events/notices.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import type { OutpostEars } from '../outposts/lines.js';
import { certifiedOf, changeOutpost } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';
import { freeId } from '../system/free-id.js';
import { findMachine, subjectAround } from '../plant/part.js';
import { endIn, knownTunnels, toldToEnd, wantedOfEnd } from './known.js';
import {
  addSample,
  findTunnel,
  leadLink,
  leadStraight,
  putTunnel,
  readLedLinks,
  readTunnels,
  removeTunnel,
} from './store.js';
import type { KeptTunnel } from './store.js';

/** Between two samples of an end that are kept. */
const sampleMs = 15_000;
const loopback = (address: string): boolean => address.startsWith('127.') || address === '::1';

/** Tunnels as they are wanted: what their ends are told follows from that. */
export class TunnelKeeping implements OutpostEars {
  private readonly sampledAt = new Map<string, number>();
  /** A process that was started anew is not joined because the former one was. */
  readonly forgetsFormer = true;

  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
    private readonly askForChecks: (linkIds: readonly string[], actor: string) => Promise<void>,
    /** Told of which end it was heard how it stands. */
    private readonly seen: (outpostId: string) => Promise<void>,
  ) {}

  async add(wish: TunnelWish, actor: string): Promise<{ readonly id: string }> {
    const others = await readTunnels(this.db);
    await this.refuseUnfit(wish, others);
    const id = freeId(
      wish.name,
      others.map((each) => each.id),
    );
    await this.change(actor, 'tunnel added', id, [], (tx) => putTunnel(tx, this.putOf(id, wish)));
    return { id };
  }

  async put(id: string, wish: TunnelWish, actor: string): Promise<void> {
    const kept = await this.known(id);
    await this.refuseUnfit(
      wish,
      (await readTunnels(this.db)).filter((each) => each.id !== id),
    );
    const led = (await readLedLinks(this.db)).filter(({ tunnelId }) => tunnelId === id);
    const isMoved =
      kept.ends.listens.machineId !== wish.listeningMachineId || kept.ends.dials.machineId !== wish.diallingMachineId;
    if (isMoved && led.length > 0)
      throw conflict('Links go through this tunnel.', 'Connect them directly first, or add another tunnel.');
    await this.change(actor, 'tunnel changed', id, endIds(kept), (tx) => putTunnel(tx, this.putOf(id, wish)));
  }

  async remove(id: string, actor: string): Promise<void> {
    const kept = await this.known(id);
    const led = (await readLedLinks(this.db)).filter(({ tunnelId }) => tunnelId === id);
    await this.change(actor, 'tunnel removed', id, endIds(kept), (tx) => removeTunnel(tx, kept));
    await this.askForChecks(
      led.map(({ linkId }) => linkId),
      actor,
    );
  }

  async lead(tunnelId: string, wish: TunnelledLinkWish, actor: string): Promise<void> {
    const { linkId, entranceAddress, entrancePort } = wish;
    const [all, subject] = await Promise.all([knownTunnels(this.db), subjectAround(this.db, linkId)]);
    const known = all.find(({ kept: { id } }) => id === tunnelId);
    if (!known) throw notFound('tunnel', tunnelId);
    if (isPlantFault(subject)) throw notFound('link', linkId);
    const { kept } = known;
    const found = clientSideOf(subject, { name: kept.name, machines: known.machines });
    if (!found.ok) throw invalid(found.says, [{ place: 'linkId', says: found.says }]);
    if (!tunnelTargetOf(subject))
      throw conflict(`${subject.link.name} has no URL that can be dialled.`, 'Mend its URL first.');
    const near = known.machines[found.side];
    if (isAddressLiteral(entranceAddress) && !loopback(entranceAddress) && !near.addresses.includes(entranceAddress)) {
      const says = `${near.name} has no address ${entranceAddress}.`;
      throw invalid(says, [{ place: 'entranceAddress', says }]);
    }
    const taken = all
      .flatMap(({ links, machines }) => links.map((link) => ({ ...link, machine: machines[link.led.side] })))
      .find(
        ({ led, machine }) =>
          led.linkId !== linkId &&
          machine.id === near.id &&
          led.entrancePort === entrancePort &&
          led.entranceAddress === entranceAddress,
      );
    if (taken) {
      const says = `${taken.subject.link.name} has its entrance there already.`;
      throw invalid(says, [{ place: 'entrancePort', says }]);
    }
    const row = { linkId, tunnelId, side: found.side, entranceAddress, entrancePort };
    // The tunnel that it went through until now is told, too.
    const former = all.find(({ links }) => links.some(({ led }) => led.linkId === linkId));
    const ends = [kept, ...(former ? [former.kept] : [])].flatMap(endIds);
    await this.change(actor, 'link led through tunnel', linkId, ends, (tx) => leadLink(tx, row));
    await this.askForChecks([linkId], actor);
  }

  async leadStraight(tunnelId: string, linkId: string, actor: string): Promise<void> {
    const kept = await this.known(tunnelId);
    await this.change(actor, 'link led straight', linkId, endIds(kept), async (tx) => {
      if (!(await leadStraight(tx, tunnelId, linkId))) throw notFound('link of this tunnel', linkId);
    });
    await this.askForChecks([linkId], actor);
  }

  /** Where the client of a link dials a tunnel; null: the link does not go through it. */
  async entranceOf(tunnelId: string, linkId: string): Promise<Omit<TunnelledLinkWish, 'linkId'> | null> {
    const led = (await readLedLinks(this.db)).find((each) => each.tunnelId === tunnelId && each.linkId === linkId);
    return led ? { entranceAddress: led.entranceAddress, entrancePort: led.entrancePort } : null;
  }

  /** All that an end needs beside its key. */
  async bundle(outpostId: string): Promise<TunnelBundle> {
    const end = endIn(await knownTunnels(this.db), outpostId);
    if (!end) throw notFound('end of a tunnel', outpostId);
    const { known, side } = end;
    const [certified, { configuration }] = await Promise.all([
      certifiedOf(this.db, known.kept.ends[side]),
      wantedOfEnd(this.db, known, side),
    ]);
    if (!certified)
      throw conflict('This end has no certificate yet.', 'Bring its request, and have it signed. Then come back.');
    if (!configuration)
      throw conflict(
        `The end on ${known.machines[otherSide(side)].name} has no certificate yet, and this one must know it.`,
        'Have both signed first.',
      );
    return { ...certified, configuration };
  }

  wanted = (outpost: OutpostRow) => toldToEnd(this.db, outpost);

  async told(outpost: OutpostRow, message: FromOutpost): Promise<boolean> {
    if (message.kind !== 'tunnel') return false;
    const before = outpost.told?.kind === 'tunnel' ? outpost.told : null;
    await changeOutpost(this.db, outpost.id, { told: message });
    const { statistics } = message;
    const now = Date.now();
    const isNews =
      before?.revision !== message.revision ||
      before.fault !== message.fault ||
      before.statistics?.state !== statistics?.state;
    if (statistics && (isNews || now - (this.sampledAt.get(outpost.id) ?? 0) > sampleMs)) {
      this.sampledAt.set(outpost.id, now);
      await addSample(this.db, outpost.id, statistics);
      await this.seen(outpost.id);
    }
    return isNews;
  }

  private putOf = (id: string, { name, address, port, limits, listeningMachineId, diallingMachineId }: TunnelWish) => ({
    id,
    name,
    address,
    port,
    limits: tunnelLimits.parse(limits),
    listeningMachineId,
    diallingMachineId,
  });

  private async refuseUnfit(wish: TunnelWish, others: readonly KeptTunnel[]): Promise<void> {
    for (const place of ['listeningMachineId', 'diallingMachineId'] as const)
      if (!(await findMachine(this.db, wish[place])))
        throw invalid(`There is no machine “${wish[place]}”.`, [{ place, says: 'Choose a machine of the plant.' }]);
    const same = others.find(({ name }) => name.toLowerCase() === wish.name.toLowerCase());
    if (same)
      throw invalid(`There is a tunnel “${same.name}” already.`, [{ place: 'name', says: 'Choose another name.' }]);
    const taken = others.find(
      ({ ends, address, port }) =>
        ends.listens.machineId === wish.listeningMachineId && address === wish.address && port === wish.port,
    );
    if (taken)
      throw invalid(`“${taken.name}” listens there already.`, [{ place: 'port', says: 'Choose another port.' }]);
  }

  private async known(id: string): Promise<KeptTunnel> {
    const kept = await findTunnel(this.db, id);
    if (!kept) throw notFound('tunnel', id);
    return kept;
  }

  private async change(
    actor: string,
    action: string,
    subject: string,
    ends: readonly string[],
    carry: (tx: Queryable) => Promise<void>,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      await carry(tx);
      await appendAudit(tx, { actor, action, subject, details: {} });
      for (const id of ends) await tellOutpost(tx, id);
    });
    await this.events.tell({ kind: 'outposts-changed' });
    await this.events.tell({ kind: 'passage-changed' });
  }
}

const endIds = ({ ends }: KeptTunnel): readonly string[] => tunnelSides.map((side) => ends[side].id);
