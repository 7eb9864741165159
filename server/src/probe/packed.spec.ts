import fc from 'fast-check';
import { packed, packedLists, unpacked, unpackedLists } from './packed';

const plain = fc.oneof(fc.string(), fc.integer(), fc.boolean(), fc.constant(null));
const bytes = fc.uint8Array({ maxLength: 20 });
const { value: anything } = fc.letrec((tie) => ({
  value: fc.oneof(
    { depthSize: 'small' },
    plain,
    bytes,
    fc.array(tie('value'), { maxLength: 4 }),
    fc.array(fc.tuple(fc.string(), tie('value')), { maxLength: 4 }).map((pairs) => new Map(pairs)),
    fc.dictionary(fc.stringMatching(/^[a-z]{1,6}$/), tie('value'), { maxKeys: 4 }),
  ),
}));
/** Over the wire it is text. */
const sent = (value: unknown): unknown => JSON.parse(JSON.stringify(value));
const like = (value: unknown): unknown => {
  if (value instanceof Uint8Array) return { bytes: [...value] };
  if (value instanceof Map) return { map: [...value].map(([key, inner]) => [key as unknown, like(inner)]) };
  if (Array.isArray(value)) return value.map(like);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, like(inner)]));
};

describe('what goes to a probe and back', () => {
  it('comes as it was: bytes, maps and all that lies in them', () => {
    fc.assert(
      fc.property(anything, (value) => {
        expect(like(unpacked(sent(packed(value))))).toEqual(like(value));
      }),
    );
  });

  it('leaves out what can’t be sent, and sends large numbers as text', () => {
    expect(sent(packed({ a: undefined, b: () => 1, c: 5n, d: [1] }))).toEqual({ c: '5', d: [1] });
  });

  it('is refused where it says that it is a certificate and is none', () => {
    expect(() => unpacked({ inner: { $certificate: Buffer.from('nothing').toString('base64') } })).toThrow();
  });

  it('keeps since when certificates lie set aside', () => {
    const [known, unknown] = [new Uint8Array([1, 2, 3]), new Uint8Array([4])];
    const lists = {
      trusted: [new Uint8Array([9])],
      issuers: [],
      crls: [],
      rejected: [known, unknown],
      by: 'push management',
      rejectedSince: (der: Uint8Array) => (der.length === 3 ? '2026-11-28T10:00:00.000Z' : null),
    };
    const back = unpackedLists(sent(packedLists(lists)));
    expect(back.by).toBe('push management');
    expect(back.trusted.map((der) => [...der])).toEqual([[9]]);
    expect([back.rejectedSince(known), back.rejectedSince(unknown)]).toEqual(['2026-11-28T10:00:00.000Z', null]);
  });
});
