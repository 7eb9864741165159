import { assess, leadingFindings } from '../../links/assess.js';
import type { LinkAssessment } from '../../links/assess.js';
import type { Finding, Rules } from '../../links/cause.js';
import type { Fact } from '../../links/facts.js';
import type { StepId } from '../../links/steps.js';
import { signInNameOf } from '../../plant/signing-in.js';
import type { LinkInPlant, Plant } from '../../plant/plant.js';
import type { Attempt } from './attempt.js';
import type { Fall } from './fall.js';
import { addTo } from './add-to.js';
import { guessesIn } from './guesses.js';
import { isNotTold, LinkFinder } from './link-of-attempt.js';
import { scansIn } from './scans.js';
import { notCalledBack } from './watch-fact.js';

/** What makes one case of several attempts: who, whom, and why it failed. */
export type CaseKind =
  /** A link of the plant failed. */
  | 'link'
  /** Somebody tried to reach a machine of the plant, and no link says that he may. */
  | 'stranger'
  /** One machine tried many ports in a short time. */
  | 'scan'
  /** Many sign-ins from one place were refused in a short time. */
  | 'guessing'
  /** Nobody tells from where it was tried, or the plant knows neither end. */
  | 'unknown';

export interface Rhythm {
  /** The usual time between two attempts. */
  readonly everyMs: number;
  /** Whether most of them keep to it. */
  readonly isRegular: boolean;
}

export interface Case {
  /** What its attempts have in common, as a text: with the first of them it names the case. */
  readonly key: string;
  readonly kind: CaseKind;
  readonly linkId: string | null;
  /** Names of machines, or addresses where they are not known. */
  readonly from: string;
  readonly to: string;
  readonly ports: readonly number[];
  readonly as: string | null;
  readonly step: StepId | null;
  readonly causeId: string | null;
  /** In a few words. */
  readonly title: string;
  /** In one sentence, in the words of a live check where a link is known. */
  readonly says: string;
  readonly findings: readonly Finding[];
  /** What the last attempt shows of the link; null: it is none of a link. */
  readonly assessment: LinkAssessment | null;
  readonly first: number;
  readonly last: number;
  /** Attempts and checks. */
  readonly count: number;
  /** null: there were too few to tell. */
  readonly rhythm: Rhythm | null;
  readonly remarks: readonly string[];
  readonly attempts: readonly Attempt[];
  /** When checks saw the same. */
  readonly falls: readonly Fall[];
}

/** After so long without an attempt a case is over, and the next one is another. */
const usualGapMs = 24 * 3_600_000;

export interface CaseBook {
  readonly cases: readonly Case[];
  /** Attempts that worked, by link. */
  readonly worked: ReadonlyMap<string, readonly Attempt[]>;
}

/**
 * Groups attempts into cases and judges them by the causes of live checks.
 * @param attempts joined, in the order of their starts
 * @param falls of links that checks saw parted: the same link and cause make the same case
 */
export function casesOf(
  attempts: readonly Attempt[],
  plant: Plant,
  rules: Rules,
  falls: readonly Fall[] = [],
  gapMs = usualGapMs,
): CaseBook {
  const finder = new LinkFinder(plant);
  const scans = scansIn(attempts);
  const guesses = guessesIn(attempts, (attempt) => finder.linkOf(attempt) !== null);
  const causes = new Causes(rules);
  const groups = new Map<string, Seen[]>();
  const worked = new Map<string, Attempt[]>();
  for (const told of attempts) {
    const own = finder.linkOf(told);
    const back = own ? null : finder.wayBackOf(told);
    const link = own ?? back;
    const attempt = back ? asWayBack(told) : told;
    const scanner = scans.get(told) ?? null;
    const guesser = guesses.get(told) ?? null;
    if (!attempt.ended.hasFailed && scanner === null) {
      if (link) addTo(worked, link.link.id, attempt);
      if (link || attempt.remarks.length === 0) continue;
    }
    const isOfLink = scanner === null && guesser === null;
    const seen: SeenAttempt = { ...spanOf(attempt), attempt, link: isOfLink ? link : null, scanner, guesser };
    addTo(groups, keyOf(seen, finder, causes), seen);
  }
  for (const fall of falls) {
    const link = finder.linkNamed(fall.linkId);
    if (!link) continue;
    addTo(groups, `link ${fall.linkId} ${fall.causeId ?? fall.headline}`, {
      start: fall.from,
      end: fall.to,
      fall,
      link,
    });
  }
  const cases = [...groups].flatMap(([key, group]) =>
    periods(group, gapMs).map((part) => caseOf(key, part, finder, rules)),
  );
  return { cases: cases.sort((one, other) => other.last - one.last), worked };
}

