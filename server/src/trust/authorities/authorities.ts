import { createPrivateKey, X509Certificate } from 'node:crypto';
import { readCertificate } from '@loyal-hinge/core';
import type { Certificate, RevocationReason } from '@loyal-hinge/core';
import {
  exportKey,
  freshSerialNumber,
  importPrivateKey,
  issueApplicationCertificate,
  issueAuthorityCertificate,
  issueRevocationList,
  makeKeys,
  readSigningRequest,
} from '@loyal-hinge/core/issuing';
import type { KeyKind, Signer } from '@loyal-hinge/core/issuing';
import type {
  AuthorityView,
  CreateAuthority,
  ImportAuthority,
  IssueRequest,
  Issued as IssuedView,
} from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import type { SecretStore } from '../../database/sealing.js';
import type { EventLog } from '../../events/event-log.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { knownApplication } from '../../plant/known-application.js';
import { keepCrl } from '../lists-store.js';
import { findCertificate, keepCertificate } from '../store.js';
import { certificateIn, kindOf, openKey, pemOf, requestIn } from './given.js';
import { allAuthorities, findAuthority, keepAuthority, noteCrl, noteIssued, noteRevoked, revokedBy } from './store.js';
import type { KeptAuthority } from './store.js';
import { authorityView } from './view.js';

const dayMs = 86_400_000;
/** An authority’s own certificate starts a little earlier, so that clocks that lag take it at once. */
const clockSlackMs = 3_600_000;
const crlDays = 35;

export const authorityKeyOf = (thumbprint: string): string => `key of authority ${thumbprint}`;

export interface Signed {
  readonly certificate: Uint8Array;
  /** The authority’s certificate, for the chain. */
  readonly issuer: Uint8Array;
  readonly thumbprint: string;
}

/** The plant’s authorities. Their keys lie here encrypted with a passphrase that is asked for each time and never kept. */
export class Authorities {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly events: EventLog,
  ) {}

  async all(): Promise<AuthorityView[]> {
    const rows = await allAuthorities(this.db);
    return (await Promise.all(rows.map((row) => authorityView(this.db, row)))).flatMap((view) => view ?? []);
  }

  /** Makes an authority with a key of its own. */
  async create(wish: CreateAuthority, actor: string): Promise<AuthorityView> {
    const keys = await makeKeys(wish.keyKind);
    const notBefore = Date.now() - clockSlackMs;
    const certificate = await issueAuthorityCertificate(
      {
        subject: { commonName: wish.commonName, organization: wish.organization },
        publicKey: await exportKey('spki', keys.publicKey),
        serialNumber: freshSerialNumber(),
        notBefore,
        notAfter: notBefore + wish.validDays * dayMs,
        pathLength: wish.pathLength,
      },
      { kind: wish.keyKind, privateKey: keys.privateKey, certificate: null },
    );
    const encrypted = createPrivateKey({
      key: Buffer.from(await exportKey('pkcs8', keys.privateKey)),
      format: 'der',
      type: 'pkcs8',
    })
      .export({ type: 'pkcs8', format: 'pem', cipher: 'aes-256-cbc', passphrase: wish.passphrase })
      .toString();
    const thumbprint = await this.keep(certificate, encrypted, wish.keyKind, actor, 'authority made');
    await this.issueCrl(thumbprint, wish.passphrase, actor);
    return this.one(thumbprint);
  }

  /** Takes an authority over that exists already: with its encrypted key, or without any key where that is kept elsewhere. */
  async import(given: ImportAuthority, actor: string): Promise<AuthorityView> {
    const certificate = certificateIn(given.certificatePem);
    if (!certificate.isAuthority)
      throw invalid('This certificate is no authority (basic constraints).', [
        { place: 'certificatePem', says: 'Give the certificate of an authority.' },
      ]);
    let kind: KeyKind | null = null;
    if (given.encryptedKeyPem !== null) {
      const key = openKey(given.encryptedKeyPem, given.passphrase ?? '');
      if (!new X509Certificate(certificate.der).checkPrivateKey(key))
        throw invalid('This key does not belong to the certificate.', [
          { place: 'encryptedKeyPem', says: 'Give the key of this authority.' },
        ]);
      kind = kindOf(certificate);
    }
    const thumbprint = await this.keep(certificate.der, given.encryptedKeyPem, kind, actor, 'authority imported');
    return this.one(thumbprint);
  }

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
    const { signer, certificate } = await this.signer(authority, passphrase);
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
      await noteIssued(tx, { authority, serialNumber, thumbprint, applicationId });
    });
    return { certificate: der, issuer: certificate.der, thumbprint };
  }

  /** Revokes what it has signed, and issues a CRL that says so. */
  async revoke(
    authority: string,
    serialNumber: string,
    reason: RevocationReason,
    passphrase: string,
    actor: string,
  ): Promise<AuthorityView> {
    await this.signer(authority, passphrase);
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
    return this.one(authority);
  }

  /** Issues the next CRL. */
  async issueCrl(authority: string, passphrase: string, actor: string): Promise<AuthorityView> {
    const { signer, kept } = await this.signer(authority, passphrase);
    const revoked = await revokedBy(this.db, authority);
    const number = kept.crlNumber + 1;
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
      if (crlId) await noteCrl(tx, authority, number, crlId);
    });
    await this.events.tell({ kind: 'trust-changed', applicationId: authority });
    return this.one(authority);
  }

  private async keep(
    certificate: Uint8Array,
    encryptedKeyPem: string | null,
    keyKind: KeyKind | null,
    actor: string,
    action: string,
  ): Promise<string> {
    return this.db.transaction(async (tx) => {
      const thumbprint = await keepCertificate(tx, certificate);
      if (!thumbprint) throw new Error('the authority’s certificate can’t be read');
      await appendAudit(tx, { actor, action, subject: thumbprint, details: { keyKept: encryptedKeyPem !== null } });
      await keepAuthority(tx, { thumbprint, keyKind, isCurrent: true });
      if (encryptedKeyPem !== null) await this.secrets.keep(tx, authorityKeyOf(thumbprint), encryptedKeyPem);
      return thumbprint;
    });
  }

  private async signer(
    thumbprint: string,
    passphrase: string,
  ): Promise<{ readonly signer: Signer; readonly certificate: Certificate; readonly kept: KeptAuthority }> {
    const kept = await findAuthority(this.db, thumbprint);
    const found = await findCertificate(this.db, thumbprint);
    if (!kept || !found) throw notFound('authority', thumbprint);
    const pem = await this.secrets.find(this.db, authorityKeyOf(thumbprint));
    if (!pem || kept.keyKind === null)
      throw conflict(
        'The key of this authority is kept elsewhere.',
        'Make a request for the application on the Authority page, have it signed there, and bring the certificate back.',
      );
    const key = openKey(pem, passphrase).export({ type: 'pkcs8', format: 'der' });
    const privateKey = await importPrivateKey(kept.keyKind, key);
    key.fill(0);
    return { signer: { kind: kept.keyKind, privateKey, certificate: found.der }, certificate: found.certificate, kept };
  }

  private async one(thumbprint: string): Promise<AuthorityView> {
    const kept = await findAuthority(this.db, thumbprint);
    const view = kept ? await authorityView(this.db, kept) : null;
    if (!view) throw notFound('authority', thumbprint);
    return view;
  }
}
