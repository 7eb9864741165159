import { X509Certificate, createPrivateKey } from 'node:crypto';
import type { KeyObject, webcrypto } from 'node:crypto';
import {
  exportKey,
  freshSerialNumber,
  issueAuthorityCertificate,
  makeKeys,
  renewAuthorityCertificate,
} from '@loyal-hinge/core/issuing';
import type { KeyKind } from '@loyal-hinge/core/issuing';
import type { AuthorityView, CreateAuthority, ImportAuthority, RenewAuthority } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import type { SecretStore } from '../../secrets/sealing.js';
import type { Runs } from '../../heavy/jobs.js';
import { conflict, invalid } from '../../http/problems.js';
import { keepCertificate } from '../../certificates/store.js';
import { certificateIn, clockSlackMs, dayMs, kindOf, openKey } from './given.js';
import type { AuthoritySigning } from './signing.js';
import { authorityKeyOf, keepAuthority } from './store.js';
import type { AuthorityJobs } from './jobs.js';

/** The plant’s authorities: made, taken over, renewed. Their keys lie here encrypted with a passphrase that is never kept. */
export class Authorities {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly heavy: Runs<AuthorityJobs>,
    private readonly signing: Pick<AuthoritySigning, 'open' | 'issueCrl'>,
  ) {}

  all(): Promise<AuthorityView[]> {
    return this.heavy.run('authorities', undefined);
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
    const encrypted = encryptedPem(await keyObjectOf(keys.privateKey), wish.passphrase);
    const thumbprint = await this.keep(certificate, encrypted, wish.keyKind, actor, 'authority made');
    await this.signing.issueCrl(thumbprint, wish.passphrase, actor);
    return this.heavy.run('authority', { thumbprint });
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
    return this.heavy.run('authority', { thumbprint });
  }

  /**
   * Makes the certificate that takes the place of an authority’s own: the same name, with its key or a new one. From then
   * on plans reckon with it; the one before stays trusted and goes on to issue CRLs until everything has moved over.
   */
  async renew(before: string, wish: RenewAuthority, actor: string): Promise<AuthorityView> {
    const { signer, certificate, kept } = await this.signing.open(before, wish.passphrase);
    if (!kept.isCurrent) throw conflict('This authority was replaced already.', 'Renew the one that plans use now.');
    if (!certificate.isSelfIssued)
      throw conflict(
        `This authority was signed by ${certificate.issuer.text}.`,
        'Have a new certificate signed for it there, and import that.',
      );
    const fresh = wish.newKey === null ? null : await makeKeys(wish.newKey);
    const keyKind = wish.newKey ?? kept.keyKind;
    const privateKey = fresh?.privateKey ?? signer.privateKey;
    const notBefore = Date.now() - clockSlackMs;
    const renewed = await renewAuthorityCertificate(
      signer.certificate,
      {
        publicKey: fresh ? await exportKey('spki', fresh.publicKey) : certificate.publicKey.info,
        serialNumber: freshSerialNumber(),
        notBefore,
        notAfter: notBefore + wish.validDays * dayMs,
      },
      { kind: keyKind, privateKey },
    );
    const passphrase = wish.newPassphrase ?? wish.passphrase;
    const encrypted = encryptedPem(await keyObjectOf(privateKey), passphrase);
    const thumbprint = await this.keep(renewed, encrypted, keyKind, actor, 'authority renewed', { before });
    await this.signing.issueCrl(thumbprint, passphrase, actor);
    return this.heavy.run('authority', { thumbprint });
  }

  private async keep(
    certificate: Uint8Array,
    encryptedKeyPem: string | null,
    keyKind: KeyKind | null,
    actor: string,
    action: string,
    more: Readonly<Record<string, string>> = {},
  ): Promise<string> {
    return this.db.transaction(async (tx) => {
      const thumbprint = await keepCertificate(tx, certificate);
      if (!thumbprint) throw new Error('the authority’s certificate can’t be read');
      await appendAudit(tx, {
        actor,
        action,
        subject: thumbprint,
        details: { keyKept: encryptedKeyPem !== null, ...more },
      });
      await keepAuthority(tx, { thumbprint, keyKind, isCurrent: true });
      if (encryptedKeyPem !== null) await this.secrets.keep(tx, authorityKeyOf(thumbprint), encryptedKeyPem, null);
      return thumbprint;
    });
  }
}

const keyObjectOf = async (key: webcrypto.CryptoKey): Promise<KeyObject> =>
  createPrivateKey({ key: Buffer.from(await exportKey('pkcs8', key)), format: 'der', type: 'pkcs8' });

const encryptedPem = (key: KeyObject, passphrase: string): string =>
  key.export({ type: 'pkcs8', format: 'pem', cipher: 'aes-256-cbc', passphrase }).toString();
