import { createHash } from 'node:crypto';
import { assess, leadingFindings, usualRules } from '@loyal-hinge/core';
import type { Plant } from '@loyal-hinge/core';
import {
  assignedTo,
  casesOf,
  joinAttempts,
  joinParts,
  LinkFinder,
  personalNames,
  proposeClocks,
  provedAfter,
  statusOf,
  weightOf,
  withoutNames,
} from '@loyal-hinge/core/casebook';
import type { Attempt, AttemptPlace, Case, CaseAct } from '@loyal-hinge/core/casebook';
import type { AttemptView, CaseRow, CaseView, CasebookView, ClockProposal, EvidenceRow } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { factsOfCheck } from '../facts/store.js';
import { readPlant } from '../plant/store.js';
import { partedSpans, spansSince } from '../link-history/spans.js';
import { reportedAttempts, serverOfEvidence } from './reported-attempts.js';
import { actsOf, peopleHere } from './case-acts.js';
import type { NamedCase } from './case-acts.js';
import { changedBefore, happenedMeanwhile } from './changed-before.js';
import { allEvidence, failedAttempts, namesOfEvidence } from './store.js';

/** Attempts of one case that are shown. */
const mostShown = 200;
const mostMarks = 100;

/** Times of links being parted that cases are made of, at most: the newest. */
const mostFalls = 5000;

/** A case with what is known of it beside its attempts. */
interface KnownCase extends Case {
  readonly id: string;
  readonly acts: readonly CaseAct[];
  /** When a check saw its link work after the last failure. */
  readonly provedAt: number | null;
}

/** @param mayKnowNames whether whoever asks may know people by their names in logs */
export async function casebookViewOf(db: Database, mayKnowNames: boolean): Promise<CasebookView> {
  /* Files first: of one that is said to be read, the attempts are among those that are read afterwards. */
  const evidence = await allEvidence(db);
  const { cases, plant, attempts, told, isWhole } = await knownCases(db);
  const [oldest] = told;
  return {
    cases: byWeight(cases).map((one) => withoutNames(rowOf(one, plant), hiddenNames(one, plant, mayKnowNames))),
    happened: await happenedMeanwhile(db, cases, mayKnowNames),
    evidence: [...evidence],
    clocks: clocksOf(told, evidence),
    attempts: attempts.length,
    since: isWhole || !oldest ? null : new Date(oldest.start).toISOString(),
  };
}

const standing = ({ last, acts, provedAt }: KnownCase) => statusOf(last, acts, provedAt);
const byWeight = (cases: readonly KnownCase[]): readonly KnownCase[] =>
  cases
    .map((one) => ({ one, weight: weightOf(one, standing(one)) }))
    .sort((left, right) => right.weight - left.weight)
    .map(({ one }) => one);

export async function caseViewOf(db: Database, caseId: string, mayKnowNames: boolean): Promise<CaseView> {
  const [view] = await caseViewsOf(db, [caseId], mayKnowNames);
  if (!view) throw notFound('case', caseId);
  return view;
}

/** Several cases at once, in the order in which they are wanted; those that are not there are left out. */
export async function caseViewsOf(
  db: Database,
  caseIds: readonly string[],
  mayKnowNames: boolean,
): Promise<readonly CaseView[]> {
  const [{ cases, plant }, people] = await Promise.all([knownCases(db), peopleHere(db)]);
  const finder = new LinkFinder(plant);
  const wanted = caseIds.flatMap((caseId) => cases.find(({ id }) => id === caseId) ?? []);
  const views: CaseView[] = [];
  for (const one of wanted) views.push({ ...(await viewOf(db, one, plant, finder, mayKnowNames)), people });
  return views;
}

async function viewOf(
  db: Database,
  one: KnownCase,
  plant: Plant,
  finder: LinkFinder,
  mayKnowNames: boolean,
): Promise<Omit<CaseView, 'people'>> {
  const recent = one.attempts.slice(-mostShown).reverse();
  const ids = new Set(recent.flatMap(({ evidence }) => evidence.map(({ fileId }) => fileId)));
  const checkId = one.falls.at(-1)?.checkId ?? null;
  const [names, before, seen] = await Promise.all([
    namesOfEvidence(db, [...ids]),
    changedBefore(db, one, plant, finder),
    seenBy(db, one, checkId, finder),
  ]);
  const view = {
    ...rowOf(one, plant),
    findings: [...seen.findings],
    assessment: seen.assessment && { ...seen.assessment, steps: [...seen.assessment.steps] },
    attempts: one.attempts.length,
    recent: recent.map((attempt) => attemptView(attempt, names, finder, plant)),
    checkId,
  };
  return {
    ...withoutNames(view, hiddenNames(one, plant, mayKnowNames)),
    before: before.map((line) =>
      line.kind === 'log' && !mayKnowNames ? { ...line, says: 'A log tells engineers of a change.' } : line,
    ),
    acts: one.acts.map(({ at, ...act }) => ({ ...act, at: new Date(at).toISOString() })),
  } as Omit<CaseView, 'people'>;
}

/** What is said of a case names nobody but whom its own attempts name. */
const hiddenNames = ({ attempts }: Case, plant: Plant, mayKnowNames: boolean): ReadonlySet<string> =>
  mayKnowNames ? new Set() : personalNames(attempts, plant);

