import { wordsFor } from '../../../field/value-form.js';
import type { ValueForm } from '../../../field/value-form.js';
import { fact, facts, healthy, now, subject } from '../../../testing/builders.js';
import { assess } from '../../assess.js';
import { usualRules } from '../../cause.js';
import type { Fact, FactBody, FactOf } from '../../facts.js';
import { leadingFindings } from '../../assess.js';
import { sayFact } from '../../say-fact.js';
import { fieldCauses } from './index.js';

type Body<Kind extends 'field-origin' | 'field-answer' | 'field-reach' | 'field-compared'> = Omit<
  FactOf<Kind>,
  'id' | 'source' | 'at' | 'kind'
>;
const path = 'Furnace/Crown';
const device = { deviceId: 'crown-panel', device: 'Crown panel' };
const form: ValueForm = { type: 'float32', order: 'high-first', scale: 1, offset: 0, bits: null };
const [place, first] = [107, 103];

const origin = (differs: Partial<Body<'field-origin'>> = {}): Fact =>
  fact(
    {
      kind: 'field-origin',
      path,
      ...device,
      port: 502,
      unit: 1,
      table: 'holding',
      place,
      convention: 'from-1-with-digit',
      form,
      within: null,
      ...differs,
    },
    'reckoned',
  );
const named = (addresses: readonly string[] = ['10.0.0.40']): Fact =>
  fact({
    kind: 'field-name',
    ...device,
    host: 'crown.works.example',
    addresses,
    failure: addresses.length > 0 ? null : 'the name is unknown.',
  });
const reach = (differs: Partial<Body<'field-reach'>> = {}): Fact =>
  fact({
    kind: 'field-reach',
    ...device,
    address: '10.0.0.40',
    port: 502,
    from: null,
    outcome: 'open',
    ms: 2,
    stoppedBy: [],
    ...differs,
  });
const answer = (differs: Partial<Body<'field-answer'>> = {}): Fact =>
  fact({
    kind: 'field-answer',
    ...device,
    path,
    unit: 1,
    table: 'holding',
    first,
    count: 10,
    outcome: 'values',
    code: null,
    received: 0,
    detail: null,
    ms: 4,
    ...differs,
  });
const compared = (
  values: readonly number[],
  served: readonly (number | null)[],
  lies: ValueForm = form,
  apartMs = 500,
): Fact =>
  fact({
    kind: 'field-compared',
    path,
    first,
    samples: values.map((value, index) => {
      const words: number[] = [11, 22, 33, 44, 0, 0, 0, 0, 55, 66];
      wordsFor(value, lies).forEach((word, part) => (words[place - first + part] = word));
      return { at: new Date(Date.parse(now) + index * apartMs).toISOString(), value: served[index] ?? null, words };
    }),
  });
const toDevice = [origin(), named(), reach()];
/** What the server gives of an item that it does not get from its device. */
const bad = facts.read('BadNoCommunication');
const upTo = (...more: readonly Fact[]): readonly Fact[] => [...toDevice, ...more];
const whole: ValueForm = { ...form, type: 'uint16' };
const tenth: ValueForm = { ...whole, scale: 0.1 };
const unmoved = (minutes: number, checks: number): Fact =>
  fact(
    { kind: 'field-unmoved', path, since: new Date(Date.parse(now) - minutes * 60_000).toISOString(), checks },
    'reported',
  );
/** What a float is where its words are read as an order says. */
const read = (value: number, order: ValueForm['order']): number => {
  const view = new DataView(new ArrayBuffer(4));
  wordsFor(value, { ...form, order }).forEach((word, index) => view.setUint16(index * 2, word));
  return view.getFloat32(0);
};
const stale = subject({ staleAfterMs: 2000 });

