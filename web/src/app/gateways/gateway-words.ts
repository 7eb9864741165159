import { spanOf, statusCodeNamed } from '@loyal-hinge/core';
import type { Gateway, GatewayItemsView, GatewaySource, RelayOfGateway } from '@loyal-hinge/contract';

type Said = GatewayItemsView['items'][number]['shown'];

export const stateWords: Readonly<Record<Gateway['state'], string>> = {
  runs: 'runs',
  told: 'is being told what has changed',
  differs: 'does not do what it shall',
  away: 'is silent',
  unset: 'not set up yet',
};
export const stateTones: Readonly<Record<Gateway['state'], string>> = {
  runs: 'holds',
  told: 'weak',
  differs: 'fails',
  away: 'fails',
  unset: 'weak',
};

export const sourceWords: Readonly<Record<GatewaySource['state'], string>> = {
  there: 'is read',
  dialling: 'is being dialled',
  'left-out': 'is not read',
  'not-told': 'not known yet',
};
export const sourceTones: Readonly<Record<GatewaySource['state'], string>> = {
  there: 'holds',
  dialling: 'fails',
  'left-out': 'weak',
  'not-told': 'unknown',
};

const longest = 60;
/** A value as people read it; numbers with what fits of their digits. */
export const valueText = (said: Said | null): string =>
  said === null || said.value === null ? '–' : plainText(said.value);

export function plainText(value: unknown): string {
  if (typeof value === 'number') return String(Number(value.toPrecision(7)));
  const text = String(value);
  return text.length > longest ? `${text.slice(0, longest)}…` : text;
}

/** What a status means here; null: the value is good, and nothing has to be said. */
export function statusText({ status }: Said): string | null {
  const name = statusCodeNamed(status);
  if (status >>> 30 === 0) return null;
  return statusMeanings[name] ?? name;
}
const statusMeanings: Readonly<Record<string, string>> = {
  UncertainLastUsableValue: 'last value; its server is gone',
  BadWaitingForInitialData: 'waits for its first value',
};
export const statusTone = ({ status }: Said): string =>
  status >>> 30 === 0 ? '' : status >>> 30 === 1 ? 'weak' : 'fails';

/** How old a value is at a moment, in milliseconds since 1970. */
export function ageText({ sourceTime }: Said, now: number): string {
  if (sourceTime === null) return 'not known';
  return now - sourceTime < 1000 ? 'under 1 s' : spanOf(now - sourceTime);
}

/** What a relay does on the way, such as: 4–20 becomes 0–100, not beyond; as Int16. */
export function onTheWay({ scale, deadBand, as, onBad }: Omit<RelayOfGateway, 'id' | 'from' | 'to'>): string {
  const parts = [
    scale?.kind === 'linear' ? `times ${scale.factor}, plus ${scale.offset}` : null,
    scale?.kind === 'ranges'
      ? `${scale.from.join('–')} becomes ${scale.to.join('–')}${scale.clamps ? ', not beyond' : ''}`
      : null,
    as === null ? null : `as ${as}`,
    deadBand ? `changes from ${deadBand.by}${deadBand.kind === 'percent' ? ' %' : ''} on` : null,
    onBad.kind === 'value' ? `${String(onBad.value)} while it is bad` : null,
  ].filter((part) => part !== null);
  return parts.length === 0 ? 'as it is' : parts.join('; ');
}
