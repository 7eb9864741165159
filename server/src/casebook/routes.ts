import type { Router } from 'express';
import { mayActAs } from '@loyal-hinge/contract';
import type { Role } from '@loyal-hinge/contract';
import type { Runs } from '../heavy/jobs.js';
import { notFound } from '../http/problems.js';
import { serve, serveLarge } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { CaseActs } from './case-acts.js';
import type { EvidenceKeeping } from './evidence-keeping.js';
import type { CasebookJobs } from './jobs.js';
import type { ReadingRules } from './reading-rules.js';

/** Logs name people: only who works with them is told. */
export const mayKnowNames = (role: Role): boolean => mayActAs(role, 'engineer');

/** A number in a path. */
function placeIn(text: string | undefined, what: string): number {
  if (text === undefined || !/^\d{1,15}$/.test(text)) throw notFound(what, text ?? '');
  return Number(text);
}

export function casebookRoutes(
  router: Router,
  findActor: FindActor,
  heavy: Runs<CasebookJobs>,
  keeping: EvidenceKeeping,
  acts: CaseActs,
  rules: ReadingRules,
): void {
  const evidenceIn = (params: Readonly<Record<string, string>>): string => params['evidenceId'] ?? '';
  serve(router, findActor, 'casebook', ({ signal }, { role }) =>
    heavy.run('casebookView', { mayKnowNames: mayKnowNames(role) }, signal),
  );
  serve(router, findActor, 'case', ({ params, signal }, { role }) =>
    heavy.run('caseView', { caseId: params['caseId'] ?? '', mayKnowNames: mayKnowNames(role) }, signal),
  );
  serve(router, findActor, 'actOnCase', async ({ params, body, signal }, { name }) => {
    const named = await heavy.run('namedCase', { caseId: params['caseId'] ?? '' }, signal);
    await acts.add(named, body, name);
    return {};
  });
  serve(router, findActor, 'beginEvidence', ({ body }, { name }) => keeping.begin(body, name));
  serveLarge(router, findActor, 'sendEvidence', async ({ text, params, signal }) => {
    const { from, content } = await heavy.run('evidencePart', { text }, signal);
    return { received: await keeping.take(evidenceIn(params), from, content) };
  });
  serve(router, findActor, 'evidencePlace', ({ params, query }) =>
    keeping.placeOf(evidenceIn(params), Number(query['position'])),
  );
  const conversationIn = async (params: Readonly<Record<string, string>>) => ({
    evidenceId: evidenceIn(params),
    path: await keeping.fileOf(evidenceIn(params)),
    position: placeIn(params['position'], 'conversation'),
  });
  serve(router, findActor, 'conversation', async ({ params, signal }) =>
    heavy.run('conversation', await conversationIn(params), signal),
  );
  serve(router, findActor, 'messageBytes', async ({ params, signal }) => {
    const index = placeIn(params['index'], 'message');
    return heavy.run('messageBytes', { ...(await conversationIn(params)), index }, signal);
  });
  serve(router, findActor, 'setEvidenceReading', async ({ params, body }, { name }) => {
    await keeping.setReading(evidenceIn(params), body, name);
    return {};
  });
  serve(router, findActor, 'removeEvidence', async ({ params }, { name }) => {
    await keeping.remove(evidenceIn(params), name);
    return {};
  });
  const ruleIn = (params: Readonly<Record<string, string>>): string => params['ruleId'] ?? '';
  serve(router, findActor, 'readingRules', () => rules.all());
  serve(router, findActor, 'addReadingRule', ({ body }, { name }) => rules.add(body, name));
  serve(router, findActor, 'takeReadingRules', ({ body }, { name }) => rules.takeFile(body, name));
  serve(router, findActor, 'tryReadingRule', ({ body }) => Promise.resolve(rules.attempt(body)));
  serve(router, findActor, 'putReadingRule', ({ params, body }, { name }) => rules.put(ruleIn(params), body, name));
  serve(router, findActor, 'removeReadingRule', async ({ params }, { name }) => {
    await rules.remove(ruleIn(params), name);
    return {};
  });
}
