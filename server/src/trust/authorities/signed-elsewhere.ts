import { X509Certificate, createPublicKey, randomUUID } from 'node:crypto';
import { commonName, decodeBase64, encodeBase64, readCertificate, readPem, writePem } from '@loyal-hinge/core';
import type { Application, Certificate } from '@loyal-hinge/core';
import { readSigningRequest } from '@loyal-hinge/core/issuing';
import type { SigningRequestView, WorkOrder } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import type { EventLog } from '../../events/event-log.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import type { Actor } from '../../http/serve.js';
import type { WorkOrders } from '../../orders/service.js';
import { knownApplication } from '../../plant/known-application.js';
import { linkIdsIn } from '../../plant/store.js';
import type { CertificateRenewal } from './renewal.js';
import { findCertificate, keepCertificate, shownCertificates } from '../../certificates/store.js';
import { addRequest, findAuthority, findOpenRequest, noteIssued, settleRequest } from './store.js';
import type { KeptRequest } from './store.js';

/**
 * Certificates by an authority whose key is kept elsewhere: an application makes a request, somebody has it signed where
 * the key is, and the certificate that comes back is proposed for the application.
 */
export class SignedElsewhere {
  constructor(
    private readonly db: Database,
    private readonly renewal: CertificateRenewal,
    private readonly orders: WorkOrders,
    private readonly events: EventLog,
  ) {}

  /** Has the application make a request with the key that it has. */
  async request(authority: string, applicationId: string, actor: string): Promise<SigningRequestView> {
    const kept = await findAuthority(this.db, authority);
    if (!kept) throw notFound('authority', authority);
    if (kept.keyKind !== null)
      throw conflict('The key of this authority is stored here.', 'Renew the certificate with a work order.');
    const application = await knownApplication(this.db, applicationId);
    const request = await this.renewal.requestOf(application);
    const id = randomUUID();
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, { actor, action: 'certificate request made', subject: applicationId, details: { id } });
      await addRequest(tx, { id, authority, applicationId, request: encodeBase64(request), madeBy: actor });
    });
    await this.events.tell({ kind: 'trust-changed', applicationId: authority });
    return {
      id,
      application: application.name,
      requestPem: writePem('CERTIFICATE REQUEST', request),
      madeBy: actor,
      madeAt: new Date().toISOString(),
    };
  }

  /** Takes the certificate that came back, where it is what was asked for, and proposes to give it to the application. */
  async bring(id: string, certificatePem: string, actor: Actor): Promise<WorkOrder> {
    const kept = await this.open(id);
    const application = await knownApplication(this.db, kept.applicationId);
    const certificate = await this.fitting(kept, application, certificatePem);
    const { thumbprint, serialNumber } = certificate;
    const before = (await shownCertificates(this.db)).get(application.id)?.[0]?.thumbprint ?? null;
    await this.db.transaction(async (tx) => {
      if (!(await settleRequest(tx, id, thumbprint))) throw goneMeanwhile();
      await appendAudit(tx, {
        actor: actor.name,
        action: 'certificate brought',
        subject: application.id,
        details: { id, authority: kept.authority, serialNumber, thumbprint },
      });
      await keepCertificate(tx, certificate.der);
      await noteIssued(tx, {
        authority: kept.authority,
        serialNumber,
        thumbprint,
        applicationId: application.id,
        forLine: null,
      });
    });
    await this.events.tell({ kind: 'trust-changed', applicationId: kept.authority });
    const change = { kind: 'install-certificate', applicationId: application.id, thumbprint, before } as const;
    const why = `${commonName(certificate.issuer.text)} has signed it where its key is kept.`;
    const linkIds = await linkIdsIn(this.db, application.id);
    const title = `The new certificate of ${application.name}`;
    return this.orders.propose({ title, lines: [{ change, why, linkIds }] }, actor);
  }

  /** Nobody waits any more for what a request asked for. */
  async drop(id: string, actor: string): Promise<void> {
    const kept = await this.open(id);
    await this.db.transaction(async (tx) => {
      if (!(await settleRequest(tx, id, null))) throw goneMeanwhile();
      const action = 'certificate request dropped';
      await appendAudit(tx, { actor, action, subject: kept.applicationId, details: { id } });
    });
    await this.events.tell({ kind: 'trust-changed', applicationId: kept.authority });
  }

  /** The certificate for this request in a text that may hold its issuers, too. */
  private async fitting(kept: KeptRequest, application: Application, pem: string): Promise<Certificate> {
    const asked = await readSigningRequest(decodeBase64(kept.request) ?? new Uint8Array());
    const authority = await findCertificate(this.db, kept.authority);
    if (!asked.ok || !authority) throw new Error('a stored request can’t be read');
    const found = certificatesIn(pem).find((one) => keyIs(one, asked.request.publicKey));
    if (!found)
      throw refusal(
        `None of the certificates in this text is for the key of ${application.name} that the request named.`,
      );
    const read = new X509Certificate(found.der);
    if (!read.verify(new X509Certificate(authority.der).publicKey))
      throw refusal(`${commonName(authority.summary.subject)} did not sign this certificate.`);
    if (found.summary.applicationUris.join() !== application.applicationUri)
      throw refusal(
        `It is for ${found.summary.applicationUris.join(', ') || 'no application URI'}, and the request was for ${application.applicationUri}.`,
      );
    if (found.notAfter < Date.now()) throw refusal('Its validity is over.');
    return found;
  }

  private async open(id: string): Promise<KeptRequest> {
    const kept = await findOpenRequest(this.db, id);
    if (!kept) throw notFound('open request', id);
    return kept;
  }
}

const goneMeanwhile = () => conflict('This request was settled meanwhile.', 'Check the present state.');

const refusal = (says: string) => invalid(`${says} Nothing was stored.`, [{ place: 'certificatePem', says }]);

function certificatesIn(pem: string): readonly Certificate[] {
  const text = readPem(pem);
  if (!text.ok) throw refusal(`Line ${text.fault.line}: ${text.fault.says}.`);
  return text.blocks.flatMap(({ der }) => {
    const read = readCertificate(der);
    return read.ok ? [read.certificate] : [];
  });
}

function keyIs(certificate: Certificate, spki: Uint8Array): boolean {
  const key = createPublicKey({ key: Buffer.from(spki), format: 'der', type: 'spki' });
  return new X509Certificate(certificate.der).publicKey.equals(key);
}