interface Case {
  readonly cause: string;
  readonly fires: readonly Fact[];
  readonly justNot: readonly Fact[];
  readonly on?: ReturnType<typeof subject>;
}
const cases: readonly Case[] = [
  { cause: 'device-unknown', fires: [origin({ device: null })], justNot: [origin(), named()] },
  { cause: 'device-unknown', fires: [origin(), named([])], justNot: [origin(), named()] },
  { cause: 'device-withheld', fires: [origin(), named(), reach({ outcome: 'withheld' })], justNot: upTo() },
  {
    cause: 'device-refused',
    fires: [bad, origin(), named(), reach({ outcome: 'refused' })],
    justNot: [bad, origin(), named(), reach({ outcome: 'silent' })],
  },
  {
    cause: 'device-silent',
    fires: [
      origin(),
      named(),
      reach({ outcome: 'silent', stoppedBy: [{ name: 'Hot End firewall', rule: 'tcp dport 502 drop' }] }),
    ],
    justNot: [bad, origin(), named(), reach({ outcome: 'refused' })],
  },
  {
    cause: 'device-silent',
    fires: [bad, origin(), named(), reach({ outcome: 'silent' })],
    // The server gives a good value, and no rule stands in its way.
    justNot: [origin(), named(), reach({ outcome: 'silent' })],
  },
  {
    cause: 'device-unseen',
    fires: [origin(), named(), reach({ outcome: 'silent' })],
    justNot: [origin(), named(), reach({ outcome: 'withheld' })],
  },
  { cause: 'device-unseen', fires: [origin(), named(), reach({ outcome: 'refused' })], justNot: [bad, ...upTo()] },
  {
    cause: 'device-unseen',
    fires: upTo(answer({ outcome: 'reset' })),
    justNot: upTo(answer({ outcome: 'closed', received: 5 })),
  },
  {
    cause: 'device-busy',
    fires: [bad, origin(), named(), reach({ outcome: 'reset' })],
    justNot: [bad, ...upTo(answer({ outcome: 'closed', received: 5 }))],
  },
  {
    cause: 'device-busy',
    fires: [bad, ...upTo(answer({ outcome: 'closed' }))],
    justNot: upTo(answer({ outcome: 'closed' })),
  },
  {
    cause: 'device-busy',
    fires: upTo(answer({ outcome: 'exception', code: 6 })),
    justNot: upTo(answer({ outcome: 'exception', code: 4 })),
  },
  {
    cause: 'not-modbus',
    fires: upTo(answer({ outcome: 'foreign', detail: 'its protocol is 11570, and Modbus is 0' })),
    justNot: upTo(answer({ outcome: 'malformed', detail: 'x' })),
  },
  {
    cause: 'unit-wrong',
    fires: upTo(answer({ outcome: 'silent' })),
    justNot: upTo(answer({ outcome: 'silent', received: 3 })),
  },
  {
    cause: 'unit-wrong',
    fires: upTo(answer({ outcome: 'exception', code: 11 }), answer({ unit: 2 })),
    justNot: upTo(answer({ outcome: 'exception', code: 2 })),
  },
  {
    cause: 'answer-broken',
    fires: upTo(answer({ outcome: 'closed', received: 7 })),
    justNot: upTo(answer({ outcome: 'closed' })),
  },
  {
    cause: 'answer-broken',
    fires: upTo(answer({ outcome: 'malformed', detail: 'it holds 4 octets' })),
    justNot: upTo(answer({ outcome: 'silent' })),
  },
  {
    cause: 'answer-broken',
    fires: upTo(answer({ outcome: 'silent', received: 2 })),
    justNot: upTo(answer({ outcome: 'silent' })),
  },
  { cause: 'other-transaction', fires: upTo(answer({ outcome: 'other-transaction' })), justNot: upTo(answer()) },
  {
    cause: 'register-refused',
    fires: upTo(answer({ outcome: 'exception', code: 2 })),
    justNot: upTo(answer({ outcome: 'exception', code: 11 })),
  },
  {
    cause: 'register-off-by-one',
    fires: [origin({ form: whole }), named(), reach(), answer(), compared([500, 501], [44, 44], whole)],
    justNot: [origin({ form: whole }), named(), reach(), answer(), compared([500, 501], [500, 501], whole)],
  },
  {
    cause: 'words-swapped',
    fires: upTo(
      answer(),
      compared(
        [812.5, 813.5],
        [812.5, 813.5].map((value) => read(value, 'low-first')),
      ),
    ),
    justNot: upTo(answer(), compared([812.5], [812.5])),
  },
  {
    cause: 'bytes-swapped',
    fires: upTo(
      answer(),
      compared(
        [812.5, 813.5],
        [812.5, 813.5].map((value) => read(value, 'high-first-swapped')),
      ),
    ),
    justNot: upTo(answer(), compared([812.5], [812.5])),
  },
  {
    cause: 'type-wrong',
    fires: [
      origin({ form: { ...whole, type: 'int16' } }),
      named(),
      reach(),
      answer(),
      compared([-5], [65_531], { ...whole, type: 'int16' }),
    ],
    justNot: [
      origin({ form: { ...whole, type: 'int16' } }),
      answer(),
      compared([-5], [-5], { ...whole, type: 'int16' }),
    ],
  },
  {
    cause: 'scale-wrong',
    fires: [origin({ form: tenth }), named(), reach(), answer(), compared([50.1], [501], tenth)],
    justNot: [origin({ form: tenth }), answer(), compared([50.1], [50.1], tenth)],
  },
  {
    cause: 'value-apart',
    fires: upTo(answer(), compared([10.25], [77_123.5])),
    justNot: upTo(answer(), compared([10.25], [10.25])),
  },
  {
    cause: 'value-stuck',
    fires: upTo(answer(), compared([10.25], [10.25]), unmoved(11, 3)),
    justNot: upTo(answer(), compared([10.25], [10.25]), unmoved(9, 3)),
  },
  {
    cause: 'server-polls-slowly',
    fires: upTo(answer(), compared([10, 11, 12, 13], [10, 10, 10, 10], form, 1000)),
    justNot: upTo(answer(), compared([10, 11, 12, 13], [10, 10, 12, 12], form, 1000)),
    on: stale,
  },
  {
    // We did not look for that long: the server says itself how old the value is.
    cause: 'server-polls-slowly',
    fires: [
      facts.read('Good', new Date(Date.parse(now) - 3000).toISOString()),
      ...upTo(answer(), compared([10, 11, 12], [10, 10, 10], form, 100)),
    ],
    justNot: upTo(answer(), compared([10, 11, 12], [10, 10, 10], form, 100)),
    on: stale,
  },
];

