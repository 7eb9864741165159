import { assess, endpointName, explainedStatusCode, signInNameOf, usualCalls, usualRules } from '@loyal-hinge/core';
import type { Fact, LinkInPlant } from '@loyal-hinge/core';
import type { BenchChange, BenchValue } from '@loyal-hinge/contract';
import { ProblemError, conflict } from '../http/problems.js';
import { failureOf } from '../ua/failure.js';
import type { ReadValue } from '../ua/read-value.js';

/** What a server answers with, or a lost line, in words. */
export async function explained<Result>(call: () => Promise<Result>): Promise<Result> {
  try {
    return await call();
  } catch (error) {
    if (error instanceof ProblemError) throw error;
    throw conflict(
      `The server answered: ${explainedStatusCode(failureOf(error).code)}`,
      'Where the session is lost, it is taken up again by itself.',
    );
  }
}

/** Why no session came to be on a link. */
export const refusal = (subject: LinkInPlant, facts: readonly Fact[]): string =>
  `No session on ${subject.link.name}. ${assess(subject, facts, usualRules, new Date().toISOString()).headline}`;

/** How a session is secured, and who signed in. */
export function shown(subject: LinkInPlant, facts: readonly Fact[]): { security: string; user: string } {
  const { kind, identity, classic } = subject.link;
  const user = signInNameOf(identity) || 'anonymous';
  if (kind === 'classic') return { security: `DCOM at level ${(classic ?? usualCalls).level}`, user };
  const channel = facts.find((fact) => fact.kind === 'channel');
  return { security: channel?.kind === 'channel' ? endpointName(channel) : 'no security', user };
}

export function valueOf(nodeId: string, read: ReadValue): BenchValue {
  const { code, value, number, dataType, sourceTimestamp, serverTimestamp } = read;
  return {
    nodeId,
    code,
    status: code === 'Good' ? 'Good' : explainedStatusCode(code),
    value,
    number,
    dataType,
    sourceTimestamp,
    serverTimestamp,
  };
}

/** The same as short as it can be told, where there are many. */
export function changeOf(slot: number, read: ReadValue): BenchChange {
  const { code, value, number } = read;
  const isUsual = number !== null && Number.isFinite(number) && String(number) === value;
  const told = [slot, isUsual ? number : value, msOf(read.sourceTimestamp), msOf(read.serverTimestamp)] as const;
  if (number !== null && Number.isFinite(number) && !isUsual) return [...told, code === 'Good' ? '' : code, number];
  return code === 'Good' ? [...told] : [...told, code];
}

const msOf = (time: string | null): number | null => (time === null ? null : Date.parse(time));

/** How listening to a node stands. @param sendsEvents as the node says of itself; null: it does not */
export function listeningWords(code: string, sendsEvents: boolean | null, refreshCode: string): string {
  if (code !== 'Good') return `It can’t be listened to. ${explainedStatusCode(code)}`;
  const refreshed = refreshCode === 'Good' ? 'Alarms that stand now are shown first.' : '';
  return sendsEvents === false ? 'The node says of itself that it sends no events.' : `Listening. ${refreshed}`.trim();
}
