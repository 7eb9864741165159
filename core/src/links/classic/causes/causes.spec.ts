import { assess } from '../../assess.js';
import { usualRules } from '../../cause.js';
import type { Fact } from '../../facts.js';
import { fact, facts, now, subject } from '../../../testing/builders.js';
import type { LinkInPlant } from '../../../plant/plant.js';
import type { ClassicFact, ClassicFailure, ClassicItem, SeenPlace } from '../facts.js';
import { ownClassicCauses } from './index.js';

type Of<Kind extends ClassicFact['kind']> = Partial<Omit<Extract<ClassicFact, { readonly kind: Kind }>, 'kind'>>;

const classic = (needs = [{ path: 'Lehr.Zone1', uses: ['read' as const, 'watch' as const] }]): LinkInPlant => {
  const made = subject({
    kind: 'classic',
    endpointUrl: 'classic://furnace.works.example:135/Works.Lehr.1',
    classic: { level: 'integrity', updateRateMs: 1000 },
    needs,
  });
  return { ...made, server: { ...made.server, speaks: 'classic', applicationUri: '', ports: [135] } };
};
const mapper = (more: Of<'classic-mapper'> = {}) =>
  fact({ kind: 'classic-mapper', version: '5.7', advertised: ['furnace'], failure: null, ...more });
const place = (more: Partial<SeenPlace> = {}): SeenPlace => ({
  host: 'furnace',
  port: 135,
  addresses: ['10.0.0.1'],
  outcome: 'open',
  ...more,
});
const bindings = (...places: readonly SeenPlace[]) => fact({ kind: 'classic-bindings', places });
const objectPort = (...places: readonly SeenPlace[]) => fact({ kind: 'classic-object-port', places });
const signIn = (more: Of<'classic-sign-in'> = {}) =>
  fact({
    kind: 'classic-sign-in',
    level: 'integrity',
    userName: 'display',
    outcome: 'let in',
    failure: null,
    withheld: null,
    computer: 'FURNACE',
    clockApartMs: 0,
    isProven: true,
    isAtMapper: true,
    ...more,
  });
const found = (more: Of<'classic-class'> = {}) =>
  fact({
    kind: 'classic-class',
    program: 'Works.Lehr.1',
    clsid: 'c',
    by: 'server list',
    nearest: null,
    known: [],
    failure: null,
    ...more,
  });
const made = (more: Of<'classic-activation'> = {}) =>
  fact({
    kind: 'classic-activation',
    level: 'integrity',
    places: ['furnace[49152]'],
    wantedLevel: null,
    failure: null,
    ...more,
  });
const access = (more: Of<'classic-access'> = {}) =>
  fact({
    kind: 'classic-access',
    state: 'running',
    vendor: 'Works',
    version: '1.0',
    startTime: null,
    failure: null,
    ...more,
  });
const browsed = (more: Of<'classic-browse'> = {}) =>
  fact({ kind: 'classic-browse', nameSpace: 'hierarchical', count: 3, missing: [], failure: null, ...more });
const item = (more: Partial<ClassicItem> = {}): ClassicItem => ({
  path: 'Lehr.Zone1',
  code: 0,
  dataType: 'r8',
  mayRead: true,
  mayWrite: false,
  quality: 0xc0,
  qualitySays: 'good',
  value: '540',
  timestamp: now,
  ...more,
});
const read = (items: readonly ClassicItem[], failure: ClassicFailure | null = null) =>
  fact({ kind: 'classic-read', items, failure });
const call = { from: '10.0.0.1', account: 'service', level: 'integrity' as const, afterMs: 900 };
const watch = (more: Of<'classic-watch'> = {}) =>
  fact({
    kind: 'classic-watch',
    wantedMs: 1000,
    revisedMs: 1000,
    back: { hosts: ['display'], resolverPort: 135, objectPort: 50_000 },
    calls: [call, call],
    unproven: [],
    strangers: [],
    failure: null,
    ...more,
  });
const given = { isAllowed: true, by: 'own permission' as const, says: 'Given by entry 1.' };
const rights = (more: Of<'classic-rights'> = {}) =>
  fact(
    {
      kind: 'classic-rights',
      takenAt: now,
      application: 'Lehr data',
      isOn: true,
      isGuestOnly: false,
      isHardened: true,
      runAs: null,
      rights: (['launch far', 'activate far', 'access far'] as const).map((right) => ({ right, ...given })),
      wide: [],
      ...more,
    },
    'reported',
  );
