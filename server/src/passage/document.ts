import type { PassageDocument } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Queryable } from '../database/database.js';
import { invalid, ProblemError } from '../http/problems.js';
import { importRulesOf } from './keep-rules.js';
import { knownPlaces, refuseUnfitConduit, refuseUnfitFirewall, refuseUnfitService } from './fit.js';
import type { KnownPlaces } from './fit.js';
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
  document: PassageDocument,
  actor: string,
): Promise<{ readonly firewalls: number; readonly conduits: number; readonly services: number }> {
  const { firewalls, conduits, services } = document;
  refuseUnfit(await knownPlaces(tx), document);
  const newest = new Map((await newestRules(tx)).map((about) => [about.firewallId, about.id]));
  for (const [index, { rules = null, ...firewall }] of firewalls.entries()) {
    await putFirewall(tx, firewall);
    if (rules === null) continue;
    const before = newest.get(firewall.id);
    if (before !== undefined && (await textOfRules(tx, before)) === rules.text) continue;
    await importRulesOf(tx, firewall.id, actor, rules).catch((error: unknown) => {
      throw atPlace(`firewalls.${index}.rules`, error);
    });
  }
  for (const conduit of conduits) await putConduit(tx, conduit);
  for (const service of services) await putService(tx, service);
  const counts = { firewalls: firewalls.length, conduits: conduits.length, services: services.length };
  await appendAudit(tx, { actor, action: 'passage imported', subject: 'passage', details: counts });
  return counts;
}

/** As all of it would stand together afterwards. */
function refuseUnfit(known: KnownPlaces, { firewalls, conduits, services }: PassageDocument): void {
  const brought = new Set(conduits.map(({ id }) => id));
  const then: KnownPlaces = {
    ...known,
    firewalls: new Set([...known.firewalls, ...firewalls.map(({ id }) => id)]),
    conduits: [...known.conduits.filter(({ id }) => !brought.has(id)), ...conduits],
  };
  each('firewalls', firewalls, (firewall) => refuseUnfitFirewall(then, firewall));
  each('conduits', conduits, (conduit) => refuseUnfitConduit(then, conduit, conduit.id));
  each('services', services, (service) => refuseUnfitService(then, service));
}

function each<Row extends { readonly id: string }>(part: string, rows: readonly Row[], look: (row: Row) => void): void {
  const seen = new Set<string>();
  for (const [index, row] of rows.entries())
    try {
      if (seen.has(row.id)) throw invalid(`“${row.id}” stands there twice.`, [{ place: 'id', says: 'Give it once.' }]);
      seen.add(row.id);
      look(row);
    } catch (error) {
      throw atPlace(`${part}.${index}`, error);
    }
}

/** Says of a problem at which place of the document it is. */
function atPlace(place: string, error: unknown): unknown {
  if (!(error instanceof ProblemError) || error.problem.status !== 400) return error;
  const { detail, faults = [] } = error.problem;
  return invalid(
    `${place}: ${detail}`,
    faults.map((fault) => ({ ...fault, place: `${place}.${fault.place}` })),
  );
}
