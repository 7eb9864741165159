import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import forge from 'node-forge';
import { writePem } from '@loyal-hinge/core';
import { certify, party, revoke, rootOf } from '../../core/src/testing/pki.js';
import type { Party } from '../../core/src/testing/pki.js';
import { hinge } from './main.js';

let folder: string;
let works: Party;
const at = (...parts: string[]) => join(folder, ...parts);
const put = (path: string, bytes: Uint8Array | string) => writeFileSync(at(path), bytes);

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'hinge-'));
  for (const name of ['trusted', 'issuers', 'crls', 'empty', 'pki', 'pki/certs', 'pki/crl']) mkdirSync(at(name));
  works = await party('Works CA');
  const middle = await party('Middle');
  const [root, mid, leaf] = await Promise.all([
    rootOf(works),
    certify(middle, works, { authority: true }),
    certify(await party('app', 'RSA'), middle),
  ]);
  put('root.pem', writePem('CERTIFICATE', root));
  put('trusted/root.der', root);
  put('pki/certs/root.der', root);
  put('issuers/middle.pem', `a note\n${writePem('CERTIFICATE', mid)}`);
  put('crls/root.crl', await revoke(works));
  put('crls/middle.pem', writePem('X509 CRL', await revoke(middle)));
  put('leaf.der', leaf);
  put('sent.pem', writePem('CERTIFICATE', leaf) + writePem('CERTIFICATE', mid));
  put('garbage.der', 'hello');
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function run(...args: string[]): Promise<{ code: number; out: string; errors: string }> {
  let [out, errors] = ['', ''];
  const code = await hinge(args, { write: (text) => (out += text) }, { write: (text) => (errors += text) });
  return { code, out, errors };
}
const check = (...more: string[]) =>
  run('cert', 'check', '--trusted', at('trusted'), '--at', '2026-03-01T12:00:00Z', ...more);

describe('what stands in a certificate', () => {
  it('breaks no line and steers no terminal, in whatever part of it that stands', async () => {
    const evil = 'x\r\nGood\u001b[2J';
    const sly = await certify(await party('sly'), works, { subjectName: 'CN=sly, O=Works', uri: `urn:${evil}` });
    put('sly.der', sly);
    const shown = await run('cert', 'show', at('sly.der'));
    expect(shown.out).toContain('urn:x\\u{d}\\u{a}Good\\u{1b}[2J');
    const checked = await check('--cert', at('sly.der'), '--uri', 'urn:another');
    for (const { out, errors } of [shown, checked]) {
      expect(out + errors).not.toMatch(/\r|\u001b/);
      expect(out.split('\n')).not.toContain('Good');
    }
  });
});

describe('a folder with strays in it', () => {
  it('is read all the same, and what was skipped is told', async () => {
    mkdirSync(at('strays'));
    put('strays/root.pem', `${readFileSync(at('root.pem'), 'utf8')}-----BEGIN CERTIFICATE-----\nAAAA\n`);
    symlinkSync(at('gone'), at('strays/a-link'));
    writeFileSync(at('strays/large'), '');
    truncateSync(at('strays/large'), 9 * 1024 * 1024);
    const { code, errors } = await run(
      ...['cert', 'check', '--cert', at('root.pem'), '--trusted', at('strays'), '--at', '2026-03-01T12:00:00Z'],
      ...['--profile', 'chain'],
    );
    expect(errors).toMatch(/a-link can’t be read.*skipped/);
    expect(errors).toMatch(/large is larger than 8 MB.*skipped/);
    expect(errors).toMatch(/root\.pem, line \d+: .*never ends.*skipped/);
    expect([0, 3]).toContain(code);
  });
});

