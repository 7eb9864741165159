import { zipSync } from 'fflate';
import { commonName, readCertificate } from '../certificate.js';
import { readCrl } from '../crl.js';
import { readPem, textOf } from '../pem.js';
import { unzip } from './unzip.js';

/** What a PKI folder holds (Part 12 Annex F), by bytes. Private keys are never read and never written. */
export interface PkiFolder {
  readonly own: readonly Uint8Array[];
  readonly trusted: readonly Uint8Array[];
  readonly issuers: readonly Uint8Array[];
  readonly trustedCrls: readonly Uint8Array[];
  readonly issuerCrls: readonly Uint8Array[];
  readonly rejected: readonly Uint8Array[];
}
export type PkiList = keyof PkiFolder;

/** Folders and the lists that they make up; whatever stands before them in a path does not matter. */
const folders: Readonly<Record<string, PkiList>> = {
  'own/certs': 'own',
  'trusted/certs': 'trusted',
  'trusted/crl': 'trustedCrls',
  'issuer/certs': 'issuers',
  'issuers/certs': 'issuers',
  'issuer/crl': 'issuerCrls',
  'issuers/crl': 'issuerCrls',
  'rejected/certs': 'rejected',
};

const writtenFolders: Readonly<Record<PkiList, string>> = {
  own: 'own/certs',
  trusted: 'trusted/certs',
  trustedCrls: 'trusted/crl',
  issuers: 'issuer/certs',
  issuerCrls: 'issuer/crl',
  rejected: 'rejected/certs',
};

export const emptyFolder: PkiFolder = {
  own: [],
  trusted: [],
  issuers: [],
  trustedCrls: [],
  issuerCrls: [],
  rejected: [],
};

export type PkiFolderResult =
  | {
      readonly ok: true;
      readonly folder: PkiFolder;
      /** Lists whose folder stands in the zip, empty or with something in it that can be read. */
      readonly found: ReadonlySet<PkiList>;
      /** Files that were passed over, and why. */
      readonly passedOver: readonly { readonly path: string; readonly says: string }[];
    }
  | { readonly ok: false; readonly says: string };

/** Reads a zipped PKI folder; a rejected list alone is one, too. DER and PEM alike. */
export function readPkiFolder(zip: Uint8Array): PkiFolderResult {
  const unpacked = unzip(zip);
  if (!unpacked.ok) return unpacked;
  const lists: Record<PkiList, Uint8Array[]> = {
    own: [],
    trusted: [],
    issuers: [],
    trustedCrls: [],
    issuerCrls: [],
    rejected: [],
  };
  const found = new Set(unpacked.folders.flatMap((path) => listOf(path) ?? []));
  const filled = new Set<PkiList>();
  const passedOver: { path: string; says: string }[] = [];
  for (const { path, bytes } of unpacked.files) {
    const list = listOf(path);
    if (!list) {
      passedOver.push({ path, says: 'It is in no folder of Part 12 Annex F.' });
      continue;
    }
    found.add(list);
    filled.add(list);
    const isCrl = list === 'trustedCrls' || list === 'issuerCrls';
    const ders = dersIn(bytes);
    const read = ders.filter((der) => (isCrl ? readCrl(der).ok : readCertificate(der).ok));
    lists[list].push(...read);
    if (read.length === 0) passedOver.push({ path, says: isCrl ? 'It is no CRL.' : 'It is no certificate.' });
  }
  // A list that is full of what can’t be read is not known to be empty.
  for (const list of filled) if (lists[list].length === 0) found.delete(list);
  if (found.size === 0 && filled.size > 0)
    return { ok: false, says: 'Nothing in the lists of this zip can be read as a certificate or CRL.' };
  return found.size === 0
    ? { ok: false, says: 'The zip holds none of the folders own, trusted, issuer and rejected of Part 12 Annex F.' }
    : { ok: true, folder: lists, found, passedOver };
}

function listOf(path: string): PkiList | null {
  const parts = path.toLowerCase().split('/').slice(0, -1);
  return folders[parts.slice(-2).join('/')] ?? (parts.at(-1) === 'rejected' ? 'rejected' : null);
}

function dersIn(bytes: Uint8Array): readonly Uint8Array[] {
  if (bytes[0] === 0x30) return [bytes];
  const read = readPem(textOf(bytes));
  return read.ok ? read.blocks.map(({ der }) => der) : [];
}

/** A zip in the directory layout of Part 12 Annex F, with an empty folder where a list is empty. */
export function writePkiFolder(folder: PkiFolder, top: string, readMe: string): Uint8Array {
  const files: Record<string, Uint8Array> = { [`${top}/read-me.txt`]: new TextEncoder().encode(readMe) };
  for (const list of Object.keys(writtenFolders) as PkiList[]) {
    const place = `${top}/${writtenFolders[list]}`;
    files[`${place}/`] = new Uint8Array();
    folder[list].forEach((der) => {
      files[`${place}/${fileNameOf(der)}`] = der;
    });
  }
  return zipSync(files, { level: 6 });
}

/** The common name and the thumbprint, as Annex F.3 suggests; a CRL by its issuer and number of bytes. */
function fileNameOf(der: Uint8Array): string {
  const certificate = readCertificate(der);
  if (certificate.ok) {
    const { subject, thumbprint } = certificate.certificate;
    return `${safe(subject.text)} [${thumbprint}].der`;
  }
  const crl = readCrl(der);
  return crl.ok ? `${safe(crl.crl.issuer.text)} [${crl.crl.id.slice(0, 40)}].crl` : `unreadable-${der.length}.bin`;
}

const safe = (name: string): string =>
  commonName(name)
    .replace(/[^\p{L}\p{N} ._-]/gu, '_')
    .slice(0, 60);
