import type { Machine } from '../plant/plant.js';
import { canonical, newConnection, regionOf, subtract, withPoints } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import { asMet, asSent } from './judge-way.js';
import { judgeFlows } from './judge.js';
import { flowsOfOpening, pointsOf } from './openings.js';
import type { Opening } from './openings.js';
import type { RuleSet } from './rule-set.js';
import { wayBetween } from './way.js';
import type { Conduit, Hop, PassagePlan } from './way.js';

/** What the firewalls of a conduit let through, beside what is needed of it. */
export interface ConduitWidth {
  readonly conduitId: string;
  /**
   * New connections between machines of its two zones that get through and that nobody needs, in their one form, as they come
   * out of its last firewall.
   */
  readonly unneeded: FlowSet;
  /** A firewall of which the rules aren’t known, or don’t tell all; null: it is known of all. */
  readonly unsureAt: string | null;
}

/**
 * What a conduit lets through from machines of the one zone to those of the other that no opening needs (IEC 62443-3-3, SR 5.2:
 * deny by default, allow by exception).
 * @param openings all that is needed over this conduit
 * @returns null: no firewall is on it
 */
export function widthOfConduit(
  plan: PassagePlan,
  conduit: Conduit,
  machines: readonly Pick<Machine, 'zoneId' | 'addresses'>[],
  openings: readonly Opening[],
  rulesOf: (deviceId: string) => RuleSet | null,
): ConduitWidth | null {
  const { hops } = wayBetween(
    plan,
    { id: `from ${conduit.id}`, zoneId: conduit.fromZoneId },
    { id: `to ${conduit.id}`, zoneId: conduit.toZoneId },
  );
  if (hops.length === 0) return null;
  const addressesIn = (zoneId: string) =>
    pointsOf(machines.filter((machine) => machine.zoneId === zoneId).flatMap(({ addresses }) => addresses));
  const [source, destination] = [addressesIn(conduit.fromZoneId), addressesIn(conduit.toZoneId)];
  if (source.length === 0 || destination.length === 0) return { conduitId: conduit.id, unneeded: [], unsureAt: null };
  const all = through([regionOf({ source, destination, ...newConnection })], hops, rulesOf);
  const needed = openings.flatMap((opening) => {
    const flows = flowsOfOpening(opening);
    return flows ? through([withPoints(flows, 'sourcePort', null)], hops, rulesOf).flows : [];
  });
  const unneeded = needed.reduce<FlowSet>((rest, region) => subtract(rest, [region]), all.flows);
  return { conduitId: conduit.id, unneeded: canonical(unneeded), unsureAt: all.unsureAt };
}

interface Through {
  readonly flows: FlowSet;
  readonly unsureAt: string | null;
}

/** What of some flows gets over all firewalls of a way, as it comes out of the last one. */
function through(flows: FlowSet, hops: readonly Hop[], rulesOf: (deviceId: string) => RuleSet | null): Through {
  let here: FlowSet = flows;
  let unsureAt: string | null = null;
  for (const hop of hops) {
    const rules = rulesOf(hop.device.id);
    if (!rules) return { flows: [], unsureAt: hop.device.name };
    const outcomes = judgeFlows(
      rules,
      hop.hook,
      here.map((region) => asMet(hop, region)),
    );
    if (outcomes.some(({ verdict, doubt }) => verdict === 'unknown' || doubt !== null)) unsureAt ??= hop.device.name;
    here = outcomes.flatMap(({ verdict, left }): readonly Region[] => (verdict === 'accept' ? [asSent(left)] : []));
  }
  return { flows: here, unsureAt };
}
