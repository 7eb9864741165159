import {
  certificateName,
  commonName,
  counted,
  decodeBase64,
  listed,
  readCertificate,
  readCrl,
  readPem,
  textOf,
  readPkcs7,
  speaksOfAll,
  writePem,
} from '@loyal-hinge/core';
import type { Application, Certificate, Crl, PemResult } from '@loyal-hinge/core';
import { readPkiFolder } from '@loyal-hinge/core/bundles';
import { readSigningRequest } from '@loyal-hinge/core/issuing';
import type { RecognisedFile } from '@loyal-hinge/contract';
import type { Database } from '../../database/database.js';
import { readPlant } from '../../plant/store.js';
import { keepCrl } from '../../certificates/crls.js';
import { nodeVerifier } from '../../certificates/node-signatures.js';
import { allCertificates, keepCertificate } from '../../certificates/store.js';

/** Says what dropped files are. Certificates and CRLs in them are kept, so that they can be used; keys are not. */
export async function recognise(
  db: Database,
  files: readonly { readonly name: string; readonly base64: string }[],
): Promise<RecognisedFile[]> {
  const { applications } = await readPlant(db, []);
  const found = await Promise.all(
    files.map(({ name, base64 }) => inFile(db, name, decodeBase64(base64) ?? new Uint8Array(), applications)),
  );
  return found.flat();
}

const nothing = { certificates: [], crlId: null, applicationId: null, requestPem: null };

/** What a file holds: its certificates together, and each other block, readable or not, for itself. */
async function inFile(
  db: Database,
  name: string,
  bytes: Uint8Array,
  applications: readonly Application[],
): Promise<RecognisedFile[]> {
  const unknown = (says: string): RecognisedFile => ({ name, kind: 'unknown', says, ...nothing });
  if (bytes.length === 0) return [unknown('The file is empty.')];
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) return [folderIn(name, bytes, applications)];
  const read = blocksIn(bytes);
  if (typeof read === 'string') return [unknown(read)];
  if (read.blocks.some(({ label }) => label.endsWith('PRIVATE KEY')))
    return [
      {
        name,
        kind: 'private-key',
        says: 'A private key. It was not stored: give it to a client on the Settings page, together with its certificate.',
        ...nothing,
      },
    ];
  const parts = read.blocks.map(({ der }) => ({ der, certificates: certificatesOf(der) }));
  const certificates = parts.flatMap((part) => part.certificates);
  const others = parts.filter((part) => part.certificates.length === 0);
  const found = [
    ...(certificates.length > 0 ? [await keptCertificates(db, name, certificates, applications)] : []),
    ...(await Promise.all(others.map(({ der }) => single(db, name, der, applications)))),
    ...read.passedOver.map(({ line, says }) => unknown(`Line ${line}: ${says}. This block was skipped.`)),
  ];
  return found.length > 0 ? found : [unknown('There is no block in this text.')];
}

async function keptCertificates(
  db: Database,
  name: string,
  certificates: readonly Certificate[],
  applications: readonly Application[],
): Promise<RecognisedFile> {
  for (const { der } of certificates) await keepCertificate(db, der);
  return {
    name,
    kind: 'certificates',
    says: `${counted(certificates.length, 'certificate')}: ${listed(certificates.map(({ subject }) => commonName(subject.text)))}.`,
    ...nothing,
    certificates: certificates.map((certificate) => ({
      thumbprint: certificate.thumbprint,
      name: certificateName(certificate),
      isAuthority: certificate.isAuthority,
      shownBy: ownerOf(certificate, applications)?.name ?? null,
    })),
  };
}

