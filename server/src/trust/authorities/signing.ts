import { X509Certificate } from 'node:crypto';
import { readCertificate } from '@loyal-hinge/core';
import type { Certificate, RevocationReason } from '@loyal-hinge/core';
import {
  freshSerialNumber,
  importPrivateKey,
  issueApplicationCertificate,
  issueRevocationList,
  readSigningRequest,
} from '@loyal-hinge/core/issuing';
import type { KeyKind, Signer } from '@loyal-hinge/core/issuing';
import type { AuthorityView, IssueRequest, Issued as IssuedView } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import type { SecretStore } from '../../secrets/sealing.js';
import type { EventLog } from '../../events/event-log.js';
import type { Runs } from '../../heavy/jobs.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { knownApplication } from '../../plant/known-application.js';
import { keepCrl } from '../../certificates/crls.js';
import { requestIn } from '../../certificates/request-in.js';
import { findCertificate, keepCertificate } from '../../certificates/store.js';
import { clockSlackMs, dayMs, openKey, pemOf } from './given.js';
import {
  authorityKeyOf,
  findAuthority,
  issuedFor,
  noteCrl,
  noteIssued,
  noteRevoked,
  revokedBy,
  selvesOf,
} from './store.js';
import type { KeptAuthority } from './store.js';
import type { AuthorityJobs } from './jobs.js';

const crlDays = 35;

export interface Signed {
  readonly certificate: Uint8Array;
  /** The authority’s certificate, for the chain. */
  readonly issuer: Uint8Array;
  readonly thumbprint: string;
}

/** An authority whose key was opened, for as long as one call lasts. */
export interface OpenAuthority {
  readonly signer: Signer & { readonly certificate: Uint8Array };
  readonly certificate: Certificate;
  readonly kept: KeptAuthority & { readonly keyKind: KeyKind };
}

