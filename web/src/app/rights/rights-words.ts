import { rightBit, rightNames } from '@loyal-hinge/core';
import type { RightName } from '@loyal-hinge/core';
import type { RightsGapView, RightsSnapshot } from '@loyal-hinge/contract';

/** What somebody may do, in words; a stroke where it is nothing. */
export const rightsWords = (bits: number): string =>
  rightNames.filter((name) => (bits & rightBit(name)) !== 0).join(', ') || '–';

/** What stands out, in words. */
export const gapWords = ({ gap, right }: Pick<RightsGapView, 'gap' | 'right'>): string =>
  gap === 'missing' ? `must ${right}, and may not` : `may ${right}, and no link needs it`;

export const gradeTones = { grave: 'fails', weak: 'weak', slight: 'unknown' } as const;

export const snapshotWords: Readonly<Record<RightsSnapshot['state'], string>> = {
  waiting: 'waiting',
  running: 'being taken',
  whole: 'whole',
  part: 'in part',
  failed: 'not taken',
  cancelled: 'cancelled',
};

/** Who somebody is. */
export const whoWords = (userName: string | null): string => userName ?? 'anonymous';

export const rightChoices: readonly { readonly key: '' | RightName; readonly word: string }[] = [
  { key: '', word: 'anything' },
  ...rightNames.map((key) => ({ key, word: key })),
];
