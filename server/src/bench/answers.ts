import { assess, endpointName, explainedStatusCode, signInNameOf, usualRules } from '@loyal-hinge/core';
import type { Fact, LinkInPlant } from '@loyal-hinge/core';
import type { BenchValue } from '@loyal-hinge/contract';
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
  const channel = facts.find((fact) => fact.kind === 'channel');
  const { identity } = subject.link;
  return {
    security: channel?.kind === 'channel' ? endpointName(channel) : 'no security',
    user: signInNameOf(identity) || 'anonymous',
  };
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

export const emptyValue = (nodeId: string, code: string): BenchValue =>
  valueOf(nodeId, { code, value: null, number: null, dataType: null, sourceTimestamp: null, serverTimestamp: null });

/** How listening to a node stands. @param sendsEvents as the node says of itself; null: it does not */
export function listeningWords(code: string, sendsEvents: boolean | null, refreshCode: string): string {
  if (code !== 'Good') return `It can’t be listened to. ${explainedStatusCode(code)}`;
  const refreshed = refreshCode === 'Good' ? 'Alarms that stand now are shown first.' : '';
  return sendsEvents === false ? 'The node says of itself that it sends no events.' : `Listening. ${refreshed}`.trim();
}
