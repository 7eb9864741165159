import { once } from 'node:events';
import type { Response } from 'express';
import { csvLine, linkKindIds, linkKinds } from '@loyal-hinge/core';
import type { StepId, Verdict } from '@loyal-hinge/core';
import type { LinkRow } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { boardRows } from './board.js';
import type { BoardWish } from './board.js';

/** The steps of all kinds of link, each once: a column each. */
const steps = [
  ...new Map(linkKindIds.flatMap((kind) => linkKinds[kind].steps.map(({ id, title }) => [id, title] as const))),
];
const before = ['link', 'kind', 'state', 'finding', 'client', 'server', 'endpoint URL'];

const words: Readonly<Record<Verdict, string>> = {
  holds: 'holds',
  weak: 'weak',
  fails: 'fails',
  unknown: 'unknown',
  'not-needed': 'not needed',
};

/** Writes links as CSV (RFC 4180), some at a time, as fast as they are taken. */
export async function writeLinks(
  response: Response,
  db: Queryable,
  wish: BoardWish,
  signal: AbortSignal,
): Promise<void> {
  response.write(`${csvLine([...before, ...steps.map(([, title]) => title), 'checked at'])}\r\n`);
  for await (const rows of boardRows(db, wish)) {
    if (signal.aborted) return;
    const lines = rows.map((row) => csvLine(cellsOf(row)));
    if (!response.write(`${lines.join('\r\n')}\r\n`)) await once(response, 'drain', { signal }).catch(() => undefined);
  }
  response.end();
}

function cellsOf(row: LinkRow): readonly string[] {
  const { title, steps: own } = linkKinds[row.kind];
  const verdicts = new Map<StepId, string>(own.map(({ id }, index) => [id, words[row.verdicts[index] ?? 'unknown']]));
  return [
    row.name,
    title,
    row.state,
    row.headline,
    row.client,
    row.server,
    row.endpointUrl,
    ...steps.map(([id]) => verdicts.get(id) ?? ''),
    row.checkedAt ?? '',
  ];
}
