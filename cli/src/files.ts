import { readFileSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { readPem, readPkcs7 } from '@loyal-hinge/core';
import { CannotRun, messageOf } from './cannot-run.js';

const mostBytes = 8 * 1024 * 1024;

/** The bytes of a file. */
export function readBytes(path: string): Uint8Array {
  try {
    const { size } = statSync(path);
    if (size > mostBytes) throw new CannotRun(`${path} is larger than 8 MB: that is no certificate or CRL.`);
    return readFileSync(path);
  } catch (error) {
    if (error instanceof CannotRun) throw error;
    throw new CannotRun(`${path} can’t be read: ${messageOf(error)}.`);
  }
}

/** The DER blocks of one kind in a file: of PEM all with that label, of DER the file itself, of a PKCS#7 bundle its parts. */
export function derBlocks(bytes: Uint8Array, label: 'CERTIFICATE' | 'X509 CRL'): readonly Uint8Array[] {
  const text = new TextDecoder('latin1').decode(bytes);
  if (!text.includes('-----BEGIN ')) return inBundle(bytes, label) ?? [bytes];
  const read = readPem(text);
  if (!read.ok) return [];
  return read.blocks.flatMap((block) => {
    if (block.label === label) return [block.der];
    return block.label === 'PKCS7' ? (inBundle(block.der, label) ?? []) : [];
  });
}

function inBundle(der: Uint8Array, label: 'CERTIFICATE' | 'X509 CRL'): readonly Uint8Array[] | null {
  const bundle = readPkcs7(der);
  return bundle.ok ? (label === 'CERTIFICATE' ? bundle.certificates : bundle.crls).map((part) => part.der) : null;
}

/**
 * All files of a folder, or of its subfolder for this kind where the folder is laid out as Part 12 Annex F says
 * (`certs`, `crl`); no folder at all gives none.
 */
export function derInFolder(folder: string | null, label: 'CERTIFICATE' | 'X509 CRL'): readonly Uint8Array[] {
  if (folder === null) return [];
  const inside = filesOf(join(folder, label === 'CERTIFICATE' ? 'certs' : 'crl'));
  const files = inside ?? filesOf(folder);
  if (!files) throw new CannotRun(`${folder} is not a folder that can be read.`);
  return files.flatMap((path) => derBlocks(readBytes(path), label));
}

function filesOf(folder: string): readonly string[] | null {
  try {
    return readdirSync(folder)
      .sort()
      .map((name) => join(folder, name))
      .filter((path) => statSync(path).isFile());
  } catch {
    return null;
  }
}
