import fc from 'fast-check';
import { whole, written } from '../ndr/codec.js';
import { NdrReader, NdrWriter } from '../ndr/streams.js';
import { WireFault } from '../octets/wire-fault.js';
import { readMade, readWanted, writeMade, writeWanted } from './activation.js';
import { dualStrings } from './bindings.js';
import type { Bindings } from './bindings.js';
import { ComFailure } from './interfaces.js';
import { readObjectReference, writeObjectReference } from './object-reference.js';
import { method, readAnswer, readCall, writeAnswer, writeCall } from './orpc.js';
import { u32, unique, wideString } from '../ndr/codec.js';

const guid = fc.uuid();
const host = fc.stringMatching(/^[a-z0-9.-]{1,20}$/);
const bindings: fc.Arbitrary<Bindings> = fc.record({
  strings: fc.array(
    fc.record({ tower: fc.constantFrom(7, 8, 15), host, port: fc.option(fc.integer({ min: 1, max: 65_535 })) }),
    { maxLength: 4 },
  ),
  security: fc.array(
    fc.record({ service: fc.constantFrom(9, 10, 16), principal: fc.stringMatching(/^[a-z/]{0,10}$/) }),
    { maxLength: 3 },
  ),
});
const big = fc.bigInt({ min: 0n, max: 2n ** 64n - 1n });
const pointer = fc.uint8Array({ minLength: 1, maxLength: 60 });

describe('what DCOM sends', () => {
  it('bindings are read as they were written, and lie as MS-DCOM 2.2.19.1 says', () => {
    const writer = new NdrWriter();
    written(
      dualStrings,
      { strings: [{ tower: 7, host: 'a', port: 5 }], security: [{ service: 10, principal: '' }] },
      writer,
    );
    const letters = [7, 0x61, 0x5b, 0x35, 0x5d, 0, 0, 10, 0xffff, 0, 0];
    expect([...writer.done()]).toEqual([
      11,
      0,
      0,
      0,
      11,
      0,
      7,
      0,
      ...letters.flatMap((letter) => [letter & 255, letter >> 8]),
    ]);
    fc.assert(
      fc.property(bindings, (value) => {
        const own = new NdrWriter();
        written(dualStrings, value, own);
        expect(whole(dualStrings, new NdrReader(own.done()))).toEqual(value);
      }),
    );
  });

  it('object references are read as they were written', () => {
    fc.assert(
      fc.property(guid, guid, big, big, fc.nat(9), bindings, (iid, ipid, oxid, oid, publicRefs, resolver) => {
        const object = {
          kind: 'standard' as const,
          iid,
          reference: { flags: 0, publicRefs, oxid, oid, ipid },
          resolver,
        };
        expect(readObjectReference(writeObjectReference(object))).toEqual(object);
      }),
    );
  });

  it('refuses an object reference that is none, or says that it is of three gigabytes', () => {
    expect(() => readObjectReference(new Uint8Array(40))).toThrow('This is no object reference.');
    const octets = writeObjectReference({
      kind: 'custom',
      iid: '000001a2-0000-0000-c000-000000000046',
      clsid: '00000338-0000-0000-c000-000000000046',
      octets: new Uint8Array(16),
    });
    new DataView(octets.buffer).setUint32(40, 3_000_000_000, true);
    expect(() => readObjectReference(octets)).toThrow(WireFault);
    expect(() => readObjectReference(new Uint8Array(2 * 1024 * 1024))).toThrow(
      'An object reference of 2097152 octets.',
    );
  });

  it('what is to be made, and what was made, are read as they were written', () => {
    fc.assert(
      fc.property(guid, fc.array(guid, { minLength: 1, maxLength: 5 }), host, (clsid, iids, name) => {
        expect(readWanted(writeWanted({ clsid, iids }, name, 5))).toEqual({ clsid, iids });
      }),
    );
    const made = fc.record({
      oxid: big,
      bindings,
      remUnknown: guid,
      level: fc.nat(6),
      version: fc.constant({ major: 5, minor: 7 }),
      pointers: fc.array(fc.record({ iid: guid, hresult: fc.nat(0xffffffff), pointer: fc.option(pointer) }), {
        maxLength: 4,
      }),
    });
    fc.assert(fc.property(made, (value) => expect(readMade(writeMade(value))).toEqual(value)));
  });

  it('reads whatever comes, or says that it is none', () => {
    const whole = writeMade({
      oxid: 1n,
      bindings: { strings: [{ tower: 7, host: 'furnace', port: 1 }], security: [] },
      remUnknown: '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1e01',
      level: 1,
      version: { major: 5, minor: 7 },
      pointers: [{ iid: '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1e02', hresult: 0, pointer: new Uint8Array(40) }],
    });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 6 }),
        fc.nat(whole.length),
        (changes, length) => {
          const octets = whole.slice(0, length);
          for (const [at, octet] of changes) octets[at] = octet;
          for (const read of [readMade, readWanted, readObjectReference])
            try {
              read(octets);
            } catch (error) {
              expect(error).toBeInstanceOf(WireFault);
            }
        },
      ),
      { numRuns: 500 },
    );
  });
});

describe('a call of an object', () => {
  const named = method(4, { name: wideString, more: unique(u32) }, { found: unique(wideString), count: u32 });
  const causality = '0c4ad9b0-6f2f-4a3e-9d6b-5b3f0a6c1e01';

  it('carries its parameters there and back', () => {
    const args = { name: 'Lehr', more: 7 };
    expect(readCall(named, writeCall(named, args, causality), true)).toEqual(args);
    const out = { found: 'Zone 1', count: 3 };
    expect(readAnswer(named, writeAnswer(named, out, 1), true)).toEqual({ hresult: 1, out });
  });

  it('is refused in a version that is not spoken', () => {
    const stub = writeCall(named, { name: '', more: null }, causality);
    stub[2] = 9;
    expect(() => readCall(named, stub, true)).toThrow('fault 0x80010110');
  });

  it('has failed where its code says so, whatever stands before that', () => {
    expect(() => readAnswer(named, writeAnswer(named, named.out.none, 0x80004005), true)).toThrow(ComFailure);
    expect(() => readAnswer(named, Uint8Array.of(0, 0, 0, 0, 0, 0, 0, 0, 5, 0x40, 0, 0x80), true)).toThrow(
      'HRESULT 0x80004005',
    );
    expect(() => readAnswer(named, new Uint8Array(6), true)).toThrow(WireFault);
  });
});