describe('hinge cert check', () => {
  it('says Good with 0, each step, and the path, as JSON', async () => {
    const { code, out } = await check(
      '--cert',
      at('leaf.der'),
      '--issuers',
      at('issuers'),
      '--crls',
      at('crls'),
      '--json',
    );
    const told = JSON.parse(out) as { status: string; steps: object[]; path: string[] };
    expect({ code, status: told.status, steps: told.steps.length, path: told.path.length }).toEqual({
      code: 0,
      status: 'Good',
      steps: 11,
      path: 3,
    });
    expect(told.path[0]).toMatch(/^[0-9A-F]{40}$/);
    expect(told.steps[0]).toEqual({
      step: 'structure',
      result: 'passed',
      status: 'Good',
      detail: 'In order.',
      certificate: null,
    });
  });

  it('demands CRLs for applications, and for chains only where some are given', async () => {
    const files = ['--cert', at('leaf.der'), '--issuers', at('issuers')];
    expect(await check(...files)).toMatchObject({
      code: 3,
      out: expect.stringMatching(/^BadCertificateRevocationUnknown/),
    });
    expect(await check(...files, '--profile', 'chain')).toMatchObject({ code: 0 });
    expect(await check(...files, '--profile', 'chain', '--crls', at('empty'))).toMatchObject({ code: 3 });
  });

  it('takes the issuers that were sent along, and folders laid out as applications lay them out', async () => {
    const sent = await run(
      'cert',
      'check',
      '--cert',
      at('sent.pem'),
      '--trusted',
      at('pki'),
      '--crls',
      at('crls'),
      '--at',
      '2026-03-01',
    );
    expect(sent).toMatchObject({ code: 0 });
  });

  it.each([
    [['--application-uri', 'urn:other'], 'BadCertificateUriInvalid'],
    [['--host', 'lehr.works.example'], 'BadCertificateHostNameInvalid'],
    [['--at', '2035-01-01'], 'BadCertificateTimeInvalid'],
    [['--trusted', '$empty'], 'BadCertificateUntrusted'],
  ])('with %j says %s, names the certificate, and ends with 3', async (more, status) => {
    const args = more.map((arg) => (arg === '$empty' ? at('empty') : arg));
    const issuers = status === 'BadCertificateUntrusted' ? at('trusted') : at('issuers');
    const all = ['--cert', at('sent.pem'), '--issuers', issuers, '--crls', at('crls'), '--json', ...args];
    const { code, out } = await check(...all);
    const told = JSON.parse(out) as { status: string; steps: { status: string; certificate: string | null }[] };
    expect({ code, status: told.status }).toEqual({ code: 3, status });
    expect(told.steps.find((step) => step.status === status)?.certificate).toMatch(/^[0-9A-F]{40}$/);
  });

  it('says of what is no certificate that it is none', async () => {
    expect(await check('--cert', at('garbage.der'))).toMatchObject({
      code: 3,
      out: expect.stringMatching(/^BadCertificateInvalid/),
    });
  });

  it.each([
    [['--cert', '/nowhere.der'], /can’t be read/],
    [[], /--cert FILE/],
    [['--cert', '$leaf', '--at', 'yesterday'], /no time/],
    [['--cert', '$leaf', '--policy', 'Best'], /no security policy/],
    [['--cert', '$leaf', '--profile', 'web'], /no profile/],
    [['--cert', '$leaf', '--issuers', '/nowhere'], /not a folder/],
    [['--cert', '$leaf', '--what'], /--what/],
    [['--cert', '$leaf', 'more'], /too many/],
  ])('with %j can’t run, says why, and ends with 2', async (more, why) => {
    const { code, errors } = await check(...more.map((arg) => (arg === '$leaf' ? at('leaf.der') : arg)));
    expect(code).toBe(2);
    expect(errors).toMatch(why);
  });
});

describe('hinge', () => {
  it('shows a certificate', async () => {
    expect(await run('cert', 'show', at('sent.pem'))).toMatchObject({
      code: 0,
      out: expect.stringContaining('urn:works.example:app'),
    });
    expect(await run('cert', 'show', at('garbage.der'))).toMatchObject({ code: 3 });
  });

  it('lints a certificate', async () => {
    expect(await run('cert', 'lint', at('leaf.der'))).toEqual({ code: 0, out: 'Nothing to remark.\n', errors: '' });
    expect(await run('cert', 'lint', at('trusted/root.der'))).toMatchObject({
      code: 3,
      out: expect.stringContaining('application-uri'),
    });
  });

  it('tells what it can do, and what it does not know', async () => {
    expect(await run('--help')).toMatchObject({ code: 0, out: expect.stringContaining('hinge cert check') });
    expect(await run('cert', 'melt')).toMatchObject({
      code: 2,
      errors: expect.stringContaining('“hinge cert melt” is not known'),
    });
  });
});

describe('a PKCS#12 file', () => {
  it('is shown with its passphrase, never its key, and is not opened by another one', async () => {
    const [owner, issuer] = [await party('kept', 'RSA'), await party('Works CA', 'RSA')];
    const leaf = await certify(owner, issuer);
    const binary = (bytes: Uint8Array): string => Buffer.from(bytes).toString('latin1');
    const pkcs8 = new Uint8Array(await crypto.subtle.exportKey('pkcs8', owner.keys.privateKey));
    const file = forge.pkcs12.toPkcs12Asn1(
      forge.pki.privateKeyFromAsn1(forge.asn1.fromDer(binary(pkcs8))),
      [forge.pki.certificateFromAsn1(forge.asn1.fromDer(binary(leaf)))],
      'open it',
      { algorithm: 'aes256' },
    );
    put('kept.p12', Uint8Array.from(Buffer.from(forge.asn1.toDer(file).getBytes(), 'latin1')));
    put('phrase', 'open it\n');
    put('wrong', 'open it!');
    const shown = await run('cert', 'show', at('kept.p12'), '--passphrase-file', at('phrase'));
    expect(shown).toMatchObject({ code: 0, out: expect.stringContaining('CN=kept, O=Works') });
    expect(shown.out).not.toContain('PRIVATE');
    expect(await run('cert', 'show', at('kept.p12'), '--passphrase-file', at('wrong'))).toMatchObject({
      code: 2,
      errors: expect.stringContaining('does not open this PKCS#12 file'),
    });
  });
});
