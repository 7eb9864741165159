import fc from 'fast-check';
import { decodeBase64, derElementLength, encodeBase64, readPem, splitDerChain, textOf, writePem } from './pem.js';

const bytes = fc.uint8Array({ minLength: 1, maxLength: 400 });

describe('PEM', () => {
  it('gives back what was written, block by block', () => {
    fc.assert(
      fc.property(fc.array(bytes, { maxLength: 4 }), (ders) => {
        const read = readPem(ders.map((der) => writePem('CERTIFICATE', der)).join('some text between\n'));
        expect(read).toEqual({ ok: true, passedOver: [], blocks: ders.map((der) => ({ label: 'CERTIFICATE', der })) });
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

  const der = Uint8Array.from([0x30, 3, 2, 1, 5]);
  const good = writePem('CERTIFICATE', der);
  const block = { label: 'CERTIFICATE', der };

  it.each([
    ['one that is cut off', `${good}-----BEGIN CERTIFICATE-----\nAAAA\n`, /never ends/],
    ['one that is cut off before it', `-----BEGIN CERTIFICATE-----\nAAAA\n${good}`, /before “CERTIFICATE” has ended/],
    ['one of other letters', `-----BEGIN NOTE-----\nno Base64 at all\n-----END NOTE-----\n${good}`, /not Base64/],
    ['an end without a beginning', `-----END NOTE-----\n${good}`, /never began/],
  ])('takes a good block beside %s, and tells the other', (_what, text, says) => {
    const read = readPem(text);
    expect(read).toMatchObject({ ok: true, blocks: [block] });
    expect(read.ok && read.passedOver.map((fault) => fault.says).join()).toMatch(says);
  });

  it.each([
    ['X509 CERTIFICATE', 'CERTIFICATE'],
    ['X.509 CERTIFICATE', 'CERTIFICATE'],
    ['CRL', 'X509 CRL'],
    ['NEW CERTIFICATE REQUEST', 'CERTIFICATE REQUEST'],
  ])('knows the older label %s', (older, label) => {
    expect(readPem(writePem(older, der))).toMatchObject({ ok: true, blocks: [{ label, der }] });
  });

  it('takes of a trusted certificate the certificate alone', () => {
    const trusted = writePem('TRUSTED CERTIFICATE', Uint8Array.from([...der, 0x30, 0]));
    expect(readPem(trusted)).toMatchObject({ ok: true, blocks: [block] });
  });

  it.each([
    ['UTF-8 with a byte order mark', [0xef, 0xbb, 0xbf, ...new TextEncoder().encode(good)]],
    ['UTF-16, little end first', [0xff, 0xfe, ...[...good].flatMap((letter) => [letter.charCodeAt(0), 0])]],
    ['UTF-16, big end first', [0xfe, 0xff, ...[...good].flatMap((letter) => [0, letter.charCodeAt(0)])]],
    ['UTF-16 without a mark', [...good].flatMap((letter) => [letter.charCodeAt(0), 0])],
  ])('is read from %s', (_encoding, octets) => {
    expect(readPem(textOf(Uint8Array.from(octets)))).toMatchObject({ ok: true, blocks: [block] });
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