const failed = (code: number): ClassicFailure => ({ by: 'method', code });
const denied: ClassicFailure = { by: 'fault', code: 5 };
const noCom: ClassicFailure = { by: 'way', kind: 'interface-unknown', says: 'It is not there.' };
const broken: ClassicFailure = { by: 'way', kind: 'ended', says: 'The peer has ended the connection.' };

const healthy: readonly Fact[] = [
  facts.url('classic://furnace.works.example:135/Works.Lehr.1'),
  facts.resolved(['10.0.0.1']),
  facts.dialled('open'),
  mapper(),
  bindings(place()),
  signIn(),
  found(),
  made(),
  objectPort(place({ port: 49_152 })),
  access(),
  browsed(),
  read([item()]),
  watch(),
];

interface Case {
  readonly cause: string;
  readonly fires: readonly Fact[];
  readonly justNot: readonly Fact[];
  readonly on?: LinkInPlant;
  readonly severity?: 'weak' | 'fails';
}
const writes = classic([{ path: 'Lehr.Zone1', uses: ['write'] as never }]);
const old = (ms: number) => new Date(Date.parse(now) - ms).toISOString();
const withheld = { reason: 'no password kept' as const };

const cases: readonly Case[] = [
  {
    cause: 'mapper-refused',
    fires: [facts.dialled('refused')],
    justNot: [facts.dialled('refused'), facts.dialled('silent')],
  },
  {
    cause: 'mapper-silent',
    fires: [facts.dialled('silent')],
    justNot: [facts.dialled('silent'), facts.dialled('open')],
  },
  { cause: 'not-com', fires: [mapper({ version: null, failure: noCom })], justNot: [mapper()] },
  { cause: 'not-com', fires: [mapper({ version: null, failure: broken })], justNot: [mapper()] },
  {
    cause: 'bindings-elsewhere',
    fires: [bindings(place({ addresses: [], outcome: null }))],
    justNot: [bindings(place())],
    severity: 'fails',
  },
  {
    cause: 'bindings-elsewhere',
    fires: [bindings(place(), place({ host: 'other-card', outcome: 'silent' }))],
    justNot: [bindings(place(), place({ host: 'other-card' }))],
    severity: 'weak',
  },
  {
    cause: 'account-refused',
    fires: [signIn({ outcome: 'refused', failure: denied })],
    justNot: [signIn({ outcome: 'refused', failure: broken })],
  },
  {
    cause: 'account-refused',
    fires: [signIn({ outcome: 'refused', failure: failed(0x8007052e), clockApartMs: 3 * 3_600_000 })],
    justNot: [signIn({ clockApartMs: 3 * 3_600_000 })],
  },
  {
    cause: 'account-refused',
    fires: [signIn({ outcome: 'refused', failure: failed(0x80070775) })],
    justNot: [signIn({ outcome: 'refused', failure: failed(0x80070776) })],
  },
  {
    cause: 'sign-in-failed',
    fires: [signIn({ outcome: 'refused', failure: broken })],
    justNot: [signIn({ outcome: 'refused', failure: denied })],
  },
  { cause: 'sign-in-withheld', fires: [signIn({ outcome: 'withheld', withheld })], justNot: [signIn()] },
  {
    cause: 'signs-in-as-nobody',
    fires: [signIn({ userName: null })],
    justNot: [signIn({ userName: null, outcome: 'refused', failure: denied })],
  },
  { cause: 'level-none', fires: [signIn({ level: 'connect' })], justNot: [signIn({ level: 'packet' })] },
  {
    cause: 'program-unknown',
    fires: [found({ clsid: null, nearest: 'Works.Lehr.2', failure: failed(0x800401f3) })],
    justNot: [found({ clsid: null, failure: denied })],
  },
  {
    cause: 'list-refused',
    fires: [found({ clsid: null, failure: denied })],
    justNot: [found({ clsid: null, failure: failed(0x800401f3) })],
  },
  {
    cause: 'class-unknown',
    fires: [made({ failure: failed(0x80040154) })],
    justNot: [made({ failure: failed(0x80080005) })],
  },
  {
    cause: 'other-view',
    fires: [made({ failure: failed(0x80040154) }), rights({ views: ['32'] })],
    justNot: [made({ failure: failed(0x80040154) }), rights({ views: ['64', '32'] })],
  },
  {
    cause: 'nobody-may',
    fires: [made({ failure: denied }), rights({ nobodyHas: ['launch far'] })],
    justNot: [made({ failure: denied }), rights({ nobodyHas: ['access far'] })],
  },
  {
    cause: 'range-open',
    fires: [rights({ portCount: 1001, hasOwnPort: false })],
    justNot: [rights({ portCount: 1000, hasOwnPort: false })],
  },
  {
    cause: 'level-too-low',
    fires: [made({ level: 'connect', failure: denied })],
    justNot: [made({ failure: denied })],
  },
  {
    cause: 'com-off',
    fires: [made({ failure: denied }), rights({ isOn: false })],
    justNot: [made(), rights({ isOn: false })],
  },
  {
    cause: 'guest-only',
    fires: [made({ failure: denied }), rights({ isGuestOnly: true })],
    justNot: [made({ failure: denied }), rights()],
  },
  {
    cause: 'guest-only',
    fires: [access({ state: null, failure: denied }), rights({ isGuestOnly: true })],
    justNot: [access(), rights({ isGuestOnly: true })],
  },
  {
    cause: 'not-in-force',
    fires: [made({ failure: denied }), rights()],
    justNot: [made({ failure: denied }), rights({ rights: [] })],
  },
  { cause: 'not-in-force', fires: [access({ state: null, failure: denied }), rights()], justNot: [access(), rights()] },
  {
    cause: 'everyone-may',
    fires: [rights({ wide: [{ name: 'Everyone', rights: ['launch far'] }] })],
    justNot: [rights()],
  },
  {
    cause: 'everyone-may',
    fires: [rights({ wide: [{ name: 'Everyone', rights: ['access far'] }] })],
    justNot: [rights()],
  },
  {
    cause: 'runs-as-whoever',
    fires: [rights({ runAs: 'Interactive User' })],
    justNot: [rights({ runAs: 'works\\opc' })],
  },
  {
    cause: 'launch-refused',
    fires: [made({ failure: failed(0x80070005) })],
    justNot: [made({ failure: failed(0x80040154) })],
  },
  {
    cause: 'start-failed',
    fires: [made({ failure: failed(0x8000401a) })],
    justNot: [made({ failure: failed(0x80040154) })],
  },
  { cause: 'start-failed', fires: [made({ failure: failed(0x80080005) })], justNot: [made()] },
  {
    cause: 'activation-failed',
    fires: [made({ failure: failed(0x8000ffff) })],
    justNot: [made({ failure: failed(0x80070005) })],
  },
  {
    cause: 'object-port-closed',
    fires: [objectPort(place({ port: 49_152, outcome: 'silent' }))],
    justNot: [objectPort(place({ outcome: 'silent' }), place())],
  },
  { cause: 'object-port-closed', fires: [objectPort()], justNot: [objectPort(place())] },
  {
    cause: 'access-refused',
    fires: [access({ state: null, failure: denied })],
    justNot: [access({ state: null, failure: broken })],
  },
  {
    cause: 'access-refused',
    fires: [made({ wantedLevel: 'privacy' }), access({ state: null, failure: denied })],
    justNot: [made({ wantedLevel: 'privacy' }), access()],
  },
  {
    cause: 'access-failed',
    fires: [access({ state: null, failure: broken })],
    justNot: [access({ state: null, failure: denied })],
  },
  { cause: 'server-not-running', fires: [access({ state: 'suspended' })], justNot: [access()] },
  {
    cause: 'item-unknown',
    fires: [browsed({ missing: [{ path: 'Lehr.Zone1', nearest: 'Lehr.Zone2' }] })],
    justNot: [browsed()],
  },
  {
    cause: 'item-unread',
    fires: [read([item({ code: 0xc0040008 })])],
    justNot: [read([item({ code: 0xc0040006, mayRead: false })])],
  },
  { cause: 'item-unread', fires: [read([], denied)], justNot: [read([item()])] },
  { cause: 'item-rights', fires: [read([item({ code: 0xc0040006, mayRead: false })])], justNot: [read([item()])] },
  { cause: 'item-rights', on: writes, fires: [read([item()])], justNot: [read([item({ mayWrite: true })])] },
  {
    cause: 'item-quality',
    fires: [read([item({ quality: 0x10, qualitySays: 'bad: sensor failure' })])],
    justNot: [read([item({ quality: 0xd8 })])],
    severity: 'fails',
  },
  {
    cause: 'item-quality',
    fires: [read([item({ quality: 0x44, qualitySays: 'uncertain' })])],
    justNot: [read([item()])],
    severity: 'weak',
  },
  {
    cause: 'item-old',
    fires: [read([item({ timestamp: old(60_001) })])],
    justNot: [read([item({ timestamp: old(60_000) })])],
  },
  { cause: 'way-back-blocked', fires: [watch({ calls: [], failure: failed(0x80040202) })], justNot: [watch()] },
  { cause: 'way-back-blocked', fires: [watch({ calls: [] })], justNot: [watch({ calls: [call] })] },
  { cause: 'way-back-blocked', fires: [watch({ calls: [], back: null, failure: broken })], justNot: [watch()] },
  {
    cause: 'way-back-unproven',
    fires: [watch({ calls: [], unproven: [{ from: '10.0.0.1', account: 'service' }], failure: failed(0x80040202) })],
    justNot: [watch({ calls: [], failure: failed(0x80040202) })],
  },
  { cause: 'rate-revised', fires: [watch({ revisedMs: 2001 })], justNot: [watch({ revisedMs: 2000 })] },
  {
    cause: 'called-back-as-nobody',
    fires: [watch({ calls: [{ ...call, account: null, level: 'none' }] })],
    justNot: [watch()],
  },
  { cause: 'called-by-stranger', fires: [watch({ strangers: ['10.0.0.9'] })], justNot: [watch()] },
];

