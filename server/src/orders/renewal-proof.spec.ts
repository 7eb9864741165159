import type { LinkAssessment, StepId } from '@loyal-hinge/core';
import type { Check, CheckDetail, LinkDetail } from '@loyal-hinge/contract';
import { conflict } from '../http/problems.js';
import { RenewalProof } from './renewal-proof.js';
import type { LineRow } from './store.js';

const never = new AbortController().signal;
const links = [
  { id: 'display--furnace', name: 'Display to Furnace', clientId: 'display', serverId: 'furnace' },
  { id: 'display--lehr', name: 'Display to Lehr', clientId: 'display', serverId: 'lehr' },
];

const renewal = (applicationId: string, ...linkIds: string[]): LineRow => ({
  orderId: 'o',
  position: 1,
  change: { kind: 'renew-certificate', applicationId, authority: 'AA' },
  why: '',
  linkIds,
  state: 'proved',
  says: null,
  restarted: false,
  by: null,
  at: null,
  provedAt: null,
});

const giving: LineRow = {
  ...renewal('x', 'display--lehr'),
  change: { kind: 'list-certificate', holderId: 'lehr', list: 'trusted', thumbprint: 'AA', until: null },
};

const since = '2026-03-01T12:00:00.000Z';
type Failing = Readonly<Record<string, StepId>>;

/** A plant in which one step of one link fails, and servers that can’t be opened. */
function proofWhere(failing: Failing, shut: readonly string[] = [], failedBefore: Failing = {}) {
  const asked: string[] = [];
  const read: string[] = [];
  const looks = new Map<string, number>();
  const proof = new RenewalProof(
    async () => links,
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

describe('new certificates', () => {
  it('are proved where every link that they are for accepts them; other links are not asked', async () => {
    const { proof, asked } = proofWhere({});
    expect(await proof.doubts([renewal('furnace', 'display--furnace'), giving], since, 'engineer', never)).toEqual([]);
    expect(asked).toEqual(['display--furnace']);
  });

  it('are doubted where the other side refuses them, with the finding of the link', async () => {
    const lines = [renewal('furnace', 'display--furnace')];
    expect(
      await proofWhere({ 'display--furnace': 'server-certificate' }).proof.doubts(lines, since, 'x', never),
    ).toEqual(['Display to Furnace: It stops at server-certificate.']);
    const client = [renewal('display', 'display--lehr')];
    expect(
      await proofWhere({ 'display--lehr': 'client-certificate' }).proof.doubts(client, since, 'x', never),
    ).toHaveLength(1);
  });

  it('are not blamed for what fails elsewhere, or for the certificate of the other side', async () => {
    const lines = [renewal('furnace', 'display--furnace')];
    for (const step of ['reach', 'identity', 'client-certificate'] satisfies StepId[])
      expect(await proofWhere({ 'display--furnace': step }).proof.doubts(lines, since, 'x', never)).toEqual([]);
  });

  it('are doubted where the channel is refused without a reason, unless it was so before the order', async () => {
    const failing = { 'display--lehr': 'secure-channel' } as const;
    const lines = [renewal('display', 'display--lehr')];
    expect(await proofWhere(failing).proof.doubts(lines, since, 'x', never)).toHaveLength(1);
    expect(await proofWhere(failing, [], failing).proof.doubts(lines, since, 'x', never)).toEqual([]);
    const otherwise = { 'display--lehr': 'reach' } as const;
    expect(await proofWhere(failing, [], otherwise).proof.doubts(lines, since, 'x', never)).toHaveLength(1);
  });

  it('are doubted where the product itself can’t open a server any more', async () => {
    const { proof, asked, read } = proofWhere({}, ['lehr']);
    const lines = [renewal('desk', 'push--furnace', 'push--lehr')];
    expect(await proof.doubts(lines, since, 'engineer', never)).toEqual(['lehr does not open.']);
    expect([asked, read]).toEqual([[], ['furnace', 'lehr']]);
  });

  it('are waited for no longer when the server stops', async () => {
    const stopping = new AbortController();
    stopping.abort();
    const lines = [renewal('furnace', 'display--furnace')];
    await expect(proofWhere({}).proof.doubts(lines, since, 'engineer', stopping.signal)).rejects.toThrow(/abort/i);
  });
});
