import { byNumber, linkKinds, spanOf } from '@loyal-hinge/core';
import type { Finding } from '@loyal-hinge/core';
import { changeWords, shareWords, stateWords, usableWords } from '@loyal-hinge/core/casebook';
import type { CaseRow, CasebookView, CaseView, HandOutQuery, LinkChange, TimelineView } from '@loyal-hinge/contract';
import { caseViewOf, caseViewsOf, casebookViewOf } from '../casebook/views.js';
import type { Database } from '../database/database.js';
import { plantNameOf } from '../database/settings.js';
import { assessmentOf } from '../facts/store.js';
import { notFound } from '../http/problems.js';
import { changesAfter } from '../link-history/spans.js';
import type { Paper, Part } from '../papers/paper.js';
import { allRounds, linksOf, nameOf } from '../rounds/store.js';
import { timelineOf } from '../rounds/timeline.js';

/** What fits one page for somebody who has a minute. */
const mostForManager = 8;
/** Cases whose remedies are written out. */
const mostForTechnician = 25;
const mostChanges = 2000;

/** A moment in UTC, as it stands in reports: “2026-11-20 02:10”. */
const momentIn = (at: string): string => at.slice(0, 16).replace('T', ' ');

/** For whom a report is made, and what that person may know. */
export interface Reader {
  readonly name: string;
  readonly mayKnowNames: boolean;
}

/** The report that is wanted, put together from the same views as the pages. */
export async function paperOf(db: Database, query: HandOutQuery, reader: Reader, at: string): Promise<Paper> {
  const { name: madeBy, mayKnowNames } = reader;
  const plant = await plantNameOf(db);
  const made = `Made on ${momentIn(at)} UTC for ${madeBy}. All times are in UTC.`;
  const frame = { plant, madeBy, made };
  if (query.about === 'case')
    return { ...frame, ...ofCase(await caseViewOf(db, query.id, mayKnowNames), query.reader) };
  const { name, linkIds } = await scopeOf(db, query, plant);
  const [timeline, book, changes] = await Promise.all([
    timelineOf(db, { days: query.days, find: '', ...(linkIds ? { linkIds } : {}) }),
    casebookViewOf(db, mayKnowNames),
    changesAfter(db, { after: 0, most: mostChanges, newest: true }),
  ]);
  const isWanted = (linkId: string | null): boolean =>
    linkIds === null || (linkId !== null && linkIds.includes(linkId));
  const from = new Date(timeline.from).toISOString();
  const known: Known = {
    timeline,
    book,
    cases: book.cases.filter((one) => isWanted(one.linkId) && (one.status.state === 'open' || one.last >= from)),
    changes: changes.filter((change) => isWanted(change.linkId) && change.at >= from),
    isWhole: linkIds === null,
  };
  const period = byNumber(query.days, 'the last day', 'the last # days');
  return {
    ...frame,
    title: `${name}: ${period}`,
    says: `${usableWords(timeline.availability)} ${openWords(known.cases)}`,
    parts: await partsFor(db, query, known, mayKnowNames),
  };
}

/** Which links a report is about; null: all. */
async function scopeOf(
  db: Database,
  { about, id }: HandOutQuery,
  plant: string,
): Promise<{ readonly name: string; readonly linkIds: readonly string[] | null }> {
  if (about === 'plant') return { name: plant, linkIds: null };
  const name = await nameOf(db, about === 'zone' ? 'zone' : 'link', id);
  if (name === null) throw notFound(about, id);
  return { name, linkIds: about === 'zone' ? await linksOf(db, { kind: 'zone', zoneId: id }) : [id] };
}

interface Known {
  readonly timeline: TimelineView;
  readonly book: CasebookView;
  /** Those that are open, or failed in the period. */
  readonly cases: readonly CaseRow[];
  readonly changes: readonly LinkChange[];
  readonly isWhole: boolean;
}

const isOpen = ({ status }: CaseRow): boolean => status.state === 'open';
const openWords = (cases: readonly CaseRow[]): string =>
  byNumber(cases.filter(isOpen).length, 'One case is open.', '# cases are open.').replace(/^0 cases are/, 'No case is');

async function partsFor(
  db: Database,
  { about, id, reader }: HandOutQuery,
  known: Known,
  mayKnowNames: boolean,
): Promise<Part[]> {
  switch (reader) {
    case 'manager':
      return forManager(known);
    case 'technician':
      return [
        ...(about === 'link' ? await stepsOf(db, id, known) : []),
        ...(await forTechnician(db, known, mayKnowNames)),
      ];
    case 'auditor':
      return [...(about === 'link' ? await stepsOf(db, id, known) : []), ...(await forAuditor(db, known))];
  }
}

