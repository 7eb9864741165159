import { createHash, webcrypto } from 'node:crypto';
import 'reflect-metadata';
import * as x509 from '@peculiar/x509';

const algorithm = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' };
const authorityCount = 10;
/** Keys are shared: making them is not what is measured, and each signature is verified all the same. */
const keyCount = 32;

/**
 * Certificates for all applications of a plant, and what lies in their lists: three of five are signed by one of ten
 * authorities, the others by themselves; nine of ten wanted trusts are there, and some that nobody needs.
 */
export async function madeTrust({ applications, links, machines }) {
  const keys = await Promise.all(
    Array.from({ length: keyCount }, () => webcrypto.subtle.generateKey(algorithm, true, ['sign', 'verify'])),
  );
  const hosts = new Map(machines.map(({ id, hostNames }) => [id, hostNames[0]]));
  const authorities = await Promise.all(Array.from({ length: authorityCount }, (_, index) => authority(index, keys)));
  const shown = new Map();
  for (let from = 0; from < applications.length; from += 200)
    await Promise.all(
      applications.slice(from, from + 200).map(async (application, offset) => {
        const index = from + offset;
        const by = index % 5 < 3 ? authorities[index % authorityCount] : null;
        shown.set(application.id, await leaf(index, application, hosts.get(application.machineId), keys, by));
      }),
    );
  const lists = new Map(applications.map(({ id }) => [id, { trusted: new Set(), issuers: new Set() }]));
  links.forEach(({ clientId, serverId }, index) => {
    if (index % 10 === 0) return;
    for (const [holder, other] of [
      [clientId, serverId],
      [serverId, clientId],
    ]) {
      const { certificate, by } = shown.get(other);
      lists.get(holder).trusted.add(by ? by.certificate.thumbprint : certificate.thumbprint);
    }
  });
  applications.forEach(({ id }, index) => {
    if (index % 20 === 0)
      lists.get(id).trusted.add(shown.get(applications[(index + 7) % applications.length].id).certificate.thumbprint);
  });
  return { shown, lists, certificates: [...authorities, ...shown.values()].map(({ certificate }) => certificate) };
}

async function authority(index, keys) {
  const pair = keys[index];
  const made = await x509.X509CertificateGenerator.createSelfSigned({
    serialNumber: (0x10_0000 + index).toString(16),
    name: `CN=Authority ${index}, O=Works`,
    notBefore: new Date('2024-01-01'),
    notAfter: new Date('2034-01-01'),
    keys: pair,
    signingAlgorithm: algorithm,
    extensions: [
      new x509.BasicConstraintsExtension(true, undefined, true),
      new x509.KeyUsagesExtension(6 + 96, true),
      await x509.SubjectKeyIdentifierExtension.create(pair.publicKey),
    ],
  });
  return { certificate: told(made), name: made.subject, pair };
}

async function leaf(index, { id, applicationUri }, host, keys, by) {
  const pair = keys[index % keyCount];
  const made = await x509.X509CertificateGenerator.create({
    serialNumber: (0x20_0000 + index).toString(16),
    subject: `CN=${id}, O=Works`,
    issuer: by ? by.name : `CN=${id}, O=Works`,
    notBefore: new Date('2025-01-01'),
    notAfter: new Date(index % 50 === 0 ? '2026-01-01' : '2030-01-01'),
    publicKey: pair.publicKey,
    signingKey: (by ? by.pair : pair).privateKey,
    signingAlgorithm: algorithm,
    extensions: [
      new x509.BasicConstraintsExtension(false, undefined, true),
      new x509.KeyUsagesExtension(0xf + (by ? 0 : 32), true),
      new x509.ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2']),
      new x509.SubjectAlternativeNameExtension([
        { type: 'url', value: applicationUri },
        { type: 'dns', value: host },
      ]),
      await x509.SubjectKeyIdentifierExtension.create(pair.publicKey),
    ],
  });
  return { certificate: told(made), by };
}

const told = (made) => {
  const der = Buffer.from(made.rawData);
  return { der, thumbprint: thumbprintOf(der) };
};

const thumbprintOf = (der) => createHash('sha1').update(der).digest('hex').toUpperCase();