/** A server that could not call back, as a check sees it from the client. */
const asWayBack = (attempt: Attempt): Attempt => ({ ...attempt, kind: 'classic', facts: [notCalledBack(null)] });

interface Spanned {
  readonly start: number;
  readonly end: number;
}
interface SeenAttempt extends Spanned {
  readonly attempt: Attempt;
  readonly link: LinkInPlant | null;
  /** Who tried many ports, of which this is one. */
  readonly scanner: string | null;
  /** From where many sign-ins were refused, of which this is one. */
  readonly guesser: string | null;
}
interface SeenFall extends Spanned {
  readonly fall: Fall;
  readonly link: LinkInPlant;
}
type Seen = SeenAttempt | SeenFall;
const spanOf = ({ start, end }: Attempt): Spanned => ({ start, end });

function judge({ facts, start }: Attempt, link: LinkInPlant, rules: Rules): LinkAssessment {
  const at = new Date(start).toISOString();
  const reported = facts.map((body, index) => ({ ...body, id: `attempt-${index}`, source: 'reported', at }) as Fact);
  return assess(link, reported, rules, at);
}

/** Why attempts failed; many are the same, and each is judged once. */
class Causes {
  private readonly known = new Map<string, string | null>();

  constructor(private readonly rules: Rules) {}

  /** null: no cause speaks of it. */
  of(attempt: Attempt, link: LinkInPlant): string | null {
    const key = `${link.link.id} ${JSON.stringify(attempt.facts)}`;
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const cause = judge(attempt, link, this.rules).leadingCause;
    this.known.set(key, cause);
    return cause;
  }
}

function keyOf({ attempt, link, scanner, guesser }: SeenAttempt, finder: LinkFinder, causes: Causes): string {
  if (scanner !== null) return `scan ${scanner}`;
  if (guesser !== null) return `guessing ${guesser}`;
  if (link) return `link ${link.link.id} ${causes.of(attempt, link) ?? attempt.ended.says}`;
  const [from, to] = [nameOf(attempt.from, finder), nameOf(attempt.to, finder)];
  return `other ${from} ${to} ${attempt.to.port} ${attempt.as} ${attempt.ended.code || attempt.ended.says}`;
}

const nameOf = (place: Attempt['from'], finder: LinkFinder): string =>
  finder.machineOf(place)?.name ?? place.name ?? place.address ?? 'an unknown machine';

/** Groups without a long silence between them, each in the order of its starts. */
function periods(group: readonly Seen[], gapMs: number): readonly (readonly Seen[])[] {
  const parts: Seen[][] = [];
  let reached = Number.NEGATIVE_INFINITY;
  for (const seen of [...group].sort((one, other) => one.start - other.start)) {
    const last = parts.at(-1);
    if (last && seen.start - reached <= gapMs) last.push(seen);
    else parts.push([seen]);
    reached = Math.max(reached, seen.end);
  }
  return parts;
}

function caseOf(key: string, group: readonly Seen[], finder: LinkFinder, rules: Rules): Case {
  const [first] = group;
  if (!first) throw new RangeError('a case of nothing');
  const newest = group.reduce((one, other) => (other.end >= one.end ? other : one));
  const attempts = group.flatMap((seen) => ('attempt' in seen ? seen.attempt : []));
  const falls = group.flatMap((seen) => ('fall' in seen ? seen.fall : []));
  return {
    key,
    ...('fall' in newest ? toldByFall(newest) : toldByAttempt(newest, attempts, finder, rules)),
    ports: [...new Set(attempts.flatMap(({ to: { port } }) => (port === null ? [] : [port])))],
    first: first.start,
    last: newest.end,
    count: attempts.length + falls.reduce((sum, { checks }) => sum + checks, 0),
    rhythm: rhythmOf(attempts),
    remarks: [...new Set(attempts.flatMap(({ remarks }) => remarks))],
    attempts,
    falls,
  };
}

type Told = Pick<
  Case,
  'kind' | 'linkId' | 'from' | 'to' | 'as' | 'step' | 'causeId' | 'title' | 'says' | 'findings' | 'assessment'
>;

