import { closeSync, openSync, readFileSync, readdirSync, readSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { readPem, readPkcs7, textOf } from '@loyal-hinge/core';
import { CannotRun, messageOf } from './cannot-run.js';

const mostBytes = 8 * 1024 * 1024;

/** The bytes of a file. */
export const readBytes = (path: string): Uint8Array =>
  bytesUpTo(path, mostBytes, 'is larger than 8 MB: that is no certificate or CRL.');

const mostTextBytes = 64 * 1024 * 1024;

/** The text of a file of cases, in UTF-8. */
export const readText = (path: string): string =>
  bytesUpTo(path, mostTextBytes, 'is larger than 64 MB: take it apart into several.')
    .toString('utf8')
    .replace(/^\ufeff/, '');

const mostExportBytes = 128 * 1024 * 1024;

/** The bytes of an export of a registry. */
export const readExport = (path: string): Uint8Array =>
  bytesUpTo(path, mostExportBytes, 'is larger than 128 MB: export the keys that matter alone.');

function bytesUpTo(path: string, most: number, says: string): Buffer {
  try {
    const { size } = statSync(path);
    if (size > most) throw new CannotRun(`${path} ${says}`);
    return readFileSync(path);
  } catch (error) {
    if (error instanceof CannotRun) throw error;
    throw new CannotRun(`${path} can’t be read: ${messageOf(error)}.`);
  }
}

/** What fits into a processor’s own memory is read and looked at fastest. */
const partBytes = 1 << 18;

/** Reads a file of any size, part by part; the bytes of a part are only there during the call. */
export function readInParts(path: string, take: (part: Uint8Array) => void): void {
  const part = new Uint8Array(partBytes);
  const reading = <Value>(read: () => Value): Value => {
    try {
      return read();
    } catch (error) {
      throw new CannotRun(`${path} can’t be read: ${messageOf(error)}.`);
    }
  };
  const file = reading(() => openSync(path, 'r'));
  try {
    for (;;) {
      const count = reading(() => readSync(file, part, 0, part.length, null));
      if (count === 0) return;
      take(part.subarray(0, count));
    }
  } finally {
    closeSync(file);
  }
}

/** Told of what is passed over, and why. */
export type Tell = (says: string) => void;

/**
 * The DER blocks of one kind in a file: of PEM all with that label, of DER the file itself, of a PKCS#7 bundle its parts.
 * PEM blocks that are cut off or no Base64 are told.
 */
export function derBlocks(path: string, label: 'CERTIFICATE' | 'X509 CRL', tell: Tell): readonly Uint8Array[] {
  const bytes = readBytes(path);
  const text = textOf(bytes);
  if (!text.includes('-----BEGIN ')) return inBundle(bytes, label) ?? [bytes];
  const read = readPem(text);
  for (const { line, says } of read.ok ? read.passedOver : [read.fault])
    tell(`${path}, line ${line}: ${says}. This block was skipped.`);
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
 * (`certs`, `crl`); no folder at all gives none. A file that can’t be read is told, and ends nothing.
 */
export function derInFolder(
  folder: string | null,
  label: 'CERTIFICATE' | 'X509 CRL',
  tell: Tell,
): readonly Uint8Array[] {
  if (folder === null) return [];
  const inside = namesIn(join(folder, label === 'CERTIFICATE' ? 'certs' : 'crl'));
  const files = inside ?? namesIn(folder);
  if (!files) throw new CannotRun(`${folder} is not a folder that can be read.`);
  return files.flatMap((path) => {
    try {
      return isFolder(path) ? [] : derBlocks(path, label, tell);
    } catch (error) {
      tell(`${messageOf(error)} It was skipped.`);
      return [];
    }
  });
}

function namesIn(folder: string): readonly string[] | null {
  try {
    return readdirSync(folder)
      .sort()
      .map((name) => join(folder, name));
  } catch {
    return null;
  }
}

/** A link that leads nowhere is no folder: reading it says so. */
const isFolder = (path: string): boolean => statSync(path, { throwIfNoEntry: false })?.isDirectory() ?? false;
