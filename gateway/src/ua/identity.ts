import { copyFile, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { OPCUACertificateManager } from 'node-opcua-certificate-manager';
import { readCertificate, readCrl, readPem } from '@loyal-hinge/core';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import type { UaIdentity } from './source.js';

type Files = Pick<GatewayConfiguration, 'certificateFile' | 'keyFile' | 'trustedFiles' | 'issuerFiles' | 'crlFiles'>;

/** Who was refused before is looked at anew: `rejected` is emptied with the lists. */
const lists = ['trusted/certs', 'trusted/crl', 'issuers/certs', 'issuers/crl', 'rejected'] as const;

/**
 * The gateway’s certificate, and whom it trusts, as its files say them now: laid out as the UA library wants it.
 * @param folder from which the paths of files are taken
 * @throws Error with a sentence for people
 */
export async function uaIdentity(files: Files, folder: string): Promise<UaIdentity> {
  const [certificate, key] = [resolve(folder, files.certificateFile), resolve(folder, files.keyFile)];
  const own = await derOf(certificate, 'CERTIFICATE');
  const read = own[0] ? readCertificate(own[0]) : null;
  const applicationUri = read?.ok ? read.certificate.summary.applicationUris[0] : undefined;
  if (applicationUri === undefined)
    throw new Error(`${certificate} holds no certificate of an application: it must name an application URI.`);
  const pki = resolve(folder, 'pki');
  await rm(pki, { recursive: true, force: true });
  const keyFolder = join(pki, 'own', 'private');
  for (const part of ['own/private', 'own/certs']) await mkdir(join(pki, part), { recursive: true, mode: 0o700 });
  await copyFile(key, join(keyFolder, 'private_key.pem'));
  await layLists(files, folder, pki);
  const trust = new OPCUACertificateManager({
    rootFolder: pki,
    automaticallyAcceptUnknownCertificate: false,
    disableFileWatchers: true,
  });
  await trust.initialize();
  return { applicationUri, certificateFile: certificate, keyFile: key, trust };
}

/** Trusts whom its files say now, from the next connection on. @throws Error with a sentence for people; then nothing has changed */
export async function trustAnew({ trust }: UaIdentity, files: Files, folder: string): Promise<void> {
  await layLists(files, folder, resolve(folder, 'pki'));
  await trust.reloadCertificates();
}

/** All that is to be trusted is read before anything is written. */
async function layLists({ trustedFiles, issuerFiles, crlFiles }: Files, folder: string, pki: string): Promise<void> {
  const laid: { readonly list: (typeof lists)[number]; readonly name: string; readonly der: Uint8Array }[] = [];
  for (const [list, files] of [
    ['trusted/certs', trustedFiles],
    ['issuers/certs', issuerFiles],
  ] as const)
    for (const file of files)
      for (const der of await derOf(resolve(folder, file), 'CERTIFICATE')) {
        const read = readCertificate(der);
        if (!read.ok) throw new Error(`${file}: ${read.says}`);
        const { thumbprint, isAuthority } = read.certificate.summary;
        laid.push({ list, name: `${thumbprint}.der`, der });
        if (isAuthority) laid.push({ list: 'issuers/certs', name: `${thumbprint}.der`, der });
      }
  for (const file of crlFiles)
    for (const der of await derOf(resolve(folder, file), 'CRL')) {
      const crl = readCrl(der);
      if (!crl.ok) throw new Error(`${file}: ${crl.says}`);
      for (const list of ['trusted/crl', 'issuers/crl'] as const) laid.push({ list, name: `${crl.crl.id}.crl`, der });
    }
  for (const list of lists) {
    await rm(join(pki, list), { recursive: true, force: true });
    await mkdir(join(pki, list), { recursive: true, mode: 0o700 });
  }
  for (const { list, name, der } of laid) await writeFile(join(pki, list, name), der);
}

/** What a file holds, in PEM or in DER. */
async function derOf(file: string, ending: string): Promise<readonly Uint8Array[]> {
  const bytes = await readFile(file).catch(() => {
    throw new Error(`${file} can’t be read.`);
  });
  if (!bytes.subarray(0, 200).includes('-----BEGIN')) return [new Uint8Array(bytes)];
  const read = readPem(bytes.toString('utf8'));
  if (!read.ok) throw new Error(`${file}, line ${read.fault.line}: ${read.fault.says}.`);
  return read.blocks.filter(({ label }) => label.endsWith(ending)).map(({ der }) => der);
}
