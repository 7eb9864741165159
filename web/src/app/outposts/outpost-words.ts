import { spanOf } from '@loyal-hinge/core';
import type { Outpost, Tunnel, TunnelEnd } from '@loyal-hinge/contract';

export const stateWords: Readonly<Record<Tunnel['state'], string>> = {
  up: 'up',
  down: 'down',
  unset: 'not set up yet',
};
export const stateTones: Readonly<Record<Tunnel['state'], string>> = { up: 'holds', down: 'fails', unset: 'weak' };

export const outpostWords: Readonly<Record<Outpost['state'], string>> = {
  new: 'has no certificate yet',
  asks: 'asks for its certificate',
  certified: 'has a certificate, and was never heard',
  here: 'is connected to this server',
  away: 'is not connected to this server',
};
export const outpostTones: Readonly<Record<Outpost['state'], string>> = {
  new: 'weak',
  asks: 'weak',
  certified: 'weak',
  here: 'holds',
  away: 'fails',
};

const lineWords = {
  waiting: 'waits for the other end',
  joined: 'is joined with the other end',
  stopping: 'is stopping',
};
export const lineWordsOf = ({ statistics }: TunnelEnd): string | null =>
  statistics === null ? null : lineWords[statistics.state];

export const holdWords: Readonly<Record<TunnelEnd['holds'], string>> = {
  it: 'as it stands here',
  another: 'an earlier one; it is being told',
  nothing: 'none yet',
  'not-told': 'not known',
};

export const endOf = ({ ends }: Tunnel, side: TunnelEnd['side']): TunnelEnd | undefined =>
  ends.find((end) => end.side === side);

export function roundTripText({ statistics }: TunnelEnd): string {
  const ms = statistics?.roundTripMs ?? null;
  return ms === null ? '–' : spanOf(Math.max(1, Math.round(ms)));
}

const units = ['B', 'kB', 'MB', 'GB', 'TB'] as const;
/** A number of bytes as people write it. */
export function bytesText(bytes: number): string {
  let [value, unit] = [bytes, 0];
  while (value >= 1000 && unit < units.length - 1) [value, unit] = [value / 1000, unit + 1];
  return `${value >= 100 || unit === 0 ? Math.round(value) : value.toFixed(1)} ${units[unit] ?? ''}`;
}

/** A key’s digits in groups, as the process on its machine prints them. */
export const groupsOf = (digits: string): string => (digits.match(/.{1,4}/g) ?? []).join(' ');
