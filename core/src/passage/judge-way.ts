import { sayAddress, sayNumbers } from './addresses.js';
import { canonical, pointsIn, regionOf, states, withPoints } from './flow-set.js';
import type { FlowSet, Region } from './flow-set.js';
import { asRulesSee, judgeFlows } from './judge.js';
import type { Outcome, PassageVerdict } from './judge.js';
import { onePoint, onlyPoint } from './ranges.js';
import type { Rule, RuleSet } from './rule-set.js';
import type { Hop, Way } from './way.js';

/** What becomes of a link’s connections at one firewall. `not-told`: its rules are not known. */
export interface HopVerdict {
  readonly hop: Hop;
  readonly verdict: PassageVerdict | 'not-told';
  readonly rule: Rule | null;
  readonly why: string | null;
  /** Some of what came in stops here, and some doesn’t. */
  readonly isPartly: boolean;
  /** Where it leads instead, `address:port`. */
  readonly translated: string | null;
  /** What comes in here, by its interface, untranslated. */
  readonly flows: FlowSet;
  /** What of it stops, as the rules that stop it see it: where a destination was translated before, translated. */
  readonly stopped: FlowSet;
  /** The connection is opened through it, and what is said of it is said of the answers. */
  readonly isAnswer: boolean;
}

export interface WayVerdict {
  /** The worst on the way. */
  readonly verdict: PassageVerdict | 'not-told';
  readonly hops: readonly HopVerdict[];
  /** Where it stops, or can’t be told; null: nowhere. */
  readonly stopsAt: HopVerdict | null;
}

const worst: readonly HopVerdict['verdict'][] = ['drop', 'reject', 'unknown', 'not-told', 'accept'];

/**
 * Judges connections over all firewalls on their way, translated where they are translated; behind one that stops them nothing
 * is judged. Where all let them through, so must each the answers; one that translates knows its connections, and theirs.
 * @param rulesOf a firewall’s rules by its id; null: not known
 */
export function judgeWay(
  way: Pick<Way, 'hops'>,
  flows: Region,
  rulesOf: (deviceId: string) => RuleSet | null,
): WayVerdict {
  const hops: HopVerdict[] = [];
  let here: FlowSet = [flows];
  for (const hop of way.hops) {
    const { told, next } = judgeHop(hop, here, rulesOf(hop.device.id));
    hops.push(told);
    if (told.verdict === 'drop' || told.verdict === 'reject') break;
    here = next;
  }
  const isThrough = hops.every((hop) => hop.verdict === 'accept');
  const both = isThrough ? hops.map((hop) => withAnswers(hop, rulesOf(hop.hop.device.id))) : hops;
  return worstOf(both);
}

function worstOf(hops: readonly HopVerdict[]): WayVerdict {
  const verdict = worst.find((each) => hops.some((hop) => hop.verdict === each)) ?? 'accept';
  return {
    verdict,
    hops,
    stopsAt: verdict === 'accept' ? null : (hops.find((hop) => hop.verdict === verdict) ?? null),
  };
}

function judgeHop(hop: Hop, flows: FlowSet, rules: RuleSet | null): { told: HopVerdict; next: FlowSet } {
  const asked = flows.map((region) => asMet(hop, region));
  const plain = {
    hop,
    rule: null,
    why: null,
    isPartly: false,
    translated: null,
    flows: asked,
    stopped: [],
    isAnswer: false,
  };
  if (!rules) return { told: { ...plain, verdict: 'not-told' }, next: flows };
  const outcomes = judgeFlows(rules, hop.hook, asked);
  const [leading] = [...outcomes].sort((left, right) => worst.indexOf(left.verdict) - worst.indexOf(right.verdict));
  if (!leading) return { told: { ...plain, verdict: 'unknown', why: 'no packet can come this way' }, next: flows };
  const doubt = outcomes.find(
    (outcome) => outcome.doubt && outcomes.some((other) => other.verdict !== outcome.verdict),
  )?.doubt;
  const isUnsure = doubt !== undefined && doubt !== null && leading.verdict !== 'unknown';
  const accepted = outcomes.filter(({ verdict }) => verdict === 'accept');
  return {
    told: {
      hop,
      flows: asked,
      stopped: canonical(
        outcomes.flatMap((outcome) =>
          outcome.verdict === 'drop' || outcome.verdict === 'reject' ? [asRulesSee(outcome.flows, outcome)] : [],
        ),
      ),
      isAnswer: false,
      isPartly: accepted.length > 0 && (leading.verdict === 'drop' || leading.verdict === 'reject'),
      verdict: isUnsure ? 'unknown' : leading.verdict,
      rule: isUnsure ? doubt.rule : leading.rule,
      why: isUnsure ? doubt.why : leading.why,
      translated: accepted.map(sayTranslation).find((text) => text !== null) ?? null,
    },
    next: accepted.length > 0 ? accepted.map(({ left }) => asSent(left)) : flows,
  };
}

/** A firewall as it is, or with what becomes of the answers where it lets those not through. */
function withAnswers(told: HopVerdict, rules: RuleSet | null): HopVerdict {
  if (!rules || told.translated !== null) return told;
  const answer = judgeHop(backwards(told.hop), told.flows.map(answering), rules).told;
  if (answer.verdict === 'accept') return told;
  const { verdict, rule, why, isPartly } = answer;
  return { ...told, verdict, rule, why, isPartly, isAnswer: true };
}

const backwards = ({ device, hook, in: from, out: to }: Hop): Hop => ({
  device,
  hook: hook === 'input' ? 'output' : hook === 'output' ? 'input' : hook,
  in: to,
  out: from,
});

/** Packets of the same connections, the other way. */
const answering = (region: Region): Region =>
  regionOf({
    source: pointsIn(region, 'destination') ?? [],
    destination: pointsIn(region, 'source') ?? [],
    sourcePort: pointsIn(region, 'destinationPort') ?? [],
    destinationPort: pointsIn(region, 'sourcePort') ?? [],
    protocol: pointsIn(region, 'protocol') ?? [],
    state: onePoint(states.indexOf('established')),
    segment: onePoint(1),
    mark: onePoint(0),
    isTranslated: onePoint(0),
    direction: onePoint(1),
  });

export function asMet(hop: Hop, region: Region): Region {
  const name = (text: string) => (text === '' ? null : [{ from: text, to: `${text}\0` }]);
  const placed = withPoints(withPoints(region, 'inInterface', name(hop.in)), 'outInterface', name(hop.out));
  return hop.hook === 'input' ? withPoints(placed, 'isLocal', onePoint(1)) : placed;
}

/** A packet that left a machine is like any other again. */
export function asSent(left: Region): Region {
  const fresh = regionOf({ mark: onePoint(0), isTranslated: onePoint(0) });
  const kept = (
    ['source', 'destination', 'protocol', 'sourcePort', 'destinationPort', 'state', 'segment', 'direction'] as const
  ).reduce((region, name) => withPoints(region, name, pointsIn(left, name)), fresh);
  return kept;
}

function sayTranslation({ translated, left }: Outcome): string | null {
  if (!translated) return null;
  const address = onlyPoint(pointsIn(left, 'destination') ?? []);
  const [ports = ''] = sayNumbers(pointsIn(left, 'destinationPort') ?? []);
  return address === null ? 'the machine itself' : `${sayAddress(address)}:${ports}`;
}