async function single(
  db: Database,
  name: string,
  der: Uint8Array,
  applications: readonly Application[],
): Promise<RecognisedFile> {
  const crl = readCrl(der);
  if (crl.ok) {
    const { issuer, count, nextUpdate, unusable } = crl.crl;
    const end =
      nextUpdate === null ? 'without a next update' : `next update ${new Date(nextUpdate).toISOString().slice(0, 10)}`;
    return {
      name,
      kind: 'crl',
      says: `A CRL of ${commonName(issuer.text)}, ${counted(count, 'certificate')} revoked, ${end}.${unusable === null ? '' : ` ${unusable}`}${partOf(crl.crl)}${await signerFault(db, crl.crl)}`,
      ...nothing,
      crlId: await keepCrl(db, der),
    };
  }
  const request = await readSigningRequest(der);
  if (request.ok) {
    const { subject, applicationUris } = request.request;
    const application = applications.find(({ applicationUri }) => applicationUris.includes(applicationUri));
    return {
      name,
      kind: 'request',
      says: `A certificate request of ${subject.commonName} for ${applicationUris.join(', ') || 'no application URI'}.`,
      ...nothing,
      applicationId: application?.id ?? null,
      requestPem: writePem('CERTIFICATE REQUEST', der),
    };
  }
  // PKCS#12 (RFC 7292 §4): a SEQUENCE that begins with the version 3.
  if (/^30(8[1-4](..){1,4}|[0-7].)020103/.test(Buffer.from(der.subarray(0, 12)).toString('hex')))
    return {
      name,
      kind: 'pkcs12',
      says: 'A PKCS#12 file: a certificate with its private key, behind a passphrase. It was not stored; with its passphrase it can be given to a client.',
      ...nothing,
    };
  const read = readCertificate(der);
  return { name, kind: 'unknown', says: read.ok ? 'Not known here.' : read.says, ...nothing };
}

/** Why a CRL says nothing to anybody here: another issuer’s, or signed by somebody else. Empty where it does. */
async function signerFault(db: Database, crl: Crl): Promise<string> {
  const named = (await allCertificates(db)).filter((one) => one.isAuthority && one.subject.equals(crl.issuer));
  if (named.length === 0) return ' No authority of that name is known in the plant: bring its certificate first.';
  for (const authority of named) if (await nodeVerifier(authority.publicKey, crl)) return '';
  return ' None of the authorities of that name that are known here has signed it: nobody will accept it.';
}

function folderIn(name: string, bytes: Uint8Array, applications: readonly Application[]): RecognisedFile {
  const read = readPkiFolder(bytes);
  if (!read.ok) return { name, kind: 'unknown', says: read.says, ...nothing };
  const [own] = read.folder.own.flatMap(certificatesOf);
  const { trusted, issuers, rejected } = read.folder;
  const crls = read.folder.trustedCrls.length + read.folder.issuerCrls.length;
  return {
    name,
    kind: 'pki-folder',
    says: `A PKI folder${own ? ` of ${commonName(own.subject.text)}` : ''}: ${listed([`${trusted.length} trusted`, counted(issuers.length, 'issuer'), counted(crls, 'CRL'), `${rejected.length} set aside`])}.`,
    ...nothing,
    applicationId: (own ? ownerOf(own, applications)?.id : null) ?? null,
  };
}

function blocksIn(bytes: Uint8Array): Pick<Extract<PemResult, { ok: true }>, 'blocks' | 'passedOver'> | string {
  if (bytes[0] === 0x30) return { blocks: [{ label: 'DER', der: bytes }], passedOver: [] };
  const text = textOf(bytes);
  if (!text.includes('-----BEGIN')) return 'This is neither DER nor PEM nor a zip.';
  const read = readPem(text);
  return read.ok ? read : `Line ${read.fault.line}: ${read.fault.says}.`;
}

/** The certificate that some bytes are, or those of a PKCS#7 bundle. */
function certificatesOf(der: Uint8Array): readonly Certificate[] {
  const read = readCertificate(der);
  if (read.ok) return [read.certificate];
  const bundle = readPkcs7(der);
  return bundle.ok ? bundle.certificates : [];
}

const ownerOf = (certificate: Certificate, applications: readonly Application[]): Application | undefined =>
  applications.find(({ applicationUri }) => certificate.summary.applicationUris.includes(applicationUri));

/** Said of a CRL that doesn’t speak of everything. */
function partOf(crl: Crl): string {
  if (speaksOfAll(crl) || crl.unusable !== null) return '';
  return crl.deltaOf === null
    ? ' It speaks of some certificates or reasons alone: others are needed beside it.'
    : ' It tells only what has changed since another one, which is needed beside it.';
}