/** What the plant’s authorities sign: certificates and CRLs. The passphrase of a key comes with each call and is never kept. */
export class AuthoritySigning {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly heavy: Runs<AuthorityJobs>,
    private readonly events: EventLog,
  ) {}

  /** Issues an application certificate from a request (PKCS#10) for an application of the plant. */
  async issue(authority: string, wish: IssueRequest, actor: string): Promise<IssuedView> {
    const block = requestIn(wish.requestPem);
    const application = await knownApplication(this.db, wish.applicationId);
    const signed = await this.sign(
      authority,
      block,
      application.applicationUri,
      application.id,
      wish.validDays,
      wish.passphrase,
      actor,
    );
    return { thumbprint: signed.thumbprint, certificatePem: pemOf(signed.certificate), chainPem: pemOf(signed.issuer) };
  }

  /** Signs a request for an application: its URI must be the one that the plant knows. */
  async sign(
    authority: string,
    request: Uint8Array,
    applicationUri: string,
    applicationId: string,
    validDays: number,
    passphrase: string,
    actor: string,
    forLine: string | null = null,
  ): Promise<Signed> {
    const read = await readSigningRequest(request);
    if (!read.ok) throw invalid(read.says, [{ place: 'requestPem', says: read.says }]);
    const { applicationUris, hosts, publicKey, subject, keyType } = read.request;
    if (applicationUris.length !== 1 || applicationUris[0] !== applicationUri)
      throw invalid(
        `The request is for ${applicationUris.join(', ') || 'no application URI'}, and the plant knows this application as ${applicationUri}.`,
        [{ place: 'requestPem', says: 'The application URI does not match.' }],
      );
    if (keyType === 'other')
      throw invalid('The request has a key that OPC UA does not use.', [
        { place: 'requestPem', says: 'Use RSA or an elliptic curve.' },
      ]);
    const { signer, certificate } = await this.open(authority, passphrase);
    const earlier = forLine === null ? null : await this.signedBefore(authority, forLine, publicKey, passphrase, actor);
    if (earlier) return { certificate: earlier.der, issuer: certificate.der, thumbprint: earlier.thumbprint };
    const notBefore = Date.now() - clockSlackMs;
    const der = await issueApplicationCertificate(
      {
        subject,
        applicationUri,
        hosts,
        publicKey,
        serialNumber: freshSerialNumber(),
        notBefore,
        notAfter: Math.min(notBefore + validDays * dayMs, certificate.notAfter),
      },
      signer,
    );
    const made = readCertificate(der);
    if (!made.ok) throw new Error(made.says);
    const { thumbprint, serialNumber } = made.certificate;
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor,
        action: 'certificate issued',
        subject: applicationId,
        details: { authority, serialNumber, thumbprint },
      });
      await keepCertificate(tx, der);
      await noteIssued(tx, { authority, serialNumber, thumbprint, applicationId, forLine });
    });
    return { certificate: der, issuer: certificate.der, thumbprint };
  }

  /**
   * What was signed for a line of a work order that was cut off: the line goes on with it where the key is still the
   * same, and otherwise it is revoked. A line never leaves two valid certificates behind.
   */
  private async signedBefore(
    authority: string,
    forLine: string,
    publicKey: Uint8Array,
    passphrase: string,
    actor: string,
  ): Promise<{ readonly der: Uint8Array; readonly thumbprint: string } | null> {
    let usable: { readonly der: Uint8Array; readonly thumbprint: string } | null = null;
    for (const { serialNumber, thumbprint } of await issuedFor(this.db, authority, forLine)) {
      const found = thumbprint === null ? null : await findCertificate(this.db, thumbprint);
      if (!usable && found && isKeyOf(publicKey, found.der)) usable = { der: found.der, thumbprint: thumbprint ?? '' };
      else await this.revoke(authority, serialNumber, 'superseded', passphrase, actor);
    }
    return usable;
  }

  /** Revokes what it has signed, and issues a CRL that says so. */
  async revoke(
    authority: string,
    serialNumber: string,
    reason: RevocationReason,
    passphrase: string,
    actor: string,
  ): Promise<AuthorityView> {
    await this.open(authority, passphrase);
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor,
        action: 'certificate revoked',
        subject: authority,
        details: { serialNumber, reason },
      });
      await noteRevoked(tx, authority, serialNumber, new Date().toISOString(), reason);
    });
    await this.issueCrl(authority, passphrase, actor);
    return this.heavy.run('authority', { thumbprint: authority });
  }

  /** Issues the next CRL. It speaks for an authority and for what it was before it was renewed with its key. */
  async issueCrl(authority: string, passphrase: string, actor: string): Promise<AuthorityView> {
    const { signer, certificate } = await this.open(authority, passphrase);
    const selves = await selvesOf(this.db, certificate);
    const thumbprints = selves.map(({ thumbprint }) => thumbprint);
    const revoked = await revokedBy(this.db, thumbprints);
    const number = Math.max(...selves.map(({ crlNumber }) => crlNumber)) + 1;
    const thisUpdate = Date.now() - 60_000;
    const der = await issueRevocationList(
      {
        number,
        thisUpdate,
        nextUpdate: thisUpdate + crlDays * dayMs,
        revoked: revoked.map(({ serialNumber, revokedAt, reason }) => ({
          serialNumber,
          since: Date.parse(revokedAt ?? ''),
          reason: reason ?? 'unspecified',
        })),
      },
      signer,
    );
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, {
        actor,
        action: 'CRL issued',
        subject: authority,
        details: { number, revoked: revoked.length },
      });
      const crlId = await keepCrl(tx, der);
      if (crlId) await noteCrl(tx, thumbprints, number, crlId);
    });
    await this.events.tell({ kind: 'trust-changed', applicationId: authority });
    return this.heavy.run('authority', { thumbprint: authority });
  }

  /** Opens the key of an authority; a conflict where it is kept elsewhere, invalid where the passphrase does not open it. */
  async open(thumbprint: string, passphrase: string): Promise<OpenAuthority> {
    const kept = await findAuthority(this.db, thumbprint);
    const found = await findCertificate(this.db, thumbprint);
    if (!kept || !found) throw notFound('authority', thumbprint);
    const pem = await this.secrets.find(this.db, authorityKeyOf(thumbprint));
    if (!pem || kept.keyKind === null)
      throw conflict(
        'The key of this authority is kept elsewhere.',
        'Create a request for the application on the Authority page, have it signed there, and bring the certificate back.',
      );
    const key = openKey(pem, passphrase).export({ type: 'pkcs8', format: 'der' });
    const privateKey = await importPrivateKey(kept.keyKind, key);
    key.fill(0);
    const { keyKind } = kept;
    return {
      signer: { kind: keyKind, privateKey, certificate: found.der },
      certificate: found.certificate,
      kept: { ...kept, keyKind },
    };
  }
}

const isKeyOf = (publicKey: Uint8Array, der: Uint8Array): boolean =>
  new X509Certificate(der).publicKey.export({ type: 'spki', format: 'der' }).equals(publicKey);
