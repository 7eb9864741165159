import fc from 'fast-check';
import { read, rootOf } from '../../testing/pki.js';
import { lists, member, plantOf, wantedLink, works } from '../../testing/plant-trust.js';
import type { Works } from '../../testing/plant-trust.js';
import type { Certificate } from '../certificate.js';
import { JudgeMemory } from '../plant-trust/judged-plant.js';
import { PlantJudge } from '../plant-trust/plant-judge.js';
import { shelfOf } from '../plant-trust/plant-trust.js';
import type { PlantTrust, Shelf, TrustParty } from '../plant-trust/plant-trust.js';
import { onPaper } from '../plant-trust/trust-change.js';
import { withPromises } from '../plant-trust/promised.js';
import { webCryptoVerifier } from '../x509/signatures.js';
import { PlanMemory, planTrust } from './plan-trust.js';
import { whatIf } from './what-if.js';
import type { Strategy, TrustPlan } from './plan-trust.js';

let site: Works;
let stranger: Certificate;
beforeAll(async () => {
  site = await works();
  stranger = await site.own('stranger');
});

const nothingMore: Shelf = { certificates: new Map(), crls: [] };
const knownOf = (...certificates: readonly Certificate[]): Shelf => shelfOf({ parties: [] }, certificates);
const plan = (plant: PlantTrust, strategy: Strategy = 'direct', known: Shelf = nothingMore): Promise<TrustPlan> =>
  planTrust(plant, { strategy, authority: site.root, known }, webCryptoVerifier);
const told = ({ changes }: TrustPlan): string[] =>
  changes.map(({ change }) =>
    'holderId' in change
      ? `${change.kind} ${change.holderId} ${change.list}`
      : `${change.kind.split('-')[0]} ${change.applicationId}`,
  );

describe('a plan of direct trust', () => {
  it('lists each certificate with the other side, both ways', async () => {
    const plant = plantOf(
      [member('display', await site.own('display')), member('furnace', await site.own('furnace'))],
      [wantedLink('display', 'furnace')],
    );
    expect(told(await plan(plant))).toEqual(['list-certificate display trusted', 'list-certificate furnace trusted']);
  });

  it('leaves alone what works already, through whichever list', async () => {
    const [display, furnace] = [await site.signed('display'), await site.own('furnace')];
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [furnace] })),
        member('furnace', furnace, lists({ trusted: [site.root] })),
      ],
      [wantedLink('display', 'furnace')],
    );
    expect(await plan(plant)).toMatchObject({ changes: [], remainder: [], restarts: [] });
  });

  it('takes away what no link needs, and only after everything else', async () => {
    const [display, furnace] = [await site.own('display'), await site.own('furnace')];
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [stranger] })),
        member('furnace', furnace, lists({ trusted: [display, stranger] }), { restarts: true }),
      ],
      [wantedLink('display', 'furnace')],
    );
    const made = await plan(plant);
    expect(told(made)).toEqual([
      'list-certificate display trusted',
      'unlist-certificate display trusted',
      'unlist-certificate furnace trusted',
    ]);
    expect(made.changes[1]?.why).toContain('No link needs display to trust stranger');
    expect(made.restarts).toEqual(['furnace']);
  });

  it('completes a chain in the issuers list, and brings the CRL that is demanded', async () => {
    const [display, furnace] = [await site.signed('display'), await site.own('furnace')];
    const crl = await site.crl();
    const plant = plantOf(
      [member('display', display, lists({ trusted: [furnace] })), member('furnace', furnace)],
      [wantedLink('display', 'furnace')],
      true,
    );
    const known = { ...knownOf(site.root), crls: [crl] };
    expect(told(await plan(plant, 'direct', known))).toEqual([
      'list-certificate furnace trusted',
      'list-certificate furnace issuers',
      'list-crl furnace issuers',
    ]);
  });

  it('trusts nothing that trust can’t mend, and says why', async () => {
    const late = await site.own('furnace', { to: '2026-02-01' });
    const plant = plantOf(
      [member('display', await site.own('display')), member('furnace', late)],
      [wantedLink('display', 'furnace')],
    );
    const made = await plan(plant);
    expect(told(made)).toEqual(['list-certificate furnace trusted']);
    expect(made.remainder).toEqual([
      { linkId: 'display--furnace', holderId: 'display', shownId: 'furnace', says: 'Expired on 1 February 2026.' },
    ]);
  });

  it('trusts nobody who is revoked', async () => {
    const lost = await site.signed('tablet', { serial: '0d0d' });
    const crl = await site.crl({ revoked: [{ serialNumber: '0d0d', revocationDate: new Date('2026-02-02') }] });
    const furnace = await site.own('furnace');
    const plant = plantOf(
      [
        member('tablet', lost, lists({ trusted: [furnace] })),
        member('furnace', furnace, lists({ issuers: [site.root], issuerCrls: [crl] })),
      ],
      [wantedLink('tablet', 'furnace')],
    );
    const made = await plan(plant);
    expect(told(made)).toEqual([]);
    expect(made.remainder[0]?.says).toContain('Revoked by CN=Works CA');
  });

  it('takes away nothing that may serve a link whose other end nobody has seen yet', async () => {
    const [furnace, lehr] = [await site.own('furnace'), await site.own('lehr')];
    const display = member('display', await site.own('display'), lists({ trusted: [furnace, lehr, site.root] }));
    const made = await plan(plantOf([display, member('furnace', null)], [wantedLink('display', 'furnace')]));
    const away = made.changes.flatMap(({ change }) =>
      change.kind === 'unlist-certificate' ? [change.thumbprint] : [],
    );
    expect(away).toEqual([lehr.thumbprint]);
  });

  it('says whose lists and whose certificate are not known', async () => {
    const plant = plantOf(
      [member('display', null), member('furnace', await site.own('furnace'), null)],
      [wantedLink('display', 'furnace')],
    );
    const { remainder } = await plan(plant);
    expect(remainder.map(({ says }) => says)).toEqual(['The lists of furnace have not been read yet.']);
  });
});

