import type { LinkInPlant } from '../plant/plant.js';
import { evidenceOf } from './cause.js';
import type { Cause, EvidenceLine, Finding, Rules, Sight } from './cause.js';
import { FactBook } from './facts.js';
import type { Fact, FactSource } from './facts.js';
import type { Instant } from '../time.js';
import { judgedKinds } from './judged-kinds.js';
import { linkKindIds, linkKinds, stepOf, stepPosition } from './kinds.js';
import type { LinkKindId } from './kinds.js';
import { choiceFrom, nothingKnown } from './read-step.js';
import type { Verdict } from './read-step.js';
import { withExpandedNeeds } from './expanded-needs.js';
import { sayFact } from './say-fact.js';
import type { StepId } from './steps.js';

export interface StepVerdict {
  readonly step: StepId;
  readonly verdict: Verdict;
  readonly summary: string;
  readonly source: FactSource | null;
  readonly evidence: readonly EvidenceLine[];
  /** What explains most stands first. */
  readonly findings: readonly Finding[];
}

export type LinkState = 'Sound' | 'Strained' | 'Parted' | 'Untried';

export interface LinkAssessment {
  readonly linkId: string;
  readonly state: LinkState;
  /** The finding in one sentence. */
  readonly headline: string;
  readonly steps: readonly StepVerdict[];
  /** The first step that fails. */
  readonly partedAt: StepId | null;
  /** The cause that explains the state: of the first failing step, or else of the first weak one. */
  readonly leadingCause: string | null;
}

/**
 * Facts in, verdicts out: judges a link from what was observed, and from nothing else.
 * @param subject the link with both of its ends
 * @param facts the facts of one check, oldest first
 * @param at the time at which is judged
 */
export function assess(wanted: LinkInPlant, facts: readonly Fact[], rules: Rules, at: Instant): LinkAssessment {
  const book = new FactBook(facts);
  const subject = withExpandedNeeds(wanted, book);
  const sight: Sight = { subject, facts: book, rules, at, choice: choiceFrom(subject, book) };
  const { kind } = subject.link;
  const examined = examinedSteps[kind];
  const findings = fold(kind, facts.length === 0 ? [] : examined.flatMap((step) => examineStep(sight, step)));
  const steps = examined.map(({ id }) =>
    judge(
      sight,
      id,
      findings.filter((finding) => finding.step === id),
    ),
  );
  return conclude(subject, steps, facts, findings);
}

/** A step, and the causes that may speak of it. */
interface ExaminedStep {
  readonly id: StepId;
  readonly causes: readonly Cause[];
}

const examinedOf = (kind: LinkKindId): readonly ExaminedStep[] =>
  linkKinds[kind].steps.map(({ id }) => ({
    id,
    causes: judgedKinds[kind].causes.filter((cause) => cause.steps.includes(id)),
  }));
const examinedSteps: Readonly<Record<LinkKindId, readonly ExaminedStep[]>> = {
  ua: examinedOf('ua'),
  classic: examinedOf('classic'),
};
const explainedBy = new Map(
  linkKindIds.flatMap((kind) => judgedKinds[kind].causes.map((cause) => [cause.id, cause.explains])),
);

function examineStep(sight: Sight, { id, causes }: ExaminedStep): readonly Finding[] {
  const findings: Finding[] = [];
  for (const cause of causes) {
    const finding = cause.examine(sight, id, sayFact);
    if (finding) findings.push(finding);
  }
  return id === 'client-certificate' && sight.facts.latest('channel')?.outcome === 'open'
    ? findings.map((finding) => acceptedAllTheSame(finding, sight))
    : findings;
}

/** What the lists speak against and the server lets in is a weakness, and no failure: either the lists are not what we know, or it does not look. */
const acceptedAllTheSame = (finding: Finding, { subject: { server } }: Sight): Finding =>
  finding.severity === 'weak'
    ? finding
    : {
        ...finding,
        severity: 'weak',
        meaning: `${finding.meaning} ${server.name} opened the channel all the same: its lists are not as they were last read, or it does not look at them.`,
      };

