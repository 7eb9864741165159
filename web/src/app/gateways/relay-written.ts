import * as z from 'zod';
import { numberIn, relayTypes } from '@loyal-hinge/core';
import type { Relay } from '@loyal-hinge/core';
import type { RelayOfGateway, RelayWish } from '@loyal-hinge/contract';

/** A relay as it stands in the fields of its form before anything is written. */
export const beginning = {
  toLink: '',
  toPath: '',
  fromLink: '',
  fromPath: '',
  scale: 'none',
  factor: '1',
  offset: '0',
  fromLow: '0',
  fromHigh: '100',
  toLow: '0',
  toHigh: '100',
  clamps: true,
  as: 'same',
  bandBy: '',
  bandKind: 'absolute',
  onBad: 'hold',
  badValue: '0',
};

export type Written = typeof beginning;
type NumberField = 'factor' | 'offset' | 'fromLow' | 'fromHigh' | 'toLow' | 'toHigh' | 'bandBy';
export const ofScale: Readonly<Record<string, readonly NumberField[]>> = {
  none: [],
  linear: ['factor', 'offset'],
  ranges: ['fromLow', 'fromHigh', 'toLow', 'toHigh'],
};
/** The numbers that count for what is chosen. */
const numberFields = ({ scale, bandBy }: Written): readonly NumberField[] => [
  ...(ofScale[scale] ?? []),
  ...(bandBy.trim() === '' ? [] : (['bandBy'] as const)),
];

export const scaleFields = ['factor', 'offset', 'fromLow', 'fromHigh', 'toLow', 'toHigh'] as const;
/** A number as somebody writes it. */
export const numberText = z.string().refine((text) => numberIn(text) !== null, 'Write a number.');

/** What is written; null: one of its numbers can’t be read. */
export function wishIn(written: Written): RelayWish | null {
  if (numberFields(written).some((field) => numberIn(written[field]) === null)) return null;
  const of = (field: NumberField): number => numberIn(written[field]) ?? 0;
  return {
    to: { linkId: written.toLink, path: written.toPath.trim() },
    from: { linkId: written.fromLink, path: written.fromPath.trim() },
    scale:
      written.scale === 'linear'
        ? { kind: 'linear', factor: of('factor'), offset: of('offset') }
        : written.scale === 'ranges'
          ? {
              kind: 'ranges',
              from: [of('fromLow'), of('fromHigh')],
              to: [of('toLow'), of('toHigh')],
              clamps: written.clamps,
            }
          : null,
    deadBand:
      written.bandBy.trim() === ''
        ? null
        : { kind: written.bandKind === 'percent' ? 'percent' : 'absolute', by: of('bandBy') },
    as: relayTypes.find((type) => type === written.as) ?? null,
    onBad: written.onBad === 'value' ? { kind: 'value', value: plainValue(written.badValue) } : { kind: 'hold' },
  };
}

const plainValue = (text: string): number | boolean | string =>
  text === 'true' || text === 'false' ? text === 'true' : (numberIn(text) ?? text);

/** As the gateway computes it. */
export const asRelay = ({ from, to, ...rest }: RelayWish): Relay => ({
  id: 'tried',
  ...rest,
  from: { source: from.linkId, path: from.path },
  to: { source: to.linkId, path: to.path },
});

/** A relay as its form has it. */
export function writtenOf({ to, from, scale, deadBand, as, onBad }: Omit<RelayOfGateway, 'id'>): Written {
  return {
    ...beginning,
    toLink: to.linkId,
    toPath: to.path,
    fromLink: from.linkId,
    fromPath: from.path,
    ...(scale?.kind === 'linear'
      ? { scale: 'linear', factor: String(scale.factor), offset: String(scale.offset) }
      : {}),
    ...(scale?.kind === 'ranges'
      ? {
          scale: 'ranges',
          fromLow: String(scale.from[0]),
          fromHigh: String(scale.from[1]),
          toLow: String(scale.to[0]),
          toHigh: String(scale.to[1]),
          clamps: scale.clamps,
        }
      : {}),
    as: as ?? 'same',
    bandBy: deadBand ? String(deadBand.by) : '',
    bandKind: deadBand?.kind ?? 'absolute',
    onBad: onBad.kind,
    badValue: onBad.kind === 'value' ? String(onBad.value) : '0',
  };
}