function forManager({ timeline, cases }: Known): Part[] {
  const open = cases.filter(isOpen);
  const worst = timeline.rows.filter(({ availability: { partedMs } }) => partedMs > 0);
  return [
    heading('What is open'),
    ...table(
      ['What', 'Link', 'Since', 'With'],
      open
        .slice(0, mostForManager)
        .map(({ title, linkName, from, to, first, assignedTo }) => [
          title,
          linkName ?? `${from} to ${to}`,
          momentIn(first),
          assignedTo ?? 'nobody',
        ]),
      'Nothing is open.',
    ),
    ...more(open.length, mostForManager),
    heading('Links that could be used least'),
    ...table(
      ['Link', 'Usable', 'Parted for', 'Falls', 'Now'],
      worst
        .slice(0, mostForManager)
        .map(({ name, availability: { usable, partedMs, falls }, state }) => [
          name,
          shareWords(usable),
          spanOf(partedMs),
          String(falls),
          stateWords[state],
        ]),
      'No link was parted.',
    ),
    ...more(worst.length, mostForManager),
    heading('How sure this is'),
    text(knownSentence(timeline)),
  ];
}

async function forTechnician(db: Database, { cases }: Known, mayKnowNames: boolean): Promise<Part[]> {
  const open = cases.filter(isOpen);
  if (open.length === 0) return [text('Nothing is to be done: no case is open.')];
  const ids = open.slice(0, mostForTechnician).map(({ id }) => id);
  const views = await caseViewsOf(db, ids, mayKnowNames);
  return [...views.flatMap(toDo), ...more(open.length, mostForTechnician)];
}

async function forAuditor(db: Database, { timeline, cases, changes, book, isWhole }: Known): Promise<Part[]> {
  const rounds = isWhole ? await allRounds(db) : [];
  return [
    heading('Links'),
    ...table(
      ['Link', 'Now', 'Usable', 'Looked at', 'Sound', 'Strained', 'Parted', 'Falls'],
      timeline.rows.map(({ name, state, availability: { usable, known, soundMs, strainedMs, partedMs, falls } }) => [
        name,
        stateWords[state],
        shareWords(usable) || 'not known',
        shareWords(known),
        ...[soundMs, strainedMs, partedMs].map((ms) => (ms === 0 ? '' : spanOf(ms))),
        String(falls),
      ]),
      'There is no link.',
    ),
    ...more(timeline.links, timeline.rows.length),
    text(knownSentence(timeline)),
    heading('Cases'),
    ...table(
      ['What', 'Link', 'First', 'Last', 'Tried', 'Stands', 'With'],
      cases.map(({ title, says, linkName, from, to, first, last, count, status, assignedTo }) => [
        `${title}: ${says}`,
        linkName ?? `${from} to ${to}`,
        momentIn(first),
        momentIn(last),
        byNumber(count, 'once', '# times'),
        statusSentence(status),
        assignedTo ?? '',
      ]),
      'There is no case.',
    ),
    heading('What changed'),
    ...table(
      ['When', 'Link', 'Change', 'What the check found'],
      changes.map((change) => [momentIn(change.at), change.linkName, changeWords(change), change.says]),
      'No check has seen a link otherwise than the one before.',
    ),
    ...(isWhole
      ? [
          heading('Captures and logs'),
          ...table(
            ['File', 'Bytes', 'Brought by', 'Brought', 'Attempts', 'Not understood'],
            book.evidence.map(({ name, bytes, broughtBy, broughtAt, attempts, notUnderstood }) => [
              name,
              String(bytes),
              broughtBy,
              momentIn(broughtAt),
              String(attempts),
              String(notUnderstood),
            ]),
            'None was brought.',
          ),
          heading('Rounds'),
          ...table(
            ['Round', 'Every', 'Next'],
            rounds.map(({ name, everyMinutes, nextAt }) => [
              name,
              spanOf(everyMinutes * 60_000),
              nextAt === null ? 'paused' : momentIn(new Date(nextAt).toISOString()),
            ]),
            'No link is checked by itself.',
          ),
        ]
      : []),
  ];
}