const assessed = (seen: readonly Fact[], on = subject()) => assess(on, [...healthy(), ...seen], usualRules, now);
const causesIn = (seen: readonly Fact[], on = subject()) =>
  assessed(seen, on).steps.flatMap(({ findings }) => findings.flatMap((one) => [one, ...one.folded]));

describe('every cause behind a server', () => {
  it('has facts that fire it and facts that just don’t', () => {
    expect(new Set(cases.map(({ cause }) => cause))).toEqual(new Set(fieldCauses.map(({ id }) => id)));
  });

  it.each(cases)('$cause fires on its facts, and says why and what to do', ({ cause, fires, on }) => {
    const finding = causesIn(fires, on).find(({ causeId }) => causeId === cause);
    expect(finding?.meaning).toMatch(/\w.*\.$/s);
    const said = JSON.stringify(
      [finding, ...fires.map(sayFact)].map((one) => (typeof one === 'string' ? one : [one?.meaning, one?.remedies])),
    );
    expect(said).not.toMatch(/undefined|NaN|\[object/);
    expect(finding?.remedies.length).toBeGreaterThan(0);
    expect(finding?.evidence.length).toBeGreaterThan(0);
  });

  it.each(cases)('$cause stays silent where it just does not apply', ({ cause, justNot, on }) => {
    expect(causesIn(justNot, on).map(({ causeId }) => causeId)).not.toContain(cause);
  });
});

describe('the steps behind a server', () => {
  const verdicts = (seen: readonly Fact[]) =>
    Object.fromEntries(
      assessed(seen)
        .steps.slice(-5)
        .map(({ step, verdict }) => [step, verdict]),
    );

  it('are not needed where no item states its origin', () => {
    expect(new Set(Object.values(verdicts([])))).toEqual(new Set(['not-needed']));
    expect(assessed([]).state).toBe('Sound');
  });

  it('hold where the value is what the device says', () => {
    const seen = upTo(answer(), compared([812.5], [812.5]));
    expect(new Set(Object.values(verdicts(seen)))).toEqual(new Set(['holds']));
    expect(assessed(seen).state).toBe('Sound');
  });

  it('stay open behind the first that fails, and part the link there', () => {
    const seen = [bad, origin(), named(), reach({ outcome: 'silent' })];
    expect(verdicts(seen)).toEqual({
      'device-name': 'holds',
      'device-reach': 'fails',
      'device-answers': 'unknown',
      register: 'unknown',
      'origin-value': 'unknown',
    });
    expect(assessed(seen)).toMatchObject({ state: 'Parted', partedAt: 'read', leadingCause: 'device-silent' });
  });

  it('leave open what can’t be seen from here, while the server gives good values', () => {
    for (const seen of [
      [origin(), named(), reach({ outcome: 'silent' })],
      upTo(answer({ outcome: 'closed' })),
    ] as const) {
      const { state, steps, leadingCause } = assessed(seen);
      expect([state, leadingCause]).toEqual(['Untried', 'device-unseen']);
      expect(steps.slice(-5).map(({ verdict }) => verdict)).not.toContain('fails');
    }
    // One of the device’s items is not good: then the device is at fault, and not our place.
    const level = fact({ ...bad, path: 'Furnace/Level' } as FactBody);
    const other = origin({ path: 'Furnace/Level' });
    const both = [level, origin(), other, named(), reach({ outcome: 'silent' })];
    expect(assessed(both)).toMatchObject({ state: 'Parted', leadingCause: 'device-silent' });
    // One that nobody reads, as where only its history is wanted, tells nothing.
    expect(assessed([origin(), other, named(), reach({ outcome: 'silent' })]).leadingCause).toBe('device-unseen');
  });

  it('are judged by the quality of a classic item as by the status of another', () => {
    const classicRead = (quality: number): Fact =>
      fact({
        kind: 'classic-read',
        items: [
          {
            path: 'Lehr.Speed',
            code: 0,
            dataType: 'r4',
            mayRead: true,
            mayWrite: false,
            quality,
            qualitySays: 'said',
            value: '4.2',
            timestamp: now,
          },
        ],
        failure: null,
      });
    const causeAt = (quality: number): string | null =>
      assessed([classicRead(quality), origin({ path: 'Lehr.Speed' }), named(), reach({ outcome: 'silent' })])
        .leadingCause;
    expect([causeAt(0xc0), causeAt(0xd8), causeAt(0x40), causeAt(0x18)]).toEqual([
      'device-unseen',
      'device-unseen',
      'device-silent',
      'device-silent',
    ]);
  });

  it('of a device that may not be dialled leave the link untried there', () => {
    expect(assessed([origin(), named(), reach({ outcome: 'withheld' })])).toMatchObject({ state: 'Untried' });
  });

  it('say what the server reads, what it should read, and how to set it', () => {
    const seen = [origin({ form: whole }), named(), reach(), answer(), compared([500, 501], [44, 44], whole)];
    const [finding] = leadingFindings(assessed(seen));
    expect(finding?.meaning).toBe(
      'Furnace/Crown is 44 at Furnace server and 501 at Crown panel. The server’s value comes out where it reads register 40107; by its origin it is unit 1, holding register 40108, unsigned 16-bit integer.',
    );
    expect(finding?.remedies[0]).toMatchObject({
      target: 'Furnace server',
      before: 'unit 1, holding register 40107, unsigned 16-bit integer',
      after: 'unit 1, holding register 40108, unsigned 16-bit integer',
    });
  });
});
