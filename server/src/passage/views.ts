import {
  anywhere,
  canonical,
  crossingsWithoutConduit,
  isLinkNeed,
  narrowed,
  placeOf,
  readRuleSet,
  sayFlows,
  sayNumbers,
  tightened,
  widthOfConduit,
  withEdit,
  worthOfRules,
} from '@loyal-hinge/core';
import type { Plant, RuleEdit, RuleSet } from '@loyal-hinge/core';
import { passageChange } from '@loyal-hinge/contract';
import type {
  ConduitWidths,
  Firewall,
  FirewallView,
  KeptRules,
  LinkPassage,
  PassageTurns,
  PassageView,
} from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { invalid, notFound } from '../http/problems.js';
import type { KnownPassage } from './known.js';
import { judgedNeed, neededAt, readNeeds } from './needs.js';
import type { JudgedNeed } from './needs.js';
import { readConduits, rulesOf, textOfRules } from './store.js';
import type { AboutRules } from './store.js';
import { firewallsOf, portsOfOpening } from './ways.js';

export async function passageViewOf(db: Queryable): Promise<PassageView> {
  const { plant, known, needs } = await readNeeds(db);
  const judged = needs.map(judgedNeed);
  return {
    zones: plant.zones.map(({ id, name, targetLevel = null }) => ({ id, name, targetLevel })),
    machines: plant.machines.map(({ id, name, zoneId }) => ({ id, name, zoneId })),
    firewalls: firewallsIn(plant, known, judged),
    conduits: [...(await readConduits(db))],
    services: known.services.map((service) => ({ ...service, zoneIds: [...service.zoneIds] })),
    links: judged.map((each) => passageOf(known, each)),
  };
}

function firewallsIn(plant: Plant, known: KnownPassage, judged: readonly JudgedNeed[]): Firewall[] {
  return known.plan.devices.map((device) => {
    const ofLinks = judged.filter(({ need }) => isLinkNeed(need.linkId));
    const over = ofLinks.filter(({ openings }) =>
      openings.some(({ way }) => way.hops.some((hop) => hop.device.id === device.id)),
    );
    const stopped = over.filter(({ openings }) =>
      openings.some(({ hops }) =>
        hops.some((hop) => hop.hop.device.id === device.id && (hop.verdict === 'drop' || hop.verdict === 'reject')),
      ),
    );
    return {
      id: device.id,
      name: device.name,
      machineId: device.machineId,
      machine: plant.machines.find(({ id }) => id === device.machineId)?.name ?? null,
      interfaces: [...device.interfaces],
      rules: keptOf(known.about.get(device.id)),
      links: over.length,
      stopped: stopped.length,
    };
  });
}

function keptOf(about: AboutRules | undefined): KeptRules | null {
  if (!about) return null;
  const { id, takenAt, takenBy, file, format, rules } = about;
  return { id, takenAt, takenBy, file, format, rules };
}

function passageOf(known: KnownPassage, { need, openings }: JudgedNeed): LinkPassage {
  const { judged: _, ...about } = need;
  const way = openings.find(({ opening }) => opening.opens === 'client')?.way ?? openings[0]?.way;
  return {
    ...about,
    zoneIds: [...(way?.zoneIds ?? need.zoneIds)],
    isJoined: way?.isJoined ?? false,
    openings: openings.map((judged) => ({
      purpose: judged.opening.purpose,
      opens: judged.opening.opens,
      between: {
        from: judged.opening.between.from.name,
        to: judged.opening.between.to.name,
        zoneIds: [...judged.way.zoneIds],
      },
      from: [...judged.opening.source],
      to: [...judged.opening.destination],
      protocol: judged.opening.protocol,
      ports: [...sayNumbers(judged.opening.ports)],
      portCount: portsOfOpening(judged.opening),
      verdict: judged.verdict,
      conduitId: judged.way.conduit?.id ?? null,
      firewalls: firewallsOf(known, need.link, judged),
    })),
  };
}

/** Lines of one rule’s unneeded flows that are told. */
const mostUnneeded = 5;

