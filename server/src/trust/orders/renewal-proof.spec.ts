import type { LinkAssessment, StepId } from '@loyal-hinge/core';
import type { Check, CheckDetail, LinkDetail } from '@loyal-hinge/contract';
import { conflict } from '../../http/problems.js';
import { RenewalProof } from './renewal-proof.js';
import type { Doubt } from './renewal-proof.js';
import type { TrustLine } from './trust-lines.js';

const never = new AbortController().signal;
const met = (clientId: string, serverId: string, linkId = `${clientId}--${serverId}`) => ({
  linkId,
  name: `${clientId} to ${serverId}`,
  clientId,
  serverId,
});
const links = [
  met('display', 'furnace'),
  met('display', 'lehr'),
  met('desk', 'furnace', 'push--furnace'),
  met('desk', 'lehr', 'push--lehr'),
];

const renewal = (applicationId: string): TrustLine => ({
  orderId: 'o',
  position: 1,
  change: { kind: 'renew-certificate', applicationId, authority: 'AA', before: null },
  why: '',
  linkIds: [],
  state: 'proved',
  says: null,
  restarted: false,
  wrote: true,
  by: null,
  at: null,
  provedAt: null,
  serverId: null,
});

const since = '2026-03-01T12:00:00.000Z';
type Failing = Readonly<Record<string, StepId>>;

/** A plant in which one step of one link fails, and servers that can’t be opened. */
function proofWhere(failing: Failing, shut: readonly string[] = [], failedBefore: Failing = {}) {
  const asked: string[] = [];
  const read: string[] = [];
  const looks = new Map<string, number>();
  const proof = new RenewalProof(
    {
      async askAfresh(linkIds) {
        asked.push(...linkIds);
        return linkIds.map((linkId) => ({ id: `check of ${linkId}`, linkId }) as Check);
      },
      async detail(linkId) {
        const before = { id: `earlier ${linkId}`, state: 'done', endedAt: '2026-02-01T12:00:00.000Z' };
        const after = { ...before, id: 'later', endedAt: '2026-03-01T13:00:00.000Z' };
        return { checks: linkId in failedBefore ? [after, before] : [after] } as unknown as LinkDetail;
      },
      async checkDetail(id) {
        if (id.startsWith('earlier ')) return detailWith(failedBefore[id.slice('earlier '.length)], 'then');
        const seen = (looks.get(id) ?? 0) + 1;
        looks.set(id, seen);
        return detailWith(failing[id.replace('check of ', '')], seen > 1 ? 'now' : null);
      },
    },
    {
      async read(serverId) {
        read.push(serverId);
        if (shut.includes(serverId)) throw conflict(`${serverId} does not open.`, 'Look.');
        return { trusted: [], issuers: [], trustedCrls: [], issuerCrls: [], rejected: [] };
      },
    },
  );
  return { proof, asked, read };
}

function detailWith(step: StepId | undefined, endedAt: string | null): CheckDetail {
  const steps = step ? [{ step, verdict: 'fails' }] : [];
  const assessment = { steps, headline: `It stops at ${step}.` } as unknown as LinkAssessment;
  return { check: { endedAt }, assessment } as unknown as CheckDetail;
}

const saysOf = (doubts: readonly Doubt[]): readonly string[] => doubts.map(({ says }) => says);

describe('new certificates', () => {
  it('are proved where every link of theirs accepts them; other links are not asked', async () => {
    const { proof, asked, read } = proofWhere({});
    expect(await proof.doubts([renewal('furnace')], links, since, 'engineer', never)).toEqual([]);
    expect([asked, read]).toEqual([['display--furnace'], ['furnace']]);
  });

  it('are doubted where the other side refuses them, with the finding of the link and between whom', async () => {
    const server = proofWhere({ 'display--furnace': 'server-certificate' }).proof;
    expect(await server.doubts([renewal('furnace')], links, since, 'x', never)).toEqual([
      { between: ['display', 'furnace'], says: 'display to furnace: It stops at server-certificate.' },
    ]);
    const client = proofWhere({ 'display--lehr': 'client-certificate' }).proof;
    expect(saysOf(await client.doubts([renewal('display')], links, since, 'x', never))).toEqual([
      'display to lehr: It stops at client-certificate.',
    ]);
  });

  it('are not blamed for what fails elsewhere, or for the certificate of the other side', async () => {
    for (const step of ['reach', 'identity', 'client-certificate'] satisfies StepId[]) {
      const { proof } = proofWhere({ 'display--furnace': step });
      expect(await proof.doubts([renewal('furnace')], links, since, 'x', never)).toEqual([]);
    }
  });

  it('are doubted where the channel is refused without a reason, unless it was so before the order', async () => {
    const failing = { 'display--lehr': 'secure-channel' } as const;
    const count = async (before: Failing): Promise<number> =>
      (await proofWhere(failing, [], before).proof.doubts([renewal('display')], links, since, 'x', never)).length;
    expect(await count({})).toBe(1);
    expect(await count(failing)).toBe(0);
    expect(await count({ 'display--lehr': 'reach' })).toBe(1);
  });

  it('are doubted where the product itself can’t open a server any more', async () => {
    const { proof, asked, read } = proofWhere({}, ['lehr']);
    expect(await proof.doubts([renewal('desk')], links, since, 'engineer', never)).toEqual([
      { between: ['desk', 'lehr'], says: 'lehr does not open.' },
    ]);
    expect([asked, read]).toEqual([[], ['furnace', 'lehr']]);
  });

  it('are waited for no longer when the server stops', async () => {
    const stopping = new AbortController();
    stopping.abort();
    const waiting = proofWhere({}).proof.doubts([renewal('furnace')], links, since, 'engineer', stopping.signal);
    await expect(waiting).rejects.toThrow(/abort/i);
  });
});
