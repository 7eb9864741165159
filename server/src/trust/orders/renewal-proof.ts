import { setTimeout as pause } from 'node:timers/promises';
import { targetOf } from '@loyal-hinge/core';
import type { Instant, LinkAssessment, StepId, TrustLink } from '@loyal-hinge/core';
import type { Check, CheckDetail, LinkDetail } from '@loyal-hinge/contract';
import { persist } from '../../database/database.js';
import { ProblemError } from '../../http/problems.js';
import type { TrustCarrier } from '../push/carrier.js';
import { isPushLinkId } from '../lists/push-link.js';
import type { TrustLine } from './trust-lines.js';

const lookAgainMs = 400;
const patienceMs = 5 * 60_000;

/** What speaks against a new certificate, and between whom. */
export interface Doubt {
  readonly between: readonly string[];
  readonly says: string;
}

type Met = Pick<TrustLink, 'linkId' | 'name' | 'clientId' | 'serverId'>;

/** What trying links takes of those who check them. */
export interface TriesLinks {
  /** Asks for checks that begin after this moment. */
  askAfresh(linkIds: readonly string[], actor: string): Promise<readonly Check[]>;
  checkDetail(checkId: string): Promise<CheckDetail>;
  detail(linkId: string): Promise<Pick<LinkDetail, 'checks'>>;
}

/** Proves new certificates live, before anything is taken away that the old ones hang on. */
export class RenewalProof {
  constructor(
    private readonly links: TriesLinks,
    private readonly carrier: Pick<TrustCarrier, 'read'>,
  ) {}

  /**
   * What speaks against the new certificates of some lines: a link that stops at one of them and did not before, or a server
   * that the product can’t open any more. Nothing where all are accepted, as far as they can be tried.
   * @param links all that are wanted, the product’s own ways to servers among them
   * @param since when the order was approved: a link that stopped there already is not blamed on the order
   * @param signal gives up waiting for the checks, by an exception
   */
  async doubts(
    renewals: readonly TrustLine[],
    links: readonly Met[],
    since: Instant,
    actor: string,
    signal: AbortSignal,
  ): Promise<readonly Doubt[]> {
    const renewed = new Set(renewals.map(({ change }) => targetOf(change)));
    const concerned = links.filter(({ clientId, serverId }) => renewed.has(clientId) || renewed.has(serverId));
    const byId = new Map(concerned.map((link) => [link.linkId, link]));
    const tried = concerned.filter(({ linkId }) => !isPushLinkId(linkId)).map(({ linkId }) => linkId);
    const doubts: Doubt[] = [];
    for (const { id, linkId } of await persist(patienceMs, () => this.links.askAfresh(tried, actor))) {
      const { assessment } = await this.ended(id, signal);
      const link = byId.get(linkId);
      const stop = link ? stepsAbout(link, renewed).find((step) => fails(assessment, step)) : undefined;
      if (link && stop && !(await this.failedBefore(linkId, stop, since)))
        doubts.push(doubtAbout(link, `${link.name}: ${assessment.headline}`));
    }
    for (const link of concerned.filter(({ linkId }) => isPushLinkId(linkId))) {
      const says = await this.shut(link.serverId, actor, signal);
      if (says !== null) doubts.push(doubtAbout(link, says));
    }
    return doubts;
  }

  private async failedBefore(linkId: string, step: StepId, since: Instant): Promise<boolean> {
    const { checks } = await this.links.detail(linkId);
    const before = checks.find(({ endedAt, state }) => state === 'done' && endedAt !== null && endedAt < since);
    return before !== undefined && fails((await this.links.checkDetail(before.id)).assessment, step);
  }

  private async ended(checkId: string, signal: AbortSignal): Promise<CheckDetail> {
    for (;;) {
      const detail = await persist(patienceMs, () => this.links.checkDetail(checkId));
      if (detail.check.endedAt !== null) return detail;
      await pause(lookAgainMs, undefined, { signal });
    }
  }

  /** Why the product’s own desk can’t open a server; null where it can. */
  private async shut(serverId: string, actor: string, signal: AbortSignal): Promise<string | null> {
    signal.throwIfAborted();
    try {
      await this.carrier.read(serverId, actor, signal);
      return null;
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      return error.problem.detail;
    }
  }
}

const doubtAbout = ({ clientId, serverId }: Met, says: string): Doubt => ({ between: [clientId, serverId], says });

/** Where a link stops when a new certificate is not accepted: servers often say no more than that the channel is refused. */
const stepsAbout = ({ clientId, serverId }: Met, renewed: ReadonlySet<string>): readonly StepId[] => [
  ...(renewed.has(serverId) ? (['server-certificate', 'secure-channel'] as const) : []),
  ...(renewed.has(clientId) ? (['secure-channel', 'client-certificate'] as const) : []),
];

const fails = ({ steps }: Pick<LinkAssessment, 'steps'>, id: StepId): boolean =>
  steps.some(({ step, verdict }) => step === id && verdict === 'fails');
