import { day, lists, member, noon, plantOf, wantedLink, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import { JudgeMemory } from './judged-plant.js';
import { PlantJudge } from './plant-judge.js';
import type { PlantTrust } from './plant-trust.js';

let site: Works;
let display: Certificate;
let furnace: Certificate;
let lehr: Certificate;
beforeAll(async () => {
  site = await works();
  [display, furnace, lehr] = [await site.own('display'), await site.own('furnace'), await site.own('lehr')];
});

const plant = (): PlantTrust =>
  plantOf(
    [
      member('display', display, lists({ trusted: [furnace, lehr] })),
      member('furnace', furnace, lists({ trusted: [display] })),
      member('lehr', lehr, lists({})),
    ],
    [wantedLink('display', 'furnace'), wantedLink('display', 'lehr')],
  );

const resultsOf = async (memory: JudgeMemory, of: PlantTrust): Promise<readonly string[]> => {
  const judged = memory.of(of);
  const verdicts = await Promise.all(of.links.map((link) => judged.verdictsOf(link)));
  return verdicts.flat().map(({ result }) => result);
};

describe('trust that is judged again', () => {
  it('comes to the same as when it is judged for the first time', async () => {
    const [memory, whole] = [new JudgeMemory(webCryptoVerifier), plant()];
    await resultsOf(memory, whole);
    const trusting = member('lehr', lehr, lists({ trusted: [display] }));
    const after = { ...whole, parties: [...whole.parties.slice(0, 2), trusting] };
    const afresh = await new PlantJudge(after, webCryptoVerifier).needs(after);
    expect(await resultsOf(memory, after)).toEqual(afresh.map(({ result }) => result));
    expect(afresh.map(({ result }) => result)).toEqual(['good', 'good', 'good', 'good']);
  });

  it('is judged again for those links alone whose ends have changed', async () => {
    const [memory, whole] = [new JudgeMemory(webCryptoVerifier), plant()];
    await resultsOf(memory, whole);
    expect(memory.judged).toBe(2);
    await resultsOf(memory, { ...whole, at: whole.at + 1000 });
    expect(memory.judged).toBe(0);
    const trusting = member('lehr', lehr, lists({ trusted: [display] }));
    await resultsOf(memory, { ...whole, parties: [...whole.parties.slice(0, 2), trusting] });
    expect(memory.judged).toBe(1);
  });

  it('is judged no further than it is asked for', async () => {
    const [memory, whole] = [new JudgeMemory(webCryptoVerifier), plant()];
    const judged = memory.of(whole);
    const furnaceItself = whole.parties[1];
    expect(furnaceItself && (await judged.needsOf(furnaceItself)).map(({ result }) => result)).toEqual(['good']);
    expect(memory.judged).toBe(1);
  });

  it('keeps what an application makes of others the same object, as long as nothing of it changes', async () => {
    const [memory, whole] = [new JudgeMemory(webCryptoVerifier), plant()];
    const [first, second] = whole.parties;
    if (!first || !second) throw new Error('the plant has two parties');
    const before = memory.of(whole);
    const [ofFirst, ofSecond] = [await before.needsOf(first), await before.needsOf(second)];
    const renamed = { ...whole, links: [whole.links[0], { ...whole.links[1], name: 'another' }] } as PlantTrust;
    const after = memory.of(renamed);
    expect((await after.needsOf(first)) === ofFirst).toBe(false);
    expect((await after.needsOf(second)) === ofSecond).toBe(true);
  });

  it('is judged again when a date is passed on which something ends, and when the rules change', async () => {
    const ending = await site.own('furnace', { to: '2026-03-20' });
    const memory = new JudgeMemory(webCryptoVerifier);
    const whole = plantOf(
      [
        member('display', display, lists({ trusted: [ending] })),
        member('furnace', ending, lists({ trusted: [display] })),
      ],
      [wantedLink('display', 'furnace')],
    );
    expect(await resultsOf(memory, whole)).toEqual(['good', 'good']);
    const { asOf } = memory.of(whole);
    expect(memory.of({ ...whole, at: whole.at + 1000 }).asOf === asOf).toBe(true);
    expect(memory.of({ ...whole, parties: [...whole.parties] }).asOf === asOf).toBe(false);
    const later = { ...whole, at: Date.parse('2026-03-20T00:00:01Z') + day };
    expect(later.at).toBeGreaterThan(noon);
    expect(await resultsOf(memory, later)).toEqual(['bad', 'good']);
    const before = memory.of(later).asOf;
    await resultsOf(memory, { ...later, crlsDemanded: true });
    expect(memory.judged).toBe(1);
    expect(memory.of({ ...later, crlsDemanded: true }).asOf === before).toBe(false);
  });
});
