import { X509Certificate, createPrivateKey } from 'node:crypto';
import { hostname } from 'node:os';
import { join } from 'node:path';
import type { SecureContextOptions } from 'node:tls';
import { readCertificate, readPem, writePem } from '@loyal-hinge/core';
import type { Certificate } from '@loyal-hinge/core';
import { exportKey, freshSerialNumber, issueApplicationCertificate, makeKeys } from '@loyal-hinge/core/issuing';
import type { OwnCertificate, OwnCertificateView } from '@loyal-hinge/contract';
import { namesHere, requestForKey } from '@loyal-hinge/outpost';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { readIfThere, writeWhole } from '../system/files.js';
import { conflict, invalid } from '../http/problems.js';
import type { AuthoritySigning } from '../trust/authorities/signing.js';
import { StartRefusal } from '../system/start-refusal.js';

const keyKind = 'P-256';
const dayMs = 86_400_000;
const clockSlackMs = 3_600_000;
const ownDays = 397;
const commonName = 'Loyal Hinge';
/** What the trail and the authority call the product itself. */
const ownId = 'loyal-hinge';

/** A certificate that was read, with the issuers that are sent along, and its key. */
interface Kept {
  readonly chainPem: string;
  readonly keyPem: string;
  readonly certificate: Certificate;
}

/**
 * The certificate and key by which this server itself is reached over TLS. Until there is one of the plant’s authority, or one
 * that was given, it is signed by itself; its fingerprint is told where the server is started.
 */
export class OwnTls {
  private readonly listeners: ((options: SecureContextOptions) => void)[] = [];

  private constructor(
    private readonly folder: string,
    private kept: Kept,
  ) {}

  static async open(folder: string): Promise<OwnTls> {
    const [chainPem, keyPem] = await Promise.all(
      ['certificate.pem', 'private-key.pem'].map((name) => readIfThere(join(folder, name))),
    );
    if ((chainPem === null) !== (keyPem === null))
      throw new StartRefusal(`${folder} must hold certificate.pem and private-key.pem, or neither of them.`);
    if (chainPem === null || chainPem === undefined || keyPem === null || keyPem === undefined) {
      const made = new OwnTls(folder, await signedByItself());
      await made.write();
      return made;
    }
    try {
      return new OwnTls(folder, keptOf(chainPem, keyPem));
    } catch (error) {
      throw new StartRefusal(
        `The certificate in ${folder} can’t be used: ${error instanceof Error ? error.message : String(error)} Put a valid one there, or remove both files: then a new one is created.`,
      );
    }
  }

  get options(): SecureContextOptions {
    return { cert: this.kept.chainPem, key: this.kept.keyPem, minVersion: 'TLSv1.2' };
  }

  /** Called whenever there is another certificate. */
  whenChanged(listener: (options: SecureContextOptions) => void): void {
    this.listeners.push(listener);
  }

  get view(): OwnCertificateView {
    const { summary } = this.kept.certificate;
    return {
      subject: summary.subject,
      issuer: summary.issuer,
      isSelfSigned: summary.selfIssued,
      hosts: [...summary.dnsNames, ...summary.ipAddresses],
      notAfter: summary.notAfter,
      sha256: summary.sha256,
    };
  }

  /** PEM of a request (PKCS#10) for the present key, to be signed elsewhere. */
  async request(hosts: readonly string[]): Promise<string> {
    return writePem('CERTIFICATE REQUEST', await requestFor(this.kept.keyPem, hosts));
  }

  /** Takes another certificate at once: signed by an authority of the plant, or given. */
  async take(
    wish: OwnCertificate,
    { db, signing }: { readonly db: Database; readonly signing: Pick<AuthoritySigning, 'sign'> },
    actor: string,
  ): Promise<void> {
    const next = wish.by === 'authority' ? await this.signedBy(wish, signing, actor) : this.given(wish);
    const { summary } = next.certificate;
    await db.transaction((tx) =>
      appendAudit(tx, {
        actor,
        action: 'own certificate set',
        subject: ownId,
        details: { before: this.view.sha256, after: summary.sha256, by: wish.by, issuer: summary.issuer },
      }),
    );
    this.kept = next;
    await this.write();
    for (const listener of this.listeners) listener(this.options);
  }