export async function firewallViewOf(db: Queryable, firewallId: string): Promise<FirewallView> {
  const { plant, known, needs } = await readNeeds(db);
  const judged = needs.map(judgedNeed);
  const firewall = firewallsIn(plant, known, judged).find(({ id }) => id === firewallId);
  if (!firewall) throw notFound('firewall', firewallId);
  const rules = known.rulesOf(firewallId);
  const device = known.plan.devices.find(({ id }) => id === firewallId);
  const zoneName = (id: string): string => plant.zones.find((zone) => zone.id === id)?.name ?? id;
  const nameOf = new Map(needs.map(({ linkId, link }) => [linkId, link]));
  return {
    firewall,
    history: (await rulesOf(db, firewallId)).flatMap((about) => keptOf(about) ?? []),
    notes: await notesOf(db, rules, firewall.rules),
    rules: rules
      ? worthOfRules(rules, neededAt(firewallId, judged)).map((told) => ({
          ...placeOf(told.rule),
          text: told.rule.text,
          worth: told.worth,
          needed: [...sayFlows(canonical(anywhere(told.needed)))],
          unneeded: [...sayFlows(told.unneeded.slice(0, mostUnneeded))],
          moreUnneeded: Math.max(0, told.unneeded.length - mostUnneeded),
          narrowed: told.worth === 'too-wide' ? [...narrowed(rules, told).rules] : [],
          tightened: passageChange.safeParse(tightened(rules, told, firewallId)).data ?? null,
          withoutConduit: device
            ? crossingsWithoutConduit(known.plan, device, plant.machines, told.letsThrough).map((crossing) => ({
                from: zoneName(crossing.fromZoneId),
                to: zoneName(crossing.toZoneId),
              }))
            : [],
          shadowedBy: told.shadowedBy.map(placeOf),
          links: told.links.map((id) => ({ id, name: nameOf.get(id) ?? id })),
        }))
      : [],
  };
}

/** Lines of what nobody needs of one conduit that are told. */
const mostOfConduit = 8;

/** What each conduit lets through that nobody needs. */
export async function conduitWidthsOf(db: Queryable): Promise<ConduitWidths> {
  const { plant, known, needs } = await readNeeds(db);
  const judged = needs.flatMap((need) => need.judged());
  return {
    widths: known.plan.conduits.flatMap((conduit) => {
      const openings = judged.filter(({ way }) => way.conduit?.id === conduit.id).map(({ opening }) => opening);
      const width = widthOfConduit(known.plan, conduit, plant.machines, openings, known.rulesOf);
      if (!width) return [];
      return {
        conduitId: conduit.id,
        unneeded: [...sayFlows(width.unneeded.slice(0, mostOfConduit))],
        moreUnneeded: Math.max(0, width.unneeded.length - mostOfConduit),
        unsureAt: width.unsureAt,
      };
    }),
  };
}

/** Notes of rules that can be read, or why they can’t. */
async function notesOf(db: Queryable, rules: RuleSet | null, about: KeptRules | null): Promise<FirewallView['notes']> {
  if (rules) return rules.notes.slice(0, 100).map(({ line, says }) => ({ line, says }));
  const text = about ? await textOfRules(db, about.id) : null;
  const read = text === null ? null : readRuleSet(text, 'auto');
  return read && !read.ok ? [{ line: read.line, says: read.says }] : [];
}

/** Which openings would be judged otherwise, were the rules of one firewall changed. */
export async function turnsOf(db: Queryable, firewallId: string, edits: readonly RuleEdit[]): Promise<PassageTurns> {
  const { known, needs } = await readNeeds(db);
  const before = known.rulesOf(firewallId);
  if (!before) throw notFound('firewall with rules', firewallId);
  let after: RuleSet = before;
  for (const edit of edits) {
    const next = withEdit(after, edit);
    if (!next)
      throw invalid(
        'This can’t be read as a rule of this firewall, or the rule is no longer there. Write it as the firewall does.',
      );
    after = next;
  }
  const changed = (id: string): RuleSet | null => (id === firewallId ? after : known.rulesOf(id));
  return {
    turns: needs.flatMap((need) => {
      const now = need.judged();
      const then = need.judged(changed);
      return now.flatMap((one, index) => {
        const other = then[index];
        return other && other.verdict !== one.verdict
          ? [
              {
                linkId: need.linkId,
                link: need.link,
                purpose: one.opening.purpose,
                before: one.verdict,
                after: other.verdict,
              },
            ]
          : [];
      });
    }),
  };
}
