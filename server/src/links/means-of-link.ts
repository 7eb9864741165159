import type { CertificateSummary, Fact, LinkInPlant } from '@loyal-hinge/core';
import type { Queryable } from '../database/database.js';
import { keyOf, passwordOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import { readSetting } from '../plant/store.js';
import { trustListOf } from '../trust/lists-store.js';
import { clientCertificateOf } from '../trust/store.js';
import { waiversInForce } from '../trust/waiver-store.js';
import { usualLimits } from './check/means.js';
import type { CheckMeans } from './check/means.js';
import { assessmentOf, factsOfCheck } from './store.js';

/** Gathers what a check of this link needs; secrets are opened here and stay in memory. The server’s own lists are the caller’s to add. */
export async function meansOfLink(db: Queryable, secrets: SecretStore, subject: LinkInPlant): Promise<CheckMeans> {
  const { link, client, server } = subject;
  const [
    nameServer,
    ranges,
    near,
    crlsDemanded,
    certificate,
    privateKeyPem,
    clientTrust,
    password,
    earlierCertificate,
    waivers,
  ] = await Promise.all([
    readSetting(db, 'nameServer'),
    readSetting(db, 'declaredRanges'),
    readSetting(db, 'dialFromClientAddress'),
    readSetting(db, 'crlsDemanded'),
    clientCertificateOf(db, client.id),
    secrets.find(db, keyOf(client.id)),
    trustListOf(db, client.id),
    secrets.find(db, passwordOf(link.id)),
    earlierServerCertificate(db, link.id),
    waiversInForce(db),
  ]);
  return {
    nameServer: typeof nameServer === 'string' ? nameServer : null,
    declaredRanges: Array.isArray(ranges) ? ranges.map(String) : [],
    dialFromClientAddress: near === true,
    credentials:
      certificate && privateKeyPem ? { applicationUri: client.applicationUri, certificate, privateKeyPem } : null,
    clientTrust,
    crlsDemanded: crlsDemanded === true,
    waivers: { client: waivers.get(client.id) ?? [], server: waivers.get(server.id) ?? [] },
    password,
    earlierCertificate,
    readServerLists: null,
    limits: usualLimits,
  };
}

async function earlierServerCertificate(db: Queryable, linkId: string): Promise<CertificateSummary | null> {
  const kept = await assessmentOf(db, linkId);
  return kept ? serverCertificateIn(await factsOfCheck(db, kept.checkId)) : null;
}

/** The server’s certificate as the endpoints show it. */
export function serverCertificateIn(facts: readonly Fact[]): CertificateSummary | null {
  for (const fact of facts) {
    if (fact.kind !== 'endpoints' || fact.outcome !== 'listed') continue;
    const certificate = fact.endpoints.find((endpoint) => endpoint.certificate)?.certificate;
    if (certificate) return certificate;
  }
  return null;
}