  private async signedBy(
    { authority, passphrase, hosts, validDays }: Extract<OwnCertificate, { by: 'authority' }>,
    signing: Pick<AuthoritySigning, 'sign'>,
    actor: string,
  ): Promise<Kept> {
    const { keyPem } = this.kept;
    const request = await requestFor(keyPem, hosts);
    const signed = await signing.sign(authority, request, ownUri(), ownId, validDays, passphrase, actor);
    return keptOf([signed.certificate, signed.issuer].map((der) => writePem('CERTIFICATE', der)).join(''), keyPem);
  }

  private given({ certificatePem, privateKeyPem }: Extract<OwnCertificate, { by: 'file' }>): Kept {
    try {
      return keptOf(certificatePem, privateKeyPem ?? this.kept.keyPem);
    } catch (error) {
      const says = error instanceof Error ? error.message : String(error);
      throw invalid(says, [{ place: 'certificatePem', says }]);
    }
  }

  /** The key first: beside the old certificate it is told as not belonging to it, and nothing is served wrongly. */
  private async write(): Promise<void> {
    await writeWhole(join(this.folder, 'private-key.pem'), this.kept.keyPem);
    await writeWhole(join(this.folder, 'certificate.pem'), this.kept.chainPem);
  }
}

const ownUri = (): string => `urn:${hostname()}:LoyalHinge`;

async function signedByItself(): Promise<Kept> {
  const keys = await makeKeys(keyKind);
  const notBefore = Date.now() - clockSlackMs;
  const der = await issueApplicationCertificate(
    {
      subject: { commonName, organization: '' },
      applicationUri: ownUri(),
      hosts: namesHere(),
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      notBefore,
      notAfter: notBefore + ownDays * dayMs,
    },
    { kind: keyKind, privateKey: keys.privateKey, certificate: null },
  );
  const keyPem = writePem('PRIVATE KEY', await exportKey('pkcs8', keys.privateKey));
  return keptOf(writePem('CERTIFICATE', der), keyPem);
}

async function requestFor(keyPem: string, hosts: readonly string[]): Promise<Uint8Array> {
  const request = await requestForKey(keyPem, { commonName, applicationUri: ownUri(), hosts });
  if (!request)
    throw conflict(
      'A request is made for RSA keys and for P-256 alone, and the key that was given is another.',
      'Create the request where the key was created, and give the certificate with its key.',
    );
  return request;
}

/** @throws a sentence where they don’t belong together or can’t be used */
function keptOf(chainPem: string, keyPem: string): Kept {
  const read = readPem(chainPem);
  const blocks = read.ok ? read.blocks.filter(({ label }) => label.endsWith('CERTIFICATE')) : [];
  const certificates = blocks.map(({ der }) => readCertificate(der));
  const [first] = certificates;
  if (!first?.ok) throw new Error(first ? first.says : 'There is no certificate in it.');
  const key = createPrivateKeyIn(keyPem);
  if (!new X509Certificate(Buffer.from(first.certificate.der)).checkPrivateKey(key))
    throw new Error('The certificate was not made for this private key.');
  if (first.certificate.notAfter < Date.now()) throw new Error('The certificate has expired.');
  const whole = certificates.flatMap((one) => (one.ok ? [writePem('CERTIFICATE', one.certificate.der)] : [])).join('');
  return {
    chainPem: whole,
    keyPem: String(key.export({ format: 'pem', type: 'pkcs8' })),
    certificate: first.certificate,
  };
}

function createPrivateKeyIn(pem: string) {
  try {
    return createPrivateKey(pem);
  } catch {
    throw new Error('The private key can’t be read: it must be PEM without a passphrase.');
  }
}
