import { createPublicKey, createSign, generateKeyPairSync, randomBytes, verify, webcrypto } from 'node:crypto';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import 'reflect-metadata';
import * as x509 from '@peculiar/x509';
import { CertificateJudge, KnownSignatures, ReadTrustList, readCertificate } from '../../core/dist/index.js';
import { nodeVerifier } from '../../server/dist/certificates/node-signatures.js';

setFlagsFromString('--expose-gc');
/** What one part leaves behind is not charged to the next. */
const collectGarbage = runInNewContext('gc');

const rounds = 10;
const sizes = [1_000, 10_000];
/** Collecting garbage throws compiled code away; so many others are looked at before each measurement, by both. */
const warmUp = 3_000;
const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];

/** Application certificates below an intermediate authority below a root, against the bare verifications that they need. */
export async function validating(say) {
  say(
    '\nValidating application certificates of three-certificate chains (RSA 2048), against the bare signature verifications:',
  );
  const made = await chains(Math.max(...sizes) + warmUp);
  for (const size of sizes) {
    const ratios = [];
    const [judged, bares, reads] = [[], [], []];
    for (let round = 0; round < rounds + 1; round += 1) {
      const ders = made.leaves.slice(0, size);
      const reading = timed(() => ders.map(certificate));
      const others = made.leaves.slice(-warmUp).map(certificate);
      // Whoever comes second finds the certificates in the processor’s caches: they take turns.
      const ours = async () => {
        collectGarbage();
        await judgeAll(made, others);
        return timedAsync(() => judgeAll(made, reading.value));
      };
      const plain = () => {
        collectGarbage();
        verifyAll(made, others);
        return timed(() => verifyAll(made, reading.value));
      };
      let [judging, bare] = round % 2 === 0 ? [await ours(), null] : [null, plain()];
      judging ??= await ours();
      bare ??= plain();
      if (round === 0) continue;
      judged.push(judging.ms);
      bares.push(bare.ms);
      reads.push(reading.ms);
      ratios.push(judging.ms / bare.ms);
    }
    say(
      `  ${String(size).padStart(6)} certificates: validation ${Math.round(median(judged))} ms, bare verifications ${Math.round(median(bares))} ms, ratio ${median(ratios).toFixed(2)} (medians of ${rounds}); reading them from DER besides: ${Math.round(median(reads))} ms`,
    );
  }
}

function certificate(der) {
  const read = readCertificate(der);
  if (!read.ok) throw new Error(read.says);
  return read.certificate;
}

const at = Date.UTC(2026, 2, 1);

async function judgeAll({ root, middle }, certificates) {
  const judge = new CertificateJudge(
    ReadTrustList.read({ trusted: [root], issuers: [middle], crls: [] }),
    new KnownSignatures(nodeVerifier),
  );
  for (const leaf of certificates) {
    const { status } = await judge.judge({
      certificate: leaf,
      sentIssuers: [],
      at,
      applicationUri: 'urn:works.example:app',
      host: null,
      policy: null,
      crlsDemanded: false,
      warnDays: 0,
      profile: 'application',
    });
    if (status !== 'Good') throw new Error(status);
  }
}

/** Each leaf’s signature, the intermediate’s and the root’s: nothing else. */
function verifyAll({ root, middle }, certificates) {
  const [top, mid] = [certificate(root), certificate(middle)];
  const keyOf = ({ publicKey }) => createPublicKey({ key: Buffer.from(publicKey.info), format: 'der', type: 'spki' });
  const [topKey, midKey] = [keyOf(top), keyOf(mid)];
  const check = (signed, key) => {
    if (!verify('SHA-256', signed.signed, key, signed.signature)) throw new Error('a signature does not fit');
  };
  check(top, topKey);
  check(mid, topKey);
  for (const leaf of certificates) check(leaf, midKey);
}

function timed(run) {
  const begun = performance.now();
  const value = run();
  return { value, ms: performance.now() - begun };
}

