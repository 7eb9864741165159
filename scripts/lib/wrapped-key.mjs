import { createCipheriv, createDecipheriv, randomBytes, scryptSync } from 'node:crypto';

/** scrypt (RFC 7914) with 128 MiB: a passphrase is guessed slowly. */
const cost = { N: 131_072, r: 8, p: 1 };
const derive = (passphrase, salt, { N, r, p }) =>
  scryptSync(passphrase.normalize('NFKC'), salt, 32, { N, r, p, maxmem: 256 * 1024 * 1024 });

/** A secret text under a passphrase (AES-256-GCM), as it goes into a backup. */
export function wrap(text, passphrase) {
  const [salt, nonce] = [randomBytes(16), randomBytes(12)];
  const cipher = createCipheriv('aes-256-gcm', derive(passphrase, salt, cost), nonce);
  const sealed = Buffer.concat([cipher.update(text, 'utf8'), cipher.final(), cipher.getAuthTag()]);
  return { ...cost, salt: salt.toString('base64'), nonce: nonce.toString('base64'), sealed: sealed.toString('base64') };
}

/** The text again; null where the passphrase is another one, or the wrapping was changed. */
export function unwrap(wrapped, passphrase) {
  try {
    const { N, r, p } = wrapped;
    if (N > 1_048_576 || r > 16 || p > 4) return null;
    const [salt, nonce, sealed] = [wrapped.salt, wrapped.nonce, wrapped.sealed].map((text) =>
      Buffer.from(text, 'base64'),
    );
    const decipher = createDecipheriv('aes-256-gcm', derive(passphrase, salt, { N, r, p }), nonce);
    decipher.setAuthTag(sealed.subarray(-16));
    return Buffer.concat([decipher.update(sealed.subarray(0, -16)), decipher.final()]).toString('utf8');
  } catch {
    return null;
  }
}