function ofCase(one: CaseView, reader: HandOutQuery['reader']): Pick<Paper, 'title' | 'says' | 'parts'> {
  const where = one.linkName ?? `${one.from} to ${one.to}`;
  const facts = table(
    ['First', 'Last', 'Tried', 'Stands', 'With'],
    [
      [
        momentIn(one.first),
        momentIn(one.last),
        byNumber(one.count, 'once', '# times'),
        statusSentence(one.status),
        one.assignedTo ?? 'nobody',
      ],
    ],
  );
  const acts: Part[] = [
    heading('What was done'),
    ...table(
      ['When', 'Who', 'What', 'Words'],
      one.acts.map(({ at, by, kind, text: words, to }) => [
        momentIn(at),
        by,
        kind === 'assign' ? `gave it to ${to ?? 'nobody'}` : actWords[kind],
        words,
      ]),
      'Nothing yet.',
    ),
  ];
  const parts: Record<typeof reader, () => Part[]> = {
    manager: () => [...facts, ...acts],
    technician: () => [
      ...facts,
      ...stepParts(one),
      ...remediesOf(one.findings, one.says),
      ...beforeParts(one),
      ...acts,
    ],
    auditor: () => [
      ...facts,
      ...stepParts(one),
      ...remediesOf(one.findings, one.says),
      ...beforeParts(one),
      ...acts,
      heading('Attempts'),
      ...(one.checks > 0 ? [text(byNumber(one.checks, 'One check saw it.', '# checks saw it.'))] : []),
      ...table(
        ['When', 'From', 'To', 'As', 'How it ended', 'Where it stands'],
        one.recent.map(({ at, from, to, port, as, says, evidence }) => [
          momentIn(at),
          from,
          port === null ? to : `${to}, port ${port}`,
          as ?? '',
          says,
          evidence.map(({ file, position }) => `${file}, byte ${position}`).join('; '),
        ]),
        'No machine and no wire recorded it.',
      ),
      ...more(one.attempts, one.recent.length),
    ],
  };
  return { title: `${one.title}: ${where}`, says: one.says, parts: parts[reader]() };
}

const actWords = { note: 'wrote', close: 'closed it', reopen: 'opened it again' } as const;

/** What somebody who goes there needs: what is wrong, where, and what to do. */
const toDo = (one: CaseView): Part[] => [
  heading(`${one.title}: ${one.linkName ?? `${one.from} to ${one.to}`}`),
  text(one.says),
  text(
    `From ${one.from} to ${one.to}${one.ports.length > 0 ? `, port ${one.ports.slice(0, 12).join(', ')}` : ''}${one.as ? `, as ${one.as}` : ''}. First ${momentIn(one.first)}, last ${momentIn(one.last)}.`,
    true,
  ),
  ...remediesOf(one.findings, one.says),
];

/** @param said what stands above them already */
const remediesOf = (findings: readonly Finding[], said = ''): Part[] =>
  findings.flatMap(({ meaning, remedies }) => [
    ...(meaning === said ? [] : [text(meaning)]),
    ...(remedies.length === 0
      ? []
      : table(
          ['What to do', 'Where', 'Is now', 'Is to be', 'How to go back'],
          remedies.map(({ title, target, before, after, undo }) => [title, target, before, after, undo]),
        )),
  ]);

const beforeParts = ({ before }: CaseView): Part[] => [
  heading('What changed before'),
  ...table(
    ['When', 'What'],
    before.map(({ at, says }) => [momentIn(at), says]),
    'Nothing that is known changed in the day before.',
  ),
];

function stepParts({ assessment, linkKind }: Pick<CaseView, 'assessment' | 'linkKind'>): Part[] {
  if (!assessment || linkKind === null) return [];
  const titles = new Map(linkKinds[linkKind].steps.map(({ id, title }) => [id, title]));
  return [
    heading('How far it comes'),
    ...table(
      ['Step', 'Verdict', 'Because'],
      assessment.steps.map(({ step, verdict, summary }) => [
        titles.get(step) ?? step,
        verdict.replace('-', ' '),
        summary,
      ]),
    ),
  ];
}

/** The steps of a link as its newest check saw them. */
async function stepsOf(db: Database, linkId: string, { timeline }: Known): Promise<Part[]> {
  const kept = await assessmentOf(db, linkId);
  if (!kept) return [text('This link was never checked.')];
  const linkKind = timeline.rows[0]?.kind ?? null;
  const parts = stepParts({ assessment: kept.body as CaseView['assessment'], linkKind });
  return [...parts, text(`As checked on ${momentIn(kept.at)}.`, true)];
}

function statusSentence({ state, at, by, why }: CaseRow['status']): string {
  if (state === 'open' || at === null) return 'open';
  return state === 'proved' ? `proved over ${momentIn(at)}` : `closed by ${by ?? ''} ${momentIn(at)}: ${why ?? ''}`;
}

const knownSentence = ({ availability: { known } }: TimelineView): string =>
  known > 0.995
    ? 'The links were looked at all the time.'
    : `The links were looked at ${shareWords(known)} of the time; the shares are of that time. What a check saw holds until rounds should have come twice.`;

const heading = (words: string): Part => ({ kind: 'heading', text: words });
const text = (words: string, isFaint = false): Part => ({ kind: 'text', text: words, isFaint });
const table = (columns: readonly string[], rows: readonly (readonly string[])[], empty = ''): Part[] => [
  { kind: 'table', columns, rows, empty },
];
const more = (all: number, shown: number): Part[] =>
  all > shown ? [text(`${all - shown} more are not listed.`, true)] : [];
