import type { PublicKey } from '../x509/algorithms.js';
import type { Signed, SignatureVerifier } from '../x509/signatures.js';
import type { Eventually } from './eventually.js';

/** Verifies each pair of a key and what it may have signed once, for as long as it lives. */
export class KnownSignatures {
  private readonly known = new Map<PublicKey, Map<Signed, Eventually<boolean>>>();

  constructor(private readonly verifier: SignatureVerifier) {}

  isSignedWith(signed: Signed, key: PublicKey): Eventually<boolean> {
    let byKey = this.known.get(key);
    if (!byKey) this.known.set(key, (byKey = new Map()));
    const known = byKey.get(signed);
    if (known !== undefined) return known;
    const verified = this.verifier(key, signed);
    byKey.set(signed, verified);
    return verified;
  }
}
