import type { PassageDocument } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Queryable } from '../database/database.js';
import { invalid, ProblemError } from '../http/problems.js';
import { importRulesOf } from './keep-rules.js';
import { refuseUnfitConduit, refuseUnfitFirewall, refuseUnfitService } from './fit.js';
import {
  newestRules,
  putConduit,
  putFirewall,
  putService,
  readConduits,
  readFirewalls,
  readServices,
  textOfRules,
} from './store.js';

/** All firewalls with their newest rules, conduits and services. */
export async function passageDocumentOf(db: Queryable): Promise<PassageDocument> {
  const [firewalls, conduits, services, newest] = await Promise.all([
    readFirewalls(db),
    readConduits(db),
    readServices(db),
    newestRules(db),
  ]);
  const rules = new Map<string, PassageDocument['firewalls'][number]['rules']>();
  for (const { firewallId, id, file, takenAt } of newest) {
    const text = await textOfRules(db, id);
    if (text !== null) rules.set(firewallId, { name: file, takenAt, text });
  }
  return {
    format: 'loyal-hinge/passage',
    version: 1,
    firewalls: firewalls.map(({ id, name, machineId, interfaces }) => ({
      id,
      name,
      machineId,
      interfaces: [...interfaces],
      rules: rules.get(id) ?? null,
    })),
    conduits: [...conduits],
    services: services.map((service) => ({ ...service, zoneIds: [...service.zoneIds] })),
  };
}

/** Adds what is new and changes what differs, by ids; what the document doesn’t name stays. @throws a problem, and nothing is kept */
export async function takePassage(
  tx: Queryable,
  { firewalls, conduits, services }: PassageDocument,
  actor: string,
): Promise<{ readonly firewalls: number; readonly conduits: number; readonly services: number }> {
  const known = new Map((await newestRules(tx)).map((about) => [about.firewallId, about.id]));
  for (const [index, { rules = null, ...firewall }] of firewalls.entries())
    await at(`firewalls.${index}`, async () => {
      await refuseUnfitFirewall(tx, firewall);
      await putFirewall(tx, firewall);
      if (rules === null) return;
      const before = known.get(firewall.id);
      if (before !== undefined && (await textOfRules(tx, before)) === rules.text) return;
      await importRulesOf(tx, firewall.id, actor, rules);
    });
  for (const [index, conduit] of conduits.entries())
    await at(`conduits.${index}`, async () => {
      await refuseUnfitConduit(tx, conduit, conduit.id);
      await putConduit(tx, conduit);
    });
  for (const [index, service] of services.entries())
    await at(`services.${index}`, async () => {
      await refuseUnfitService(tx, service);
      await putService(tx, service);
    });
  const counts = { firewalls: firewalls.length, conduits: conduits.length, services: services.length };
  await appendAudit(tx, { actor, action: 'passage imported', subject: 'passage', details: counts });
  return counts;
}

/** Says of a problem at which row of the document it is. */
async function at(place: string, take: () => Promise<void>): Promise<void> {
  try {
    await take();
  } catch (error) {
    if (!(error instanceof ProblemError) || error.problem.status !== 400) throw error;
    const { detail, faults = [] } = error.problem;
    throw invalid(
      `${place}: ${detail}`,
      faults.map((fault) => ({ ...fault, place: `${place}.${fault.place}` })),
    );
  }
}
