import { setTimeout as pause } from 'node:timers/promises';
import { givesCertificate, targetOf } from '@loyal-hinge/core';
import type { Instant, Link, LinkAssessment, StepId } from '@loyal-hinge/core';
import type { CheckDetail } from '@loyal-hinge/contract';
import { persist } from '../database/database.js';
import { ProblemError } from '../http/problems.js';
import type { Links } from '../links/service.js';
import type { TrustCarrier } from '../trust/carrier.js';
import { isPushLinkId, pushedServerOf } from '../trust/push-link.js';
import type { LineRow } from './store.js';

const lookAgainMs = 400;
const patienceMs = 5 * 60_000;

/** Proves new certificates live, before anything is taken away that the old ones hang on. */
export class RenewalProof {
  constructor(
    private readonly plantLinks: () => Promise<readonly Pick<Link, 'id' | 'name' | 'clientId' | 'serverId'>[]>,
    private readonly links: Pick<Links, 'askAfresh' | 'checkDetail' | 'detail'>,
    private readonly carrier: Pick<TrustCarrier, 'read'>,
  ) {}

  /**
   * What speaks against the new certificates of some lines, in words: a link that stops at one of them and did not before, or
   * a server that the product can’t open any more. Nothing where all are accepted, as far as they can be tried.
   * @param since when the order was approved: a link that stopped there already is not blamed on the order
   * @param signal gives up waiting for the checks, by an exception
   */
  async doubts(
    lines: readonly LineRow[],
    since: Instant,
    actor: string,
    signal: AbortSignal,
  ): Promise<readonly string[]> {
    const renewals = lines.filter(({ change }) => givesCertificate(change));
    const renewed = new Set(renewals.map(({ change }) => targetOf(change)));
    const linkIds = [...new Set(renewals.flatMap((line) => line.linkIds))];
    const asked = await persist(patienceMs, () =>
      this.links.askAfresh(
        linkIds.filter((linkId) => !isPushLinkId(linkId)),
        actor,
      ),
    );
    const links = new Map((await this.plantLinks()).map((link) => [link.id, link]));
    const doubts: string[] = [];
    for (const { id, linkId } of asked) {
      const { assessment } = await this.ended(id, signal);
      const link = links.get(linkId);
      const stop = link ? stepsAbout(link, renewed).find((step) => fails(assessment, step)) : undefined;
      if (link && stop && !(await this.failedBefore(linkId, stop, since)))
        doubts.push(`${link.name}: ${assessment.headline}`);
    }
    return [...doubts, ...(await this.shutServers(linkIds.flatMap(pushedServerOf), actor, signal))];
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

  /** Servers that the product’s own desk can’t open. */
  private async shutServers(
    serverIds: readonly string[],
    actor: string,
    signal: AbortSignal,
  ): Promise<readonly string[]> {
    const doubts: string[] = [];
    for (const serverId of serverIds) {
      signal.throwIfAborted();
      try {
        await this.carrier.read(serverId, actor, signal);
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        doubts.push(error.problem.detail);
      }
    }
    return doubts;
  }
}

/** Where a link stops when a new certificate is not accepted: servers often say no more than that the channel is refused. */
const stepsAbout = (
  { clientId, serverId }: Pick<Link, 'clientId' | 'serverId'>,
  renewed: ReadonlySet<string>,
): readonly StepId[] => [
  ...(renewed.has(serverId) ? (['server-certificate', 'secure-channel'] as const) : []),
  ...(renewed.has(clientId) ? (['secure-channel', 'client-certificate'] as const) : []),
];

const fails = ({ steps }: Pick<LinkAssessment, 'steps'>, id: StepId): boolean =>
  steps.some(({ step, verdict }) => step === id && verdict === 'fails');
