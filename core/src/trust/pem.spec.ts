import fc from 'fast-check';
import { decodeBase64, derElementLength, encodeBase64, readPem, splitDerChain, writePem } from './pem.js';

const bytes = fc.uint8Array({ minLength: 1, maxLength: 400 });

describe('PEM', () => {
  it('gives back what was written, block by block', () => {
    fc.assert(
      fc.property(fc.array(bytes, { maxLength: 4 }), (ders) => {
        const read = readPem(ders.map((der) => writePem('CERTIFICATE', der)).join('some text between\n'));
        expect(read).toEqual({ ok: true, blocks: ders.map((der) => ({ label: 'CERTIFICATE', der })) });
      }),
    );
  });

  it.each([
    ['-----BEGIN CERTIFICATE-----\nAAAA\n', 1, /never ends/],
    ['\n-----END CERTIFICATE-----\n', 2, /never began/],
    ['-----BEGIN CERTIFICATE-----\nAAAA\n-----END CRL-----\n', 3, /ends as/],
    ['-----BEGIN CERTIFICATE-----\n!!!!\n-----END CERTIFICATE-----\n', 1, /not Base64/],
    ['-----BEGIN A-----\n-----BEGIN B-----\n', 2, /before/],
  ])('names the line of a fault in %j', (text, line, says) => {
    const read = readPem(text);
    expect(read).toMatchObject({ ok: false, fault: { line } });
    if (!read.ok) expect(read.fault.says).toMatch(says);
  });

  it('never throws', () => {
    fc.assert(fc.property(fc.string({ maxLength: 300 }), (text) => void readPem(text)));
  });

  it('decodes what it encodes, and nothing else', () => {
    fc.assert(fc.property(bytes, (value) => expect(decodeBase64(encodeBase64(value))).toEqual(value)));
    expect(decodeBase64('abc')).toBeNull();
  });
});

describe('DER', () => {
  const element = (content: Uint8Array): Uint8Array =>
    Uint8Array.from([0x30, 0x82, content.length >> 8, content.length & 0xff, ...content]);

  it('splits a chain into its certificates', () => {
    fc.assert(
      fc.property(fc.array(bytes.map(element), { maxLength: 4 }), (parts) => {
        expect(splitDerChain(Uint8Array.from(parts.flatMap((part) => [...part])))).toEqual(parts);
      }),
    );
  });

  it('refuses a chain that is cut off or has bytes behind it', () => {
    const whole = element(new Uint8Array(40));
    expect(splitDerChain(whole.subarray(0, 43))).toBeNull();
    expect(splitDerChain(Uint8Array.from([...whole, 0]))).toBeNull();
  });

  it('knows no element of indefinite length', () => {
    expect(derElementLength(Uint8Array.from([0x30, 0x80, 0, 0]))).toBeNull();
  });

  it('never throws, and never tells more than is there', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (any) => {
        expect(derElementLength(any) ?? 0).toBeLessThanOrEqual(any.length);
      }),
      { numRuns: 1000 },
    );
  });
});
