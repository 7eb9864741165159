import fc from 'fast-check';
import { WireFault } from '../octets/wire-fault.js';
import { Framing } from './framing.js';
import { ndr, noSyntax, readPdu, writePdu } from './pdu.js';
import type { Saying } from './pdu.js';

const syntax = fc.record({ uuid: fc.uuid(), major: fc.nat(9), minor: fc.nat(9) });
const bound = {
  mostSent: fc.integer({ min: 1432, max: 65_535 }),
  mostReceived: fc.integer({ min: 1432, max: 65_535 }),
  group: fc.nat(0xffffffff),
};
const stub = fc.uint8Array({ maxLength: 200 });
const head = { flags: fc.constantFrom(0, 1, 2, 3), callId: fc.nat(0xffffffff) };
const short = { hint: fc.nat(0xffffffff), context: fc.nat(0xffff) };
const said: fc.Arbitrary<Saying> = fc.oneof(
  fc.record({
    ...head,
    kind: fc.constantFrom('bind' as const, 'alter-context' as const),
    ...bound,
    contexts: fc.array(
      fc.record({ id: fc.nat(0xffff), abstract: syntax, transfers: fc.array(syntax, { maxLength: 3 }) }),
      { minLength: 1, maxLength: 3 },
    ),
  }),
  fc.record({
    ...head,
    kind: fc.constantFrom('bind-ack' as const, 'alter-context-response' as const),
    ...bound,
    address: fc.stringMatching(/^[0-9]{0,5}$/),
    results: fc.array(fc.record({ result: fc.nat(3), reason: fc.nat(3), transfer: fc.constantFrom(ndr, noSyntax) }), {
      maxLength: 3,
    }),
  }),
  fc.record({ ...head, kind: fc.constant('bind-nak' as const), reason: fc.nat(9) }),
  fc.record({
    ...head,
    kind: fc.constantFrom('auth3' as const, 'shutdown' as const, 'co-cancel' as const, 'orphaned' as const),
  }),
  fc.record({
    ...head,
    kind: fc.constant('request' as const),
    ...short,
    operation: fc.nat(0xffff),
    object: fc.option(fc.uuid()),
    stub,
  }),
  fc.record({ ...head, kind: fc.constant('response' as const), ...short, stub }),
  fc.record({ ...head, kind: fc.constant('fault' as const), context: fc.nat(0xffff), status: fc.nat(0xffffffff) }),
);
const securing = (length: number) => ({
  type: 10,
  level: 5,
  contextId: 7,
  length,
  value: () => new Uint8Array(length).fill(9),
});

describe('a PDU', () => {
  it('is read as it was written, with security behind it or without', () => {
    fc.assert(
      fc.property(said, fc.option(fc.nat(40)), (value, length) => {
        const read = readPdu(writePdu(value, length ? securing(length) : null));
        const { flags, ...rest } = value;
        expect(read).toMatchObject({ ...rest, isLittleEndian: true });
        expect(read.flags & 0x7f).toBe(flags);
        expect(read.verifier?.value.length ?? null).toBe(length ? length : null);
      }),
    );
  });

  it('is refused where it is broken', () => {
    fc.assert(
      fc.property(
        said,
        fc.array(fc.tuple(fc.nat(300), fc.nat(255)), { minLength: 1, maxLength: 5 }),
        (value, changes) => {
          const octets = writePdu(value, securing(16));
          for (const [at, octet] of changes) octets[at % octets.length] = octet;
          try {
            readPdu(octets);
          } catch (error) {
            expect(error).toBeInstanceOf(WireFault);
          }
        },
      ),
      { numRuns: 1000 },
    );
  });

  it('is cut out of a stream wherever its pieces end', () => {
    fc.assert(
      fc.property(
        fc.array(said, { minLength: 1, maxLength: 4 }),
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1 }),
        (values, sizes) => {
          const pdus = values.map((value) => writePdu(value));
          const stream = Buffer.concat(pdus);
          const framing = new Framing(0xffff);
          const found: Uint8Array[] = [];
          for (let at = 0, turn = 0; at < stream.length; turn += 1) {
            const size = sizes[turn % sizes.length] ?? 1;
            found.push(...framing.take(stream.subarray(at, at + size)));
            at += size;
          }
          expect(found.map((octets) => Buffer.from(octets).toString('hex'))).toEqual(
            pdus.map((octets) => Buffer.from(octets).toString('hex')),
          );
          expect(framing.isHalf).toBe(false);
        },
      ),
    );
  });
});