const judged = (on: LinkInPlant, seen: readonly Fact[]) => assess(on, seen, usualRules, now);
const findingsOf = (on: LinkInPlant, seen: readonly Fact[]) =>
  judged(on, seen).steps.flatMap(({ findings }) => findings.flatMap((one) => [one, ...one.folded]));

describe('every cause of a classic link', () => {
  it('has facts that fire it and facts that just don’t', () => {
    expect(new Set(cases.map(({ cause }) => cause))).toEqual(new Set(ownClassicCauses.map(({ id }) => id)));
  });

  it.each(cases)(
    '$cause fires on its facts, says why, and names the facts',
    ({ cause, fires, on = classic(), severity }) => {
      const finding = findingsOf(on, fires).find(({ causeId }) => causeId === cause);
      expect(finding?.meaning).toMatch(/^.*\w.*\.$/s);
      expect(finding?.meaning).not.toMatch(/undefined|null|NaN|\[object/);
      expect(finding?.evidence.length).toBeGreaterThan(0);
      for (const { says } of finding?.evidence ?? []) expect(says).not.toMatch(/undefined|null|NaN|\[object/);
      for (const { title, before, after } of finding?.remedies ?? [])
        expect(`${title}${before}${after}`).not.toMatch(/undefined|NaN/);
      expect(finding?.remedies.length).toBeGreaterThan(0);
      if (severity) expect(finding?.severity).toBe(severity);
    },
  );

  it.each(cases)('$cause stays silent where it just does not apply', ({ cause, justNot, on = classic() }) => {
    expect(findingsOf(on, justNot).map(({ causeId }) => causeId)).not.toContain(cause);
  });

  it.each(ownClassicCauses.map(({ id }) => id))('%s stays silent on a healthy link', (cause) => {
    expect(findingsOf(classic(), healthy).map(({ causeId }) => causeId)).not.toContain(cause);
  });
});

describe('a classic link', () => {
  it('is sound where all that it needs holds', () => {
    const { state, steps } = judged(classic(), healthy);
    expect(state).toBe('Sound');
    expect(steps.slice(0, -5).map(({ step, verdict }) => `${step} ${verdict}`)).toEqual([
      'name holds',
      'passage not-needed',
      ...[
        'reach',
        'mapper',
        'bindings',
        'sign-in',
        'class',
        'activation',
        'object-port',
        'access',
        'browse',
        'read',
        'watch',
      ].map((step) => `${step} holds`),
      'write not-needed',
    ]);
  });

  it('is parted at the first step that fails, and unknown behind it', () => {
    const { state, partedAt, leadingCause, steps } = judged(classic(), [
      ...healthy.slice(0, 7),
      made({ failure: denied }),
    ]);
    expect({ state, partedAt, leadingCause }).toEqual({
      state: 'Parted',
      partedAt: 'activation',
      leadingCause: 'launch-refused',
    });
    expect(steps.find(({ step }) => step === 'access')?.verdict).toBe('unknown');
  });

  it('tells which entry refuses, where an export of the machine says so', () => {
    const says = 'No entry of the machine’s limit gives it.';
    const refused = { right: 'activate far' as const, isAllowed: false, by: 'restriction' as const, says };
    const { headline } = judged(classic(), [
      ...healthy.slice(0, 7),
      made({ failure: denied }),
      rights({ rights: [refused] }),
    ]);
    expect(headline).toContain(`activate far is not given. ${says}`);
    const access5 = { right: 'access far' as const, isAllowed: false, by: 'own permission' as const, says };
    expect(
      judged(classic(), [access({ state: null, failure: denied }), rights({ rights: [access5] })]).headline,
    ).toContain(says);
  });

  it('says of a level that is too low what the export says of hardening', () => {
    const said = (isHardened: boolean | null) => {
      const seen = [...healthy.slice(0, 7), made({ level: 'connect', failure: denied }), rights({ isHardened })];
      return judged(classic(), seen).steps.find(({ step }) => step === 'activation')?.findings[0]?.meaning;
    };
    expect(said(true)).toContain('Its export says that it refuses activation below packet integrity');
    expect(said(false)).toContain('is switched off, and machines with the updates of 2023');
    expect(said(null)).toContain('Since 2023 machines refuse');
  });

  it('says of a server that does not start how its service stands', () => {
    const said = (startMode: string) => {
      const service = { name: 'LehrOpc', runsAs: '.\\opc', state: 'Stopped', startMode };
      const seen = [...healthy.slice(0, 7), made({ failure: failed(0x80080005) }), rights({ service })];
      return judged(classic(), seen).steps.find(({ step }) => step === 'activation')?.findings[0]?.meaning;
    };
    expect(said('Disabled')).toContain(
      'its service LehrOpc runs as .\\opc, is stopped, and starts never: it is disabled.',
    );
    expect(said('Odd')).toContain('starts as “Odd”');
  });

  it('folds a refused launch under a level that is too low', () => {
    const { steps } = judged(classic(), [...healthy.slice(0, 7), made({ level: 'connect', failure: denied })]);
    const [first] = steps.find(({ step }) => step === 'activation')?.findings ?? [];
    expect(first?.causeId).toBe('level-too-low');
    expect(first?.folded.map(({ causeId }) => causeId)).toEqual(['launch-refused']);
  });

  it('says of a machine without COM what can be told of the account all the same', () => {
    const elsewhere = (more: Of<'classic-sign-in'>) => [
      mapper({ failure: noCom, version: null }),
      signIn({ isAtMapper: false, ...more }),
    ];
    const verdict = (seen: readonly Fact[]) =>
      judged(classic(), seen).steps.find(({ step }) => step === 'sign-in')?.verdict;
    expect(verdict(elsewhere({}))).toBe('holds');
    expect(verdict(elsewhere({ outcome: 'refused', failure: denied }))).toBe('fails');
    expect(verdict(elsewhere({ outcome: 'refused', failure: broken }))).toBe('unknown');
  });

  it('calculates from what the server says whether items may be written', () => {
    const write = (mayWrite: boolean) =>
      judged(writes, [read([item({ mayWrite })])]).steps.find(({ step }) => step === 'write');
    expect(write(true)).toMatchObject({ verdict: 'holds', source: 'reckoned' });
    expect(write(false)).toMatchObject({ verdict: 'fails' });
  });

  it('is proved where an item was written and read back', () => {
    const as = { userName: 'display', applicationUri: 'classic:furnace' };
    const written = (outcome: 'same value' | 'refused') =>
      fact({
        kind: 'item-written',
        path: 'Lehr.Zone1',
        nodeId: 'Lehr.Zone1',
        outcome,
        code: 'Good',
        before: '1',
        after: '1',
        by: 'engineer',
        as,
        ms: 1,
      });
    const seen = (outcome: 'same value' | 'refused') =>
      judged(writes, [read([item({ mayWrite: true })]), written(outcome)]).steps.find(({ step }) => step === 'write');
    expect(seen('same value')).toMatchObject({
      verdict: 'holds',
      source: 'tried',
      summary: '1 item written and read back.',
    });
    expect(seen('refused')).toMatchObject({ verdict: 'fails', findings: [{ causeId: 'write-refused' }] });
  });

  it('offers a host or a program that was probably meant as the link’s own address', () => {
    const changeOf = (seen: readonly Fact[]) =>
      findingsOf(classic(), seen)
        .flatMap(({ remedies }) => remedies)
        .find(({ change }) => change.kind === 'set-endpoint-url')?.after;
    expect(changeOf([facts.resolved([], 'furnca.works.example')])).toBe(
      'classic://furnace.works.example:135/Works.Lehr.1',
    );
    expect(changeOf([found({ clsid: null, nearest: 'Works.Lehr.2', failure: failed(0x800401f3) })])).toBe(
      'classic://furnace.works.example:135/Works.Lehr.2',
    );
  });
});
