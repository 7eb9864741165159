import { EventEmitter } from 'node:events';
import type { ICertificateStore } from 'node-opcua-common';
import { StatusCodes } from 'node-opcua-status-code';
import type { StatusCode } from 'node-opcua-status-code';

/**
 * Accepts exactly one server certificate: the one that our own validation let through in the step before.
 * Whatever else shows up on the line is untrusted. Nothing is written anywhere.
 */
export class PinnedCertificate extends EventEmitter implements ICertificateStore {
  referenceCounter = 0;

  constructor(private readonly pinned: Uint8Array | null) {
    super();
  }

  initialize(): Promise<void> {
    return Promise.resolve();
  }

  dispose(): Promise<void> {
    return Promise.resolve();
  }

  checkCertificate(certificate: Buffer | Buffer[]): Promise<StatusCode> {
    return Promise.resolve(this.isPinned(certificate) ? StatusCodes.Good : StatusCodes.BadCertificateUntrusted);
  }

  verifyCertificate(certificate: Buffer | Buffer[]): Promise<string> {
    return Promise.resolve(this.isPinned(certificate) ? 'Good' : 'BadCertificateUntrusted');
  }

  getTrustStatus(certificate: Buffer): Promise<StatusCode> {
    return this.checkCertificate(certificate);
  }

  trustCertificate(): Promise<void> {
    return refused();
  }

  rejectCertificate(): Promise<void> {
    return refused();
  }

  addIssuer(): Promise<unknown> {
    return refused();
  }

  addRevocationList(): Promise<unknown> {
    return refused();
  }

  private isPinned(certificate: Buffer | Buffer[]): boolean {
    const leaf = Array.isArray(certificate) ? certificate[0] : certificate;
    return this.pinned !== null && leaf !== undefined && leaf.equals(this.pinned);
  }
}

const refused = (): Promise<never> => Promise.reject(new Error('a pinned certificate can’t be changed'));