describe('a plan with one authority', () => {
  it('renews what it did not sign, lists it once everywhere, and takes the old certificates away', async () => {
    const [display, furnace, lehr] = [await site.own('display'), await site.own('furnace'), await site.signed('lehr')];
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [furnace] })),
        member('furnace', furnace, lists({ trusted: [display] })),
        member('lehr', lehr),
      ],
      [wantedLink('display', 'furnace'), wantedLink('display', 'lehr')],
    );
    const made = await plan(plant, 'authority', knownOf(site.root));
    expect(told(made).sort()).toEqual([
      'list-certificate display trusted',
      'list-certificate furnace trusted',
      'list-certificate lehr trusted',
      'renew display',
      'renew furnace',
      'unlist-certificate display trusted',
      'unlist-certificate furnace trusted',
    ]);
    expect(made.atRenewal).toEqual({ most: 1, mean: 1 });
  });

  it('costs more now and less at each renewal than direct trust', async () => {
    const servers = await Promise.all(['a', 'b', 'c', 'd'].map(async (name) => member(name, await site.own(name))));
    const plant = plantOf(
      [member('display', await site.own('display')), ...servers],
      servers.map(({ name }) => wantedLink('display', name)),
    );
    const [direct, authority] = [await plan(plant), await plan(plant, 'authority', knownOf(site.root))];
    expect([direct.changes.length, authority.changes.length]).toEqual([8, 10]);
    expect([direct.atRenewal.most, authority.atRenewal.most]).toEqual([5, 1]);
  });

  it('mends with a new certificate what trust alone can’t', async () => {
    const late = await site.signed('furnace', { to: '2026-02-01' });
    const plant = plantOf(
      [
        member('display', await site.signed('display'), lists({ trusted: [site.root] })),
        member('furnace', late, lists({ trusted: [site.root] })),
      ],
      [wantedLink('display', 'furnace')],
    );
    const made = await plan(plant, 'authority');
    expect(told(made)).toEqual(['renew furnace']);
    expect(made.changes[0]?.why).toBe('Expired on 1 February 2026.');
  });

  it('renews nobody who would then be refused where the lists are not known', async () => {
    const [display, furnace] = [await site.own('display'), await site.own('furnace')];
    const plant = plantOf(
      [
        member('display', display, lists({ trusted: [furnace] })),
        member('furnace', furnace, lists({ trusted: [display] })),
        member('lehr', await site.own('lehr'), null),
      ],
      [wantedLink('display', 'furnace'), wantedLink('display', 'lehr')],
    );
    const made = await plan(plant, 'authority', knownOf(site.root));
    expect(told(made).filter((line) => line.startsWith('renew'))).toEqual(['renew furnace', 'renew lehr']);
    expect(made.remainder.map(({ linkId, says }) => [linkId, says])).toEqual([
      ['display--lehr', 'The lists of lehr have not been read yet.'],
    ]);
  });

  it('renews nobody who should answer and does not, since the line would fail and hold everything else back', async () => {
    const furnace = member('furnace', await site.own('furnace'), null, { way: 'push' });
    const plant = plantOf(
      [member('display', await site.signed('display')), furnace],
      [wantedLink('display', 'furnace')],
    );
    expect(told(await plan(plant, 'authority', knownOf(site.root)))).toEqual(['list-certificate display trusted']);
    const copied = { ...plant, parties: plant.parties.map((one) => ({ ...one, way: 'files' as const })) };
    expect(told(await plan(copied, 'authority', knownOf(site.root)))).toContain('renew furnace');
  });

  it('renews nobody for whom the same key and the same hosts would not be enough', async () => {
    const furnace = await site.own('furnace', { dns: ['other.works.example'] });
    const plant = plantOf(
      [member('display', await site.signed('display')), member('furnace', furnace)],
      [wantedLink('display', 'furnace', 'furnace.works.example')],
    );
    const made = await plan(plant, 'authority', knownOf(site.root));
    expect(told(made)).toEqual(['list-certificate furnace trusted']);
    expect(made.remainder.map(({ holderId, says }) => [holderId, says])).toEqual([
      ['display', expect.stringContaining('other.works.example')],
    ]);
  });

  it('counts a restart for each new certificate of an application that runs', async () => {
    const [display, furnace] = [await site.own('display'), await site.own('furnace')];
    const plant = plantOf(
      [member('display', display), member('furnace', furnace, lists(), { way: 'push' })],
      [wantedLink('display', 'furnace')],
    );
    expect((await plan(plant, 'authority', knownOf(site.root))).restarts).toEqual(['furnace']);
  });
});

