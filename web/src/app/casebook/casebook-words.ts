import { byNumber, counted, linkKinds, spanOf } from '@loyal-hinge/core';
import type { CaseActRow, CaseActWish, CaseRow, ClockProposal, EvidenceRow } from '@loyal-hinge/contract';
import { sizeWords } from '../files/size-words';

export const caseKindWords: Readonly<Record<CaseRow['kind'], string>> = {
  link: 'a link',
  stranger: 'no link',
  scan: 'a scan',
  guessing: 'refused sign-ins',
  unknown: 'not of the plant',
};

/** “4 times, every 30 s”. */
export function timesWords({ count, rhythm }: Pick<CaseRow, 'count' | 'rhythm'>): string {
  const times = byNumber(count, 'once', '# times');
  /* A number stays with its unit. */
  return rhythm?.isRegular ? `${times}, every ${spanOf(rhythm.everyMs).replaceAll(' ', '\u00a0')}` : times;
}

export function stepWords({ step, linkKind }: Pick<CaseRow, 'step' | 'linkKind'>): string {
  if (step === null || linkKind === null) return '';
  return linkKinds[linkKind].steps.find(({ id }) => id === step)?.title ?? '';
}

export const statusWords: Readonly<Record<CaseRow['status']['state'], string>> = {
  open: 'open',
  proved: 'proved over',
  closed: 'closed',
};

export const actWords: Readonly<
  Record<CaseActWish['kind'], { readonly heading: string; readonly does: string; readonly field: string }>
> = {
  note: { heading: 'Write a note', does: 'Write it down', field: 'Note' },
  assign: { heading: 'Give the case to somebody', does: 'Give it', field: '' },
  close: { heading: 'Close the case', does: 'Close it', field: 'Why it is over' },
  reopen: { heading: 'Open the case again', does: 'Open it again', field: 'Why it is not over' },
};

/** “ada closed it”. */
export function doneWords({ kind, by, to }: Pick<CaseActRow, 'kind' | 'by' | 'to'>): string {
  switch (kind) {
    case 'note':
      return `${by} wrote`;
    case 'assign':
      return to === null ? `${by} gave it to nobody` : `${by} gave it to ${to}`;
    case 'close':
      return `${by} closed it`;
    case 'reopen':
      return `${by} opened it again`;
  }
}

/** “7 min before”, “at the same time”. */
export function agoWords(at: string, first: string): string {
  const ms = Date.parse(first) - Date.parse(at);
  if (Math.abs(ms) < 1000) return 'at the same time:';
  return ms > 0 ? `${spanOf(ms)} before:` : `${spanOf(-ms)} after it began:`;
}

export const checkWords = ({ checks }: Pick<CaseRow, 'checks'>): string =>
  byNumber(checks, 'One check of our own saw it.', '# checks of our own saw it.');

export function headlineOf(cases: readonly CaseRow[], evidence: readonly EvidenceRow[]): string {
  if (cases.length === 0)
    return evidence.length === 0 ? 'Nothing was recorded here yet.' : 'Nothing in what was brought has failed.';
  const open = cases.filter(({ status }) => status.state === 'open');
  if (open.length === 0) return `${byNumber(cases.length, 'The only case is', 'All # cases are')} over.`;
  const links = new Set(open.flatMap(({ linkId }) => linkId ?? [])).size;
  const others = open.filter(({ kind }) => kind !== 'link').length;
  const parts = [
    links > 0 ? byNumber(links, '1 link has failed', '# links have failed') : 'No link has failed',
    others > 0 ? byNumber(others, '1 case is of no link', '# cases are of no link') : null,
  ];
  return `${parts.filter((part) => part !== null).join('; ')}.`;
}

/** What was made of a file. */
export function readWords({ state, form, items, received, readBytes, bytes, fault }: EvidenceRow): string {
  switch (state) {
    case 'arriving':
      return `${sizeWords(received)} of ${sizeWords(bytes)} are here; bring it again to go on.`;
    case 'reading':
      return `It is being read: ${sizeWords(readBytes)} of ${sizeWords(bytes)} …`;
    case 'refused':
      return fault ?? 'It can’t be read.';
    case 'read':
      return form === 'capture' ? counted(items, 'packet') : counted(items, 'event');
  }
}

/** “as ours”, “9 s ahead, +01:00”. */
export function clockWords({ clock: { zone, aheadSeconds } }: EvidenceRow): string {
  const ahead = aheadSeconds === 0 ? '' : `${spanOf(aheadSeconds * 1000)} ${aheadSeconds > 0 ? 'ahead' : 'behind'}`;
  return [ahead, zone === 'UTC' ? '' : zone].filter(Boolean).join(', ') || 'as ours';
}

/** “9 s ahead of night.pcap, as 3 attempts show.” */
export const proposalWords = ({ aheadMs, against, matches }: ClockProposal): string =>
  `${spanOf(aheadMs)} ${aheadMs > 0 ? 'ahead of' : 'behind'} ${against}, as ${counted(matches, 'attempt')} show.`;