function toldByAttempt(
  { attempt, link, scanner, guesser }: SeenAttempt,
  attempts: readonly Attempt[],
  finder: LinkFinder,
  rules: Rules,
): Told {
  const assessment = link && judge(attempt, link, rules);
  const from = link?.clientMachine.name ?? nameOf(attempt.from, finder);
  const to =
    link?.serverMachine.name ??
    (scanner === null && guesser === null ? nameOf(attempt.to, finder) : targetsText(attempts, finder));
  const ports = new Set(attempts.map(({ to: { port } }) => port)).size;
  const kind = kindOf({ attempt, link, scanner, guesser }, finder);
  const accounts = [...new Set(attempts.flatMap(({ as }) => as ?? []))];
  const findings = assessment?.partedAt ? leadingFindings(assessment) : [];
  return {
    kind,
    linkId: link?.link.id ?? null,
    from,
    to,
    as: guesser === null ? attempt.as : accounts.length === 1 ? (accounts[0] ?? null) : null,
    step: assessment?.partedAt ?? null,
    causeId: assessment?.partedAt ? assessment.leadingCause : null,
    title:
      findings[0]?.title ?? (isNotTold(attempt.from) && kind === 'unknown' ? 'Somebody was refused' : titles[kind]),
    says: sayCase(kind, {
      from,
      to,
      ports,
      accounts,
      tries: attempts.length,
      attempt,
      headline: assessment?.partedAt ? assessment.headline : null,
    }),
    findings,
    assessment,
  };
}

function kindOf({ attempt, link, scanner, guesser }: Omit<SeenAttempt, keyof Spanned>, finder: LinkFinder): CaseKind {
  if (scanner !== null) return 'scan';
  if (guesser !== null) return 'guessing';
  if (link) return 'link';
  return finder.machineOf(attempt.to) && !isNotTold(attempt.from) ? 'stranger' : 'unknown';
}

/** What the check saw stands where its facts are kept. */
const toldByFall = ({ fall, link }: SeenFall): Told => ({
  kind: 'link',
  linkId: fall.linkId,
  from: link.clientMachine.name,
  to: link.serverMachine.name,
  as: signInNameOf(link.link.identity),
  step: fall.step,
  causeId: fall.causeId,
  title: fall.title,
  says: fall.headline,
  findings: [],
  assessment: null,
});

const titles: Readonly<Record<CaseKind, string>> = {
  link: 'The connection failed',
  stranger: 'No link allows it',
  scan: 'Ports were scanned',
  guessing: 'Many sign-ins were refused',
  unknown: 'Between machines that the plant doesn’t know',
};

const targetsText = (attempts: readonly Attempt[], finder: LinkFinder): string => {
  const names = [...new Set(attempts.map(({ to }) => nameOf(to, finder)))];
  return names.length > 3 ? `${names.length} machines` : names.join(', ');
};

function sayCase(
  kind: CaseKind,
  told: {
    readonly from: string;
    readonly to: string;
    /** How many. */
    readonly ports: number;
    readonly accounts: readonly string[];
    readonly tries: number;
    readonly attempt: Attempt;
    readonly headline: string | null;
  },
): string {
  const { from, to, ports, accounts, tries, attempt, headline } = told;
  if (kind === 'scan') return `${from} tried ${ports} ports of ${to} within a short time.`;
  if (kind === 'guessing') {
    const as =
      accounts.length > 3 ? `${accounts.length} accounts` : accounts.join(', ') || 'accounts that are not told';
    return `${to} refused ${from} ${tries} times within a short time, as ${as}. Somebody guesses passwords, or a program has an old one; accounts may get locked.`;
  }
  if (headline !== null) return headline;
  if (kind === 'link') return attempt.ended.says;
  const where = attempt.to.port === null ? to : `${to}, port ${attempt.to.port}`;
  const as = attempt.as === null ? '' : ` as ${attempt.as}`;
  if (isNotTold(attempt.from)) return `${where} refused somebody${as}. ${attempt.ended.says} From where is not told.`;
  const why = kind === 'stranger' ? 'No link of the plant says that it may.' : 'The plant knows neither of them.';
  return `${from} tried to reach ${where}${as}. ${attempt.ended.says} ${why}`;
}

/** How often it was tried, where that can be told. */
export function rhythmOf(attempts: readonly Attempt[]): Rhythm | null {
  if (attempts.length < 4) return null;
  const between = attempts.slice(1).map((attempt, index) => attempt.start - (attempts[index]?.start ?? 0));
  const sorted = [...between].sort((one, other) => one - other);
  const everyMs = sorted[Math.floor(sorted.length / 2)] ?? 0;
  if (everyMs <= 0) return null;
  const near = between.filter((ms) => Math.abs(ms - everyMs) <= everyMs * 0.2).length;
  return { everyMs, isRegular: near >= between.length * 0.8 };
}
