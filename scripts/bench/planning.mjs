import { webcrypto } from 'node:crypto';
import 'reflect-metadata';
import * as x509 from '@peculiar/x509';
import { JudgeMemory, PlanMemory, planTrust, readCertificate, trustGrid, withPromises } from '../../core/dist/index.js';
import { nodeVerifier } from '../../server/dist/certificates/node-signatures.js';

const sizes = [
  [100, 1_000],
  [500, 5_000],
  [1_000, 10_000],
  [5_000, 50_000],
];
const rounds = 3;
const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];
const algorithm = {
  name: 'RSASSA-PKCS1-v1_5',
  hash: 'SHA-256',
  publicExponent: new Uint8Array([1, 0, 1]),
  modulusLength: 2048,
};

/** Plans of trust for whole plants: self-signed applications, half of the wanted trust in place, some that nobody needs. */
export async function planning(say) {
  say('\nPlanning trust (RSA 2048, self-signed applications, half of the wanted trust in place):');
  const largest = Math.max(...sizes.map(([applications]) => applications));
  const made = await certificates(largest);
  for (const [applications, links] of sizes) {
    const results = { direct: [], authority: [] };
    const again = { direct: [], authority: [] };
    const judging = [];
    let changes = {};
    for (let round = 0; round < rounds; round += 1)
      for (const strategy of ['direct', 'authority']) {
        const plant = plantOf(made, applications, links);
        const wish = { strategy, authority: made.authority, known: { certificates: new Map(), crls: [] } };
        const kept = { judged: new JudgeMemory(withPromises(nodeVerifier)), plans: new PlanMemory(nodeVerifier) };
        judging.push(await judgedWhole(kept.judged, plant));
        const begun = performance.now();
        const plan = await planTrust(plant, wish, nodeVerifier, kept);
        results[strategy].push(performance.now() - begun);
        const changed = performance.now();
        await planTrust(withoutListsOf(plant, 7), wish, nodeVerifier, kept);
        again[strategy].push(performance.now() - changed);
        changes = { ...changes, [strategy]: plan.changes.length };
      }
    say(
      `  ${String(applications).padStart(5)} applications, ${String(links).padStart(6)} links: judged in ${Math.round(median(judging))} ms; then ${[
        'direct',
        'authority',
      ]
        .map(
          (strategy) =>
            `${strategy} ${Math.round(median(results[strategy]))} ms (${changes[strategy]} changes), again after one change ${Math.round(median(again[strategy]))} ms`,
        )
        .join('; ')}; medians of ${rounds}`,
    );
  }
  const plant = plantOf(made, 60, 600);
  const begun = performance.now();
  const { cells } = await trustGrid(plant, nodeVerifier);
  say(
    `  The trust grid of 60 applications: ${Math.round(performance.now() - begun)} ms, ${cells.length} cells that say something`,
  );
}

/** What is there is judged beforehand, as the server does when it starts. @returns milliseconds */
async function judgedWhole(memory, plant) {
  const begun = performance.now();
  const judged = memory.of(plant);
  for (const party of plant.parties) await judged.needsOf(party);
  return performance.now() - begun;
}

/** The same plant, but for one application whose lists were emptied. */
const withoutListsOf = (plant, at) => ({
  ...plant,
  parties: plant.parties.map((party, index) =>
    index === at ? { ...party, lists: { ...party.lists, trusted: [] } } : party,
  ),
});

/** Applications with few keys among them: keys are slow to make, and each certificate is verified all the same. */
async function certificates(count) {
  const keys = await Promise.all(
    Array.from({ length: 16 }, () => webcrypto.subtle.generateKey(algorithm, true, ['sign', 'verify'])),
  );
  const make = async (index, authority) => {
    const pair = keys[index % keys.length];
    const made = await x509.X509CertificateGenerator.createSelfSigned({
      serialNumber: (index + 4096).toString(16).padStart(6, '0'),
      name: `CN=application ${index}, O=Works`,
      notBefore: new Date('2025-01-01'),
      notAfter: new Date('2030-01-01'),
      keys: pair,
      signingAlgorithm: algorithm,
      extensions: [
        new x509.BasicConstraintsExtension(authority, undefined, true),
        new x509.KeyUsagesExtension(authority ? 6 + 96 : 0xf + 16, true),
        new x509.ExtendedKeyUsageExtension(['1.3.6.1.5.5.7.3.1', '1.3.6.1.5.5.7.3.2']),
        new x509.SubjectAlternativeNameExtension([{ type: 'url', value: `urn:works.example:${index}` }]),
      ],
    });
    const read = readCertificate(new Uint8Array(made.rawData));
    if (!read.ok) throw new Error(read.says);
    return read.certificate;
  };
  return {
    authority: await make(999_000, true),
    applications: await Promise.all(Array.from({ length: count }, (_, index) => make(index, false))),
  };
}

function plantOf({ applications }, count, linkCount) {
  const shown = applications.slice(0, count).map((certificate) => readCertificate(certificate.der).certificate);
  const trusted = shown.map((_, index) => new Set([(index * 7 + 3) % count]));
  const links = Array.from({ length: linkCount }, (_, index) => {
    const client = (index * 31 + Math.floor(index / count)) % count;
    const server = (client + 1 + ((index * 17) % (count - 1))) % count;
    if (index % 2 === 0) {
      trusted[client].add(server);
      trusted[server].add(client);
    }
    return {
      linkId: `link-${index}`,
      name: '',
      clientId: String(client),
      serverId: String(server),
      host: null,
      secured: true,
    };
  });
  const parties = shown.map((certificate, index) => ({
    applicationId: String(index),
    name: `application ${index}`,
    applicationUri: `urn:works.example:${index}`,
    certificate,
    lists: {
      trusted: [...trusted[index]].map((at) => shown[at]),
      issuers: [],
      trustedCrls: [],
      issuerCrls: [],
      rejected: [],
    },
    way: 'push',
    restarts: true,
    waivers: [],
  }));
  return { parties, links, crlsDemanded: false, at: Date.UTC(2026, 2, 1) };
}