describe('a plan with an authority that was renewed', () => {
  const trusting = async (root: Certificate): Promise<PlantTrust> =>
    plantOf(
      [
        member('display', await site.signed('display'), lists({ trusted: [root] })),
        member('furnace', await site.signed('furnace'), lists({ trusted: [root] })),
      ],
      [wantedLink('display', 'furnace')],
    );
  const planFor = (plant: PlantTrust, authority: Certificate): Promise<TrustPlan> =>
    planTrust(plant, { strategy: 'authority', authority, known: knownOf(site.root, authority) }, webCryptoVerifier);
  const overlap = ['display', 'furnace'].map((name) => `list-certificate ${name} trusted`);
  const end = ['display', 'furnace'].map((name) => `unlist-certificate ${name} trusted`);

  it('with its key: gives the new one to everybody, renews nothing, and takes the old one away at the end', async () => {
    const renewed = read(await rootOf(site.authority, { to: '2040-01-01' }));
    expect(told(await planFor(await trusting(site.root), renewed))).toEqual([...overlap, ...end]);
    expect(told(await planFor(await trusting(renewed), renewed))).toEqual([]);
  });

  it('with a new key: renews all that the old one signed in between', async () => {
    const renewed = (await works()).root;
    expect(renewed.subject.equals(site.root.subject)).toBe(true);
    const made = await planFor(await trusting(site.root), renewed);
    expect(told(made).sort()).toEqual([...overlap, 'renew display', 'renew furnace', ...end].sort());
    expect(made.remainder).toEqual([]);
  });

  it('leaves the old one trusted where somebody whom it signed can’t be renewed yet', async () => {
    const plant = await trusting(site.root);
    const unread = member('lehr', await site.signed('lehr'), null, { way: 'unknown' });
    const wanted = [...plant.links, wantedLink('display', 'lehr')];
    const made = await planFor({ ...plant, parties: [...plant.parties, unread], links: wanted }, (await works()).root);
    expect(told(made).filter((line) => line.includes(' display') || line.startsWith('renew'))).toEqual([
      'list-certificate display trusted',
      'renew furnace',
    ]);
  });

  it('does not want it in the place of the old one where it has ended itself', async () => {
    const ended = read(await rootOf(site.authority, { to: '2026-02-01' }));
    expect(told(await planFor(await trusting(site.root), ended))).toEqual([]);
  });
});

