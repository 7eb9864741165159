import type { LinkDetail } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { found } from '../testing/found.js';
import { plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('hidden');
const hiddenFrom = 'line-display--recipes';
const seenBy = 'energy--recipes';
const path = 'Recipes/Limits/Crown temperature';
let engineer: Caller;
beforeAll(async () => {
  await own.setUp();
  const { url } = await own.serve();
  engineer = await signIn('engineer', url, ownPassword);
});
afterAll(() => own.remove());

const detail = (): Promise<LinkDetail> => engineer.call('link', { linkId: hiddenFrom });
const causes = ({ assessment }: LinkDetail): readonly string[] =>
  assessment.steps.flatMap(({ findings }) => findings.map(({ causeId }) => causeId));

describe('an item that a link does not find', () => {
  it('is missing as long as nobody was seen to find it', async () => {
    expect(await found(engineer, hiddenFrom)).toBe('Parted');
    expect(causes(await detail())).toEqual(['item-missing']);
  });

  it('is hidden once another user found it there: the link is checked again by itself, and says who', async () => {
    expect(await found(engineer, seenBy)).toBe('Strained');
    const told = await until(detail, (now) => causes(now).includes('item-hidden'));
    expect(causes(told)).toEqual(['item-hidden']);
    expect(told.assessment.headline).toContain(`“process” found ${path} on Recipe server`);
    expect(told.assessment.headline).toContain('“display” can’t see it');
  });

  it('is hidden, too, where a snapshot of rights has it and nobody’s check looked for it', async () => {
    const link = plantGiven().plant.links.find(({ id }) => id === hiddenFrom);
    const needs = [{ path: 'Recipes/Formulas/Sand share', uses: ['read'] }];
    await engineer.call('putLink', { id: hiddenFrom }, { ...link, needs } as never);
    expect(await found(engineer, hiddenFrom)).toBe('Parted');
    expect(causes(await detail())).toEqual(['item-missing']);
    await engineer.call('takeSnapshots', { serverId: 'recipes-server' }, { part: '' });
    await until(
      () => engineer.call('rights', { serverId: 'recipes-server' }),
      ({ snapshots }) => snapshots.length > 0 && snapshots.every(({ state }) => state === 'whole'),
    );
    expect(await found(engineer, hiddenFrom)).toBe('Parted');
    const told = await detail();
    expect(causes(told)).toEqual(['item-hidden']);
    const evidence = told.assessment.steps.flatMap(({ findings }) => findings.flatMap((finding) => finding.evidence));
    expect(evidence.map(({ says }) => says).join(' ')).toContain('found there by “process”, in a snapshot of rights');
    await engineer.call('putLink', { id: hiddenFrom }, link as never);
    expect(await found(engineer, hiddenFrom)).toBe('Parted');
  });

  it('that is needed by a pattern is every variable that fits, read and judged for itself', async () => {
    const link = plantGiven().plant.links.find(({ id }) => id === seenBy);
    const needs = (path: string) => ({ ...link, needs: [{ path, uses: ['read'] }] }) as never;
    await engineer.call('putLink', { id: seenBy }, needs('Recipes/[F-L]*/*'));
    // It reads only, and may write one of them.
    expect(await found(engineer, seenBy)).toBe('Strained');
    const { assessment } = await engineer.call('link', { linkId: seenBy });
    const stepOf = (id: string) => assessment.steps.find(({ step }) => step === id);
    expect(stepOf('browse')?.summary).toBe('2 needed items found.');
    expect(stepOf('read')?.summary).toBe('2 items read.');
    await engineer.call('putLink', { id: seenBy }, needs('Recipes/*/Crown [9-1]'));
    expect(await found(engineer, seenBy)).toBe('Parted');
    await engineer.call('putLink', { id: seenBy }, link as never);
  });

  it('is not asked for again and again', async () => {
    const before = (await detail()).checks.map(({ id }) => id);
    expect(await found(engineer, seenBy)).toBe('Strained');
    expect(await found(engineer, seenBy)).toBe('Strained');
    expect((await detail()).checks.map(({ id }) => id)).toEqual(before);
  });
});
