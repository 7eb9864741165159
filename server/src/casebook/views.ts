import { createHash } from 'node:crypto';
import { usualRules } from '@loyal-hinge/core';
import type { Plant } from '@loyal-hinge/core';
import { casesOf, joinAttempts, LinkFinder, proposeClocks } from '@loyal-hinge/core/casebook';
import type { Attempt, AttemptPlace, Case } from '@loyal-hinge/core/casebook';
import type { AttemptView, CaseRow, CaseView, CasebookView, ClockProposal, EvidenceRow } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { readPlant } from '../plant/store.js';
import { allEvidence, failedAttempts, namesOfEvidence } from './store.js';

/** Attempts of one case that are shown. */
const mostShown = 200;
const mostMarks = 100;

export async function casebookViewOf(db: Database): Promise<CasebookView> {
  /* Files first: of one that is said to be read, the attempts are among those that are read afterwards. */
  const evidence = await allEvidence(db);
  const { cases, plant, attempts, told, isWhole } = await knownCases(db);
  const [oldest] = attempts;
  return {
    cases: cases.map((one) => rowOf(one, plant)),
    evidence: [...evidence],
    clocks: clocksOf(told, evidence),
    attempts: attempts.length,
    since: isWhole || !oldest ? null : new Date(oldest.start).toISOString(),
  };
}

export async function caseViewOf(db: Database, caseId: string): Promise<CaseView> {
  const { cases, plant } = await knownCases(db);
  const one = cases.find((each) => idOf(each) === caseId);
  if (!one) throw notFound('case', caseId);
  const recent = one.attempts.slice(-mostShown).reverse();
  const ids = new Set(recent.flatMap(({ evidence }) => evidence.map(({ fileId }) => fileId)));
  const names = await namesOfEvidence(db, [...ids]);
  const finder = new LinkFinder(plant);
  return {
    ...rowOf(one, plant),
    findings: [...one.findings],
    assessment: one.assessment && { ...one.assessment, steps: [...one.assessment.steps] },
    recent: recent.map((attempt) => attemptView(attempt, names, finder)),
  } as CaseView;
}

async function knownCases(db: Database) {
  const [{ all, isWhole }, plant] = await Promise.all([failedAttempts(db), readPlant(db)]);
  const attempts = joinAttempts(all);
  return { cases: casesOf(attempts, plant, usualRules).cases, plant, attempts, told: all, isWhole };
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

function rowOf(one: Case, plant: Plant): CaseRow {
  const link = plant.links.find(({ id }) => id === one.linkId) ?? null;
  const { kind, linkId, from, to, ports, as, step, causeId, title, says, count, rhythm, remarks } = one;
  return {
    id: idOf(one),
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
    rhythm,
    remarks: [...remarks],
    marks: marksOf(one.attempts),
  };
}

/** First and last, and what lies evenly between them. */
function marksOf(attempts: readonly Attempt[]): number[] {
  const step = Math.max(1, Math.ceil(attempts.length / mostMarks));
  return attempts.filter((_, index) => index % step === 0 || index === attempts.length - 1).map(({ start }) => start);
}

function attemptView(attempt: Attempt, names: ReadonlyMap<string, string>, finder: LinkFinder): AttemptView {
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
    evidence: evidence.map(({ fileId, position, says }) => ({
      evidenceId: fileId,
      file: names.get(fileId) ?? '',
      position,
      says,
    })),
  };
}