describe('whatever the plant', () => {
  let pool: { readonly name: string; readonly certificates: readonly Certificate[] }[];
  beforeAll(async () => {
    pool = await Promise.all(
      ['a', 'b', 'c', 'd', 'e'].map(async (name) => ({
        name,
        certificates: [await site.own(name), await site.signed(name)],
      })),
    );
  });

  /** A plant of five applications with one of two certificates each, wanted links and lists at random. */
  const anyPlant = (): fc.Arbitrary<PlantTrust> =>
    fc
      .record({
        which: fc.array(fc.nat(1), { minLength: 5, maxLength: 5 }),
        links: fc.uniqueArray(fc.tuple(fc.nat(4), fc.nat(4)), { maxLength: 8, selector: String }),
        trusted: fc.array(fc.subarray([0, 1, 2, 3, 4, 5, 6]), { minLength: 5, maxLength: 5 }),
        hasIssuer: fc.array(fc.boolean(), { minLength: 5, maxLength: 5 }),
      })
      .map(({ which, links, trusted, hasIssuer }) => {
        const shown = pool.map(({ certificates }, index) => certificates[which[index] ?? 0] as Certificate);
        const all = [...shown, site.root, stranger];
        const parties: TrustParty[] = pool.map(({ name }, index) =>
          member(
            name,
            shown[index] ?? null,
            lists({
              trusted: (trusted[index] ?? []).map((at) => all[at] as Certificate),
              issuers: hasIssuer[index] ? [site.root] : [],
            }),
          ),
        );
        const wanted = links.filter(([from, to]) => from !== to);
        return plantOf(
          parties,
          wanted.map(([from, to]) => wantedLink(pool[from]?.name ?? '', pool[to]?.name ?? '')),
        );
      });

  it('direct trust carried out on paper makes every link trusted, and a second plan finds nothing left to do', async () => {
    await fc.assert(
      fc.asyncProperty(anyPlant(), async (plant) => {
        const known = knownOf(site.root);
        const made = await plan(plant, 'direct', known);
        expect(made.remainder).toEqual([]);
        const shelf = shelfOf(plant, [site.root]);
        const changes = made.changes.map(({ change }) => change);
        const after = onPaper(plant, changes, shelf);
        const verdicts = await new PlantJudge(after, webCryptoVerifier).needs(after);
        expect(verdicts.filter(({ result }) => result !== 'good')).toEqual([]);
        expect(made.turns).toEqual(await whatIf(plant, changes, shelf, webCryptoVerifier));
        expect((await plan(after, 'direct', known)).changes).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('one authority carried out on paper makes every link trusted, and a second plan finds nothing left to do', async () => {
    await fc.assert(
      fc.asyncProperty(anyPlant(), async (plant) => {
        const known = knownOf(site.root);
        const made = await plan(plant, 'authority', known);
        expect(made.remainder).toEqual([]);
        const changes = made.changes.map(({ change }) => change);
        const shelf = shelfOf(plant, [site.root]);
        const after = onPaper(plant, changes, shelf);
        const verdicts = await new PlantJudge(after, withPromises(webCryptoVerifier)).needs(after);
        expect(verdicts.filter(({ result }) => result !== 'good')).toEqual([]);
        expect(made.turns).toEqual(await whatIf(plant, changes, shelf, webCryptoVerifier));
        expect((await plan(after, 'authority', known)).changes).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('planned again, it comes to what it would be if it were planned for the first time', async () => {
    const anyStrategy = fc.constantFrom<Strategy>('direct', 'authority');
    const whoChanges = fc.array(fc.boolean(), { minLength: 5, maxLength: 5 });
    await fc.assert(
      fc.asyncProperty(anyStrategy, anyPlant(), anyPlant(), whoChanges, async (strategy, plant, other, changes) => {
        const known = knownOf(site.root);
        const kept = {
          judged: new JudgeMemory(withPromises(webCryptoVerifier)),
          plans: new PlanMemory(webCryptoVerifier),
        };
        const again = (of: PlantTrust): Promise<TrustPlan> =>
          planTrust(of, { strategy, authority: site.root, known }, webCryptoVerifier, kept);
        const parties = plant.parties.map((party, index) => (changes[index] ? (other.parties[index] ?? party) : party));
        const later = { ...plant, parties, at: plant.at + 1000 };
        expect(await again(plant)).toEqual(await plan(plant, strategy, known));
        expect(await again(later)).toEqual(await plan(later, strategy, known));
        expect(await again({ ...later, links: other.links })).toEqual(
          await plan({ ...later, links: other.links }, strategy, known),
        );
      }),
      { numRuns: 60 },
    );
  });

  it('no change of the plan can be left out', async () => {
    await fc.assert(
      fc.asyncProperty(anyPlant(), fc.nat(30), async (plant, pick) => {
        const known = knownOf(site.root);
        const { changes } = await plan(plant, 'direct', known);
        fc.pre(changes.length > 0);
        const left = changes[pick % changes.length];
        const others = changes.filter((planned) => planned !== left).map(({ change }) => change);
        const after = onPaper(plant, others, shelfOf(plant, [site.root]));
        expect((await plan(after, 'direct', known)).changes.map(({ change }) => change)).toEqual([left?.change]);
      }),
      { numRuns: 60 },
    );
  });
});
