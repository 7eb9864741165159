import type { LinkDetail } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { found } from '../testing/found.js';
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

  it('is not asked for again and again', async () => {
    const before = (await detail()).checks.map(({ id }) => id);
    expect(await found(engineer, seenBy)).toBe('Strained');
    expect(await found(engineer, seenBy)).toBe('Strained');
    expect((await detail()).checks.map(({ id }) => id)).toEqual(before);
  });
});
