import type { LinkDetail } from '@loyal-hinge/contract';
import { detail } from '../../testing/plant-answers';
import { Site } from '../../testing/site';

const path = 'Lehr/Speed wanted';
const told = (paths: readonly string[]): LinkDetail => {
  const known = detail();
  return { ...known, link: { ...known.link, needs: paths.map((one) => ({ path: one, uses: ['read', 'write'] })) } };
};
const check = {
  id: 'c9',
  linkId: 'l1',
  state: 'queued' as const,
  askedBy: 'engineer',
  askedAt: '2026-03-01T12:00:00.000Z',
  begunAt: null,
  endedAt: null,
  reason: null,
  found: null,
};
const open = (paths: readonly string[], role: 'engineer' | 'viewer' = 'engineer'): Promise<Site> => {
  const link = told(paths);
  return Site.open(`/links/${link.link.id}`, { link, proveWrites: check }, role);
};

describe('writing an item back', () => {
  it('is offered where the link must write, and nowhere else', async () => {
    expect((await open([])).text).not.toContain('Prove by writing');
    expect((await open([path])).text).toContain('Prove by writing it back …');
    expect((await open([path], 'viewer')).button(/^Prove by writing/).disabled).toBe(true);
  });

  it('asks why, says what it does, and writes nothing before', async () => {
    const site = await open([path, 'Lehr/Other']);
    await site.press(/^Prove by writing them back/);
    expect(site.text).toContain('writes the same value');
    await site.press(/^Write and read back$/);
    expect(site.faults).toEqual(['Say why, in a few words: an auditor will ask.']);
    expect(site.asked('proveWrites')).toEqual([]);
    await site.fill(/^Why/, 'Permit 12');
    await site.press(/^Write and read back$/);
    expect(site.asked('proveWrites')).toEqual([{ paths: [path, 'Lehr/Other'], why: 'Permit 12' }]);
  });
});
