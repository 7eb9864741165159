import { asc, eq, inArray } from 'drizzle-orm';
import type { Probe, ProbesView, ProbeWish } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { applications, links, machines } from '../database/schema.js';
import type { EventLog } from '../events/event-log.js';
import { tellOutpost } from '../events/notices.js';
import { invalid, notFound } from '../http/problems.js';
import { findOutpost, shownOutposts } from '../outposts/store.js';
import { freeId } from '../system/free-id.js';
import { machinesOfProbes, putProbe, readProbes, removeProbe, takenMachines } from './store.js';

/** Probes: where they run, and for which machines they stand. */
export class ProbeKeeping {
  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
  ) {}

  async view(): Promise<Omit<ProbesView, 'door'>> {
    const [rows, of, all] = await Promise.all([
      readProbes(this.db),
      machinesOfProbes(this.db),
      this.db.select({ id: machines.id, name: machines.name }).from(machines).orderBy(asc(machines.name)),
    ]);
    const shown = await shownOutposts(this.db, rows);
    const counts = await this.linksFrom([...of.values()].flat());
    const probes = rows.map((row, index): Probe => {
      const outpost = shown[index];
      if (!outpost) throw notFound('probe', row.id);
      const ids = of.get(row.id) ?? [];
      return {
        outpost,
        machines: all.filter(({ id }) => ids.includes(id)),
        ranges: row.told?.kind === 'probe' ? row.told.ranges : null,
        links: ids.reduce((sum, machineId) => sum + (counts.get(machineId) ?? 0), 0),
      };
    });
    return { probes, machines: all };
  }

  async add(wish: ProbeWish, actor: string): Promise<{ readonly id: string }> {
    await this.refuseUnfit(wish, null);
    const others = await readProbes(this.db);
    const id = freeId(
      `probe ${wish.name}`,
      others.map((each) => each.id),
    );
    await this.change(actor, 'probe added', id, (tx) => putProbe(tx, { id, ...wish }));
    return { id };
  }

  async put(id: string, wish: ProbeWish, actor: string): Promise<void> {
    const row = await findOutpost(this.db, id);
    if (row?.kind !== 'probe') throw notFound('probe', id);
    await this.refuseUnfit(wish, id);
    // Its certificate names the probe and no machine: it may be carried to another one.
    await this.change(actor, 'probe changed', id, (tx) => putProbe(tx, { id, ...wish }));
  }

  async remove(id: string, actor: string): Promise<void> {
    const row = await findOutpost(this.db, id);
    if (row?.kind !== 'probe') throw notFound('probe', id);
    await this.change(actor, 'probe removed', id, (tx) => removeProbe(tx, id));
  }

  private async linksFrom(machineIds: readonly string[]): Promise<ReadonlyMap<string, number>> {
    if (machineIds.length === 0) return new Map();
    const rows = await this.db
      .select({ machineId: applications.machineId })
      .from(links)
      .innerJoin(applications, eq(applications.id, links.clientId))
      .where(inArray(applications.machineId, [...machineIds]));
    const counts = new Map<string, number>();
    for (const { machineId } of rows) counts.set(machineId, (counts.get(machineId) ?? 0) + 1);
    return counts;
  }

  private async refuseUnfit({ name, machineId, machineIds }: ProbeWish, own: string | null): Promise<void> {
    const wanted = [...new Set([machineId, ...machineIds])];
    const there = await this.db
      .select({ id: machines.id, name: machines.name })
      .from(machines)
      .where(inArray(machines.id, wanted))
      .orderBy(asc(machines.name));
    const missing = wanted.find((id) => !there.some((each) => each.id === id));
    if (missing !== undefined)
      throw invalid(`There is no machine “${missing}”.`, [
        { place: missing === machineId ? 'machineId' : 'machineIds', says: 'Choose a machine of the plant.' },
      ]);
    const same = (await readProbes(this.db)).find(
      (each) => each.id !== own && each.name.toLowerCase() === name.toLowerCase(),
    );
    if (same)
      throw invalid(`There is a probe “${same.name}” already.`, [{ place: 'name', says: 'Choose another name.' }]);
    const others = await takenMachines(this.db, machineIds, own);
    const taken = there.flatMap((machine) => {
      const other = others.find((each) => each.machineId === machine.id);
      return other ? [{ machine: machine.name, probe: other.name }] : [];
    })[0];
    if (taken) {
      const says = `“${taken.probe}” stands for ${taken.machine} already.`;
      throw invalid(says, [{ place: 'machineIds', says }]);
    }
  }

  private async change(
    actor: string,
    action: string,
    id: string,
    carry: (tx: Queryable) => Promise<void>,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      await carry(tx);
      await appendAudit(tx, { actor, action, subject: id, details: {} });
      await tellOutpost(tx, id);
    });
    await this.events.tell({ kind: 'outposts-changed' });
  }
}