async function timedAsync(run) {
  const begun = performance.now();
  await run();
  return { ms: performance.now() - begun };
}

/** One template certificate is signed anew with another serial number each time: making keys for all would take hours. */
async function chains(count) {
  const algorithm = {
    name: 'RSASSA-PKCS1-v1_5',
    hash: 'SHA-256',
    publicExponent: new Uint8Array([1, 0, 1]),
    modulusLength: 2048,
  };
  x509.cryptoProvider.set(webcrypto);
  const [topKeys, midKeys] = [
    generateKeyPairSync('rsa', { modulusLength: 2048 }),
    generateKeyPairSync('rsa', { modulusLength: 2048 }),
  ];
  const imported = async ({ publicKey, privateKey }) => ({
    publicKey: await webcrypto.subtle.importKey(
      'spki',
      publicKey.export({ type: 'spki', format: 'der' }),
      algorithm,
      true,
      ['verify'],
    ),
    privateKey: await webcrypto.subtle.importKey(
      'pkcs8',
      privateKey.export({ type: 'pkcs8', format: 'der' }),
      algorithm,
      true,
      ['sign'],
    ),
  });
  const [top, mid] = [await imported(topKeys), await imported(midKeys)];
  const usual = { notBefore: new Date('2025-01-01'), notAfter: new Date('2030-01-01'), signingAlgorithm: algorithm };
  const authority = [
    new x509.BasicConstraintsExtension(true, undefined, true),
    new x509.KeyUsagesExtension(x509.KeyUsageFlags.keyCertSign | x509.KeyUsageFlags.cRLSign, true),
  ];
  const raw = async (params) =>
    new Uint8Array((await x509.X509CertificateGenerator.create({ ...usual, ...params })).rawData);
  const root = await raw({
    serialNumber: '01',
    subject: 'CN=Root',
    issuer: 'CN=Root',
    publicKey: top.publicKey,
    signingKey: top.privateKey,
    extensions: authority,
  });
  const middle = await raw({
    serialNumber: '02',
    subject: 'CN=Middle',
    issuer: 'CN=Root',
    publicKey: mid.publicKey,
    signingKey: top.privateKey,
    extensions: authority,
  });
  const flags = x509.KeyUsageFlags;
  const app = await imported(generateKeyPairSync('rsa', { modulusLength: 2048 }));
  const template = await raw({
    serialNumber: '11'.repeat(8),
    subject: 'CN=app, O=Works',
    issuer: 'CN=Middle',
    publicKey: app.publicKey,
    signingKey: mid.privateKey,
    extensions: [
      new x509.BasicConstraintsExtension(false, undefined, true),
      new x509.KeyUsagesExtension(
        flags.digitalSignature | flags.nonRepudiation | flags.keyEncipherment | flags.dataEncipherment,
        true,
      ),
      new x509.ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2']),
      new x509.SubjectAlternativeNameExtension([
        { type: 'url', value: 'urn:works.example:app' },
        { type: 'dns', value: 'app.works.example' },
      ]),
    ],
  });
  const { signed, signature } = certificate(template);
  const [signedAt, signatureAt] = [template.length - encodedLength(template) + 0, template.length - signature.length];
  const leaves = Array.from({ length: count }, () => {
    const der = Uint8Array.from(template);
    const serialAt = Buffer.from(der).indexOf(Buffer.from('11'.repeat(8), 'hex'));
    der.set(randomBytes(7), serialAt + 1);
    const tbs = der.subarray(signedAt, signedAt + signed.length);
    der.set(createSign('SHA256').update(tbs).sign(midKeys.privateKey), signatureAt);
    return der;
  });
  return { root, middle, leaves };
}

/** Length of a certificate without its outer header. */
const encodedLength = (der) => der.length - (der[1] < 0x80 ? 2 : 2 + (der[1] & 0x7f));
