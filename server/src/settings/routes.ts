import { createPrivateKey, X509Certificate } from 'node:crypto';
import type { Router } from 'express';
import { readCertificate, readPem } from '@loyal-hinge/core';
import type { CertificateSummary } from '@loyal-hinge/core';
import type { ClientIdentityView, PlantSettings } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { keyOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import { invalid, notFound } from '../http/problems.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { readPlant, readSetting, writeSetting } from '../plant/store.js';
import { clientCertificateOf, keepCertificate, setClientCertificate } from '../trust/store.js';

export function settingsRoutes(router: Router, findActor: FindActor, db: Database, secrets: SecretStore): void {
  serve(router, findActor, 'settings', () => readSettings(db));
  serve(router, findActor, 'putSettings', async ({ body }, actor) => {
    const before = await readSettings(db);
    await db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor: actor.name,
        action: 'settings changed',
        subject: 'settings',
        details: { before, after: body },
      });
      for (const [key, value] of Object.entries(body)) await writeSetting(tx, key, value);
    });
    return readSettings(db);
  });
  serve(router, findActor, 'identities', async () => {
    const { applications } = await readPlant(db);
    const clients = applications.filter((application) => application.kind === 'client');
    return { identities: await Promise.all(clients.map((client) => viewOf(db, client))) };
  });
  serve(router, findActor, 'putIdentity', async ({ params, body }, actor) => {
    const { applications } = await readPlant(db);
    const client = applications.find((application) => application.id === params['id'] && application.kind === 'client');
    if (!client) throw notFound('client application', params['id'] ?? '');
    const certificate = await matching(body.certificatePem, body.privateKeyPem);
    await db.transaction(async (tx) => {
      const details = { thumbprint: certificate.summary.thumbprint, subject: certificate.summary.subject };
      await appendAudit(tx, { actor: actor.name, action: 'client identity set', subject: client.id, details });
      await keepCertificate(tx, certificate.der);
      await setClientCertificate(tx, client.id, certificate.summary.thumbprint);
      await secrets.keep(tx, keyOf(client.id), body.privateKeyPem);
    });
    return viewOf(db, client);
  });
}

const keys = [
  'plantName',
  'declaredRanges',
  'nameServer',
  'dialFromClientAddress',
  'crlsDemanded',
  'approvedByAnother',
] as const;

async function readSettings(db: Queryable): Promise<PlantSettings> {
  const [plantName, declaredRanges, nameServer, dialFromClientAddress, crlsDemanded, approvedByAnother] =
    await Promise.all(keys.map((key) => readSetting(db, key)));
  return {
    plantName: typeof plantName === 'string' ? plantName : 'Plant',
    declaredRanges: Array.isArray(declaredRanges) ? declaredRanges.map(String) : [],
    nameServer: typeof nameServer === 'string' ? nameServer : null,
    dialFromClientAddress: dialFromClientAddress === true,
    crlsDemanded: crlsDemanded === true,
    approvedByAnother: approvedByAnother === true,
  };
}

async function viewOf(db: Queryable, client: { id: string; name: string }): Promise<ClientIdentityView> {
  const der = await clientCertificateOf(db, client.id);
  const read = der ? readCertificate(der) : null;
  const summary = read?.ok ? read.certificate.summary : null;
  return {
    applicationId: client.id,
    application: client.name,
    thumbprint: summary?.thumbprint ?? null,
    subject: summary?.subject ?? null,
    notAfter: summary?.notAfter ?? null,
  };
}

/** The certificate, where it can be read and the key is its own. */
async function matching(
  certificatePem: string,
  privateKeyPem: string,
): Promise<{ der: Uint8Array; summary: CertificateSummary }> {
  const faulty = (place: string, says: string) => invalid(`${says} Nothing was kept.`, [{ place, says }]);
  const pem = readPem(certificatePem);
  if (!pem.ok) throw faulty('certificatePem', `Line ${pem.fault.line}: ${pem.fault.says}.`);
  const block = pem.blocks.find(({ label }) => label === 'CERTIFICATE');
  if (!block) throw faulty('certificatePem', 'There is no certificate in this text.');
  const read = readCertificate(block.der);
  if (!read.ok) throw faulty('certificatePem', read.says);
  let fits: boolean;
  try {
    fits = new X509Certificate(read.certificate.der).checkPrivateKey(createPrivateKey(privateKeyPem));
  } catch {
    throw faulty(
      'privateKeyPem',
      'This is no private key that can be read; one with a passphrase must be opened first.',
    );
  }
  if (!fits) throw faulty('privateKeyPem', 'This key does not belong to the certificate.');
  return read.certificate;
}