/** Folds a finding under the one of the same or a later-found step that explains it. */
function fold(kind: LinkKindId, findings: readonly Finding[]): readonly Finding[] {
  const parentOf = (finding: Finding): Finding | null =>
    findings.find((other) => other !== finding && other.step === finding.step && explains(other, finding)) ?? null;
  const tops = findings.filter((finding) => !parentOf(finding));
  return tops
    .map((top) => ({ ...top, folded: findings.filter((finding) => parentOf(finding) === top) }))
    .sort(
      (left, right) => stepPosition(kind, left.step) - stepPosition(kind, right.step) || weight(right) - weight(left),
    );
}

const explains = (one: Finding, other: Finding): boolean =>
  (explainedBy.get(one.causeId) ?? []).includes(other.causeId);

const weight = (finding: Finding): number =>
  (finding.severity === 'fails' ? 100 : finding.grave ? 50 : 0) + finding.folded.length;

function judge(sight: Sight, step: StepId, findings: readonly Finding[]): StepVerdict {
  const { verdict, summary, source, facts } = judgedKinds[sight.subject.link.kind].read(sight, step);
  const worst: Verdict = findings.some((finding) => finding.severity === 'fails')
    ? 'fails'
    : (verdict === 'holds' || verdict === 'not-needed') && findings.length > 0
      ? 'weak'
      : verdict;
  const lead = findings[0];
  return {
    step,
    verdict: worst,
    summary: lead && worst !== 'holds' ? lead.meaning : summary,
    source: source ?? lead?.evidence[0]?.source ?? null,
    evidence: facts.map((fact) => evidenceOf(fact, sayFact)),
    findings,
  };
}

function conclude(
  subject: LinkInPlant,
  steps: readonly StepVerdict[],
  facts: readonly Fact[],
  findings: readonly Finding[],
): LinkAssessment {
  const failed = steps.find((step) => step.verdict === 'fails') ?? null;
  const weak = steps.find((step) => step.verdict === 'weak') ?? null;
  const open = steps.find((step) => step.verdict === 'unknown') ?? null;
  const state: LinkState = failed ? 'Parted' : open ? 'Untried' : weak ? 'Strained' : 'Sound';
  const told =
    (failed ? explanationOf(failed, findings) : null) ??
    (failed ?? (state === 'Strained' ? weak : open))?.findings[0] ??
    null;
  return {
    linkId: subject.link.id,
    state,
    headline: headlineOf(subject.link.kind, state, failed, weak, open, told, facts),
    steps,
    partedAt: failed?.step ?? null,
    leadingCause: told?.causeId ?? null,
  };
}

/** A finding of another step that explains why this one fails: a certificate set aside explains a refused channel. */
function explanationOf(failed: StepVerdict, findings: readonly Finding[]): Finding | null {
  return (
    findings.find((finding) => finding.step !== failed.step && failed.findings.some((own) => explains(finding, own))) ??
    null
  );
}

/**
 * The findings that a person should read, the one that explains the state first.
 * One that a finding of another step explains is left out: it would say the same thing twice.
 */
export function leadingFindings(assessment: LinkAssessment | null): readonly Finding[] {
  const all = (assessment?.steps ?? []).flatMap((step) => step.findings);
  const rank = (finding: Finding): number =>
    (finding.causeId === assessment?.leadingCause ? 2 : 0) + (finding.severity === 'fails' ? 1 : 0);
  return all
    .filter((finding) => !all.some((other) => other.step !== finding.step && explains(other, finding)))
    .sort((left, right) => rank(right) - rank(left));
}

function headlineOf(
  kind: LinkKindId,
  state: LinkState,
  failed: StepVerdict | null,
  weak: StepVerdict | null,
  open: StepVerdict | null,
  told: Finding | null,
  facts: readonly Fact[],
): string {
  switch (state) {
    case 'Sound':
      return 'All that this link needs holds.';
    case 'Strained':
      return `It works, with a weakness: ${told?.meaning ?? weak?.summary ?? ''}`;
    case 'Parted':
      return told?.meaning ?? failed?.summary ?? '';
    case 'Untried': {
      if (facts.length === 0) return 'This link has never been checked.';
      if (told) return told.meaning;
      const stopped = facts.find((fact) => fact.kind === 'check-stopped');
      return stopped
        ? sayFact(stopped)
        : open && open.summary !== nothingKnown
          ? open.summary
          : `The last check did not get as far as “${open ? stepOf(kind, open.step).title : ''}”.`;
    }
  }
}