/** A case as others find it again. */
export async function namedCase(db: Database, caseId: string): Promise<NamedCase> {
  const one = (await knownCases(db)).cases.find(({ id }) => id === caseId);
  if (!one) throw notFound('case', caseId);
  const { id, key, last, title } = one;
  return { id, key, last, title };
}

/** How the link was seen: by the last attempt, or by the last check where that tells it. */
async function seenBy(
  db: Database,
  one: Case,
  checkId: string | null,
  finder: LinkFinder,
): Promise<Pick<Case, 'findings' | 'assessment'>> {
  if (one.assessment || checkId === null || one.linkId === null) return one;
  const link = finder.linkNamed(one.linkId);
  const facts = await factsOfCheck(db, checkId);
  if (!link || facts.length === 0) return one;
  const assessment = assess(link, facts, usualRules, new Date(one.last).toISOString());
  return { assessment, findings: leadingFindings(assessment) };
}

async function knownCases(db: Database) {
  const [{ all, isWhole }, plant, falls] = await Promise.all([
    failedAttempts(db),
    readPlant(db),
    partedSpans(db, mostFalls),
  ]);
  const reported = await reportedAttempts(db, plant);
  const finder = new LinkFinder(plant);
  const attempts = joinParts(joinAttempts([...all, ...reported]), (place) => finder.machineOf(place));
  const found = casesOf(attempts, plant, usualRules, falls).cases.map((one) => ({ ...one, id: idOf(one) }));
  const oldest = Math.min(...found.map(({ last }) => last), Date.now());
  const [spans, acts] = await Promise.all([spansSince(db, oldest), actsOf(db, found)]);
  const cases: readonly KnownCase[] = found.map((one) => ({
    ...one,
    acts: acts.get(one.id) ?? [],
    provedAt: one.linkId === null ? null : provedAfter(spans.get(one.linkId) ?? [], one.last),
  }));
  return { cases, plant, attempts, told: all, isWhole };
}

/** Captures are trusted before logs, and what was here first before what came later. */
function clocksOf(told: readonly Attempt[], evidence: readonly EvidenceRow[]): ClockProposal[] {
  const inOrder = [...evidence].sort(
    (one, other) =>
      Number(one.form !== 'capture') - Number(other.form !== 'capture') || one.broughtAt.localeCompare(other.broughtAt),
  );
  const rows = new Map(evidence.map((row) => [row.id, row]));
  return proposeClocks(
    told,
    inOrder.map(({ id }) => id),
  ).flatMap(({ fileId, against, aheadMs, matches }) => {
    const [row, other] = [rows.get(fileId), rows.get(against)];
    if (!row || !other) return [];
    const aheadSeconds = row.clock.aheadSeconds + Math.round(aheadMs / 1000);
    return [{ evidenceId: fileId, clock: { ...row.clock, aheadSeconds }, aheadMs, against: other.name, matches }];
  });
}

/** Stays the same as long as the case has the same first attempt. */
const idOf = ({ key, first }: Case): string =>
  createHash('sha256').update(`${key}\n${first}`).digest('hex').slice(0, 16);

function rowOf(one: KnownCase, plant: Plant): CaseRow {
  const link = plant.links.find(({ id }) => id === one.linkId) ?? null;
  const status = standing(one);
  const { id, kind, linkId, from, to, ports, as, step, causeId, title, says, count, rhythm, remarks } = one;
  return {
    id,
    kind,
    linkId,
    linkName: link?.name ?? null,
    linkKind: link?.kind ?? null,
    from,
    to,
    ports: [...ports],
    as,
    step,
    causeId,
    title,
    says,
    first: new Date(one.first).toISOString(),
    last: new Date(one.last).toISOString(),
    count,
    checks: count - one.attempts.length,
    status: {
      state: status.state,
      at: status.state === 'open' ? null : new Date(status.at).toISOString(),
      by: status.state === 'closed' ? status.by : null,
      why: status.state === 'closed' ? status.why : null,
    },
    assignedTo: assignedTo(one.acts),
    rhythm,
    remarks: [...remarks],
    marks: marksOf(one),
  };
}

/** First and last, and what lies evenly between them. */
function marksOf({ attempts, falls }: Case): number[] {
  const times = [...attempts.map(({ start }) => start), ...falls.flatMap(({ from, to }) => [from, to])];
  const step = Math.max(1, Math.ceil(times.length / mostMarks));
  return times.sort((one, other) => one - other).filter((_, index) => index % step === 0 || index === times.length - 1);
}

function attemptView(
  attempt: Attempt,
  names: Awaited<ReturnType<typeof namesOfEvidence>>,
  finder: LinkFinder,
  plant: Plant,
): AttemptView {
  const { start, from, to, as, ended, evidence } = attempt;
  const placeText = (place: AttemptPlace): string =>
    finder.machineOf(place)?.name ?? place.name ?? place.address ?? 'not told';
  return {
    at: new Date(start).toISOString(),
    from: placeText(from),
    to: placeText(to),
    port: to.port,
    as,
    says: ended.says,
    evidence: evidence.map(({ fileId, position, says }) => {
      const serverId = serverOfEvidence(fileId);
      const server = plant.applications.find(({ id }) => id === serverId);
      const known = names.get(fileId);
      return {
        evidenceId: serverId === null ? fileId : null,
        isConversation: known?.form === 'capture',
        file: serverId === null ? (known?.name ?? '') : `audit events of ${server?.name ?? serverId}`,
        position,
        says,
      };
    }),
  };
}
