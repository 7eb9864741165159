import { createHash } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  exportKey,
  freshSerialNumber,
  issueApplicationCertificate,
  issueAuthorityCertificate,
  issueRevocationList,
  makeKeys,
} from '@loyal-hinge/core/issuing';
import type { Signer } from '@loyal-hinge/core/issuing';

const day = 86_400_000;
const pem = (label: string, der: Uint8Array): string =>
  `-----BEGIN ${label}-----\n${(
    Buffer.from(der)
      .toString('base64')
      .match(/.{1,64}/g) ?? []
  ).join('\n')}\n-----END ${label}-----\n`;

/** An authority that signs certificates for ends of tunnels, and files of them. */
export class TestAuthority {
  readonly folder = mkdtempSync(join(tmpdir(), 'tunnel-'));
  private readonly serials = new Map<string, string>();

  private constructor(private readonly signer: Signer) {}

  static async make(name = 'Authority'): Promise<TestAuthority> {
    const keys = await makeKeys('P-256');
    const wish = {
      subject: { commonName: name, organization: 'Works' },
      publicKey: await exportKey('spki', keys.publicKey),
      serialNumber: freshSerialNumber(),
      notBefore: Date.now() - day,
      notAfter: Date.now() + 30 * day,
    };
    const own = { kind: 'P-256' as const, privateKey: keys.privateKey, certificate: null };
    const certificate = await issueAuthorityCertificate({ ...wish, pathLength: 0 }, own);
    const authority = new TestAuthority({ ...own, certificate });
    writeFileSync(join(authority.folder, 'authority.pem'), pem('CERTIFICATE', certificate));
    return authority;
  }

  /** Writes a certificate and its key. @returns its fingerprint */
  async issue(name: string, from = Date.now() - day, to = Date.now() + day): Promise<string> {
    const keys = await makeKeys('P-256');
    const serialNumber = freshSerialNumber();
    const certificate = await issueApplicationCertificate(
      {
        subject: { commonName: name, organization: 'Works' },
        publicKey: await exportKey('spki', keys.publicKey),
        serialNumber,
        notBefore: from,
        notAfter: to,
        applicationUri: `urn:works:${name}`,
        hosts: [`${name}.works.example`],
      },
      this.signer,
    );
    this.serials.set(name, serialNumber);
    writeFileSync(join(this.folder, `${name}.pem`), pem('CERTIFICATE', certificate));
    writeFileSync(join(this.folder, `${name}.key`), pem('PRIVATE KEY', await exportKey('pkcs8', keys.privateKey)));
    return createHash('sha256').update(certificate).digest('hex').toUpperCase();
  }

  /** Writes what the authority has revoked. */
  async revoke(...names: readonly string[]): Promise<void> {
    const list = await issueRevocationList(
      {
        number: 1,
        thisUpdate: Date.now() - day,
        nextUpdate: Date.now() + day,
        revoked: names.map((name) => ({
          serialNumber: this.serials.get(name) ?? '',
          since: Date.now() - day,
          reason: 'unspecified' as const,
        })),
      },
      this.signer,
    );
    writeFileSync(join(this.folder, 'revocations.pem'), pem('X509 CRL', list));
  }
}
