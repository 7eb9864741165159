import { copyFile, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { OPCUACertificateManager } from 'node-opcua-certificate-manager';
import { readCertificate, readCrl, readPem } from '@loyal-hinge/core';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import type { UaIdentity } from './source.js';

/**
 * The gateway’s certificate, and whom it trusts, as its files say them now: laid out as the UA library wants it.
 * @param folder from which the paths of files are taken
 * @throws Error with a sentence for people
 */
export async function uaIdentity(
  { certificateFile, keyFile, trustedFiles, crlFiles }: GatewayConfiguration,
  folder: string,
): Promise<UaIdentity> {
  const [certificate, key] = [resolve(folder, certificateFile), resolve(folder, keyFile)];
  const own = await derOf(certificate, 'CERTIFICATE');
  const read = own[0] ? readCertificate(own[0]) : null;
  const applicationUri = read?.ok ? read.certificate.summary.applicationUris[0] : undefined;
  if (applicationUri === undefined)
    throw new Error(`${certificate} holds no certificate of an application: it must name an application URI.`);
  const pki = resolve(folder, 'pki');
  await rm(pki, { recursive: true, force: true });
  const keyFolder = join(pki, 'own', 'private');
  for (const part of [
    'own/private',
    'own/certs',
    'trusted/certs',
    'trusted/crl',
    'issuers/certs',
    'issuers/crl',
    'rejected',
  ])
    await mkdir(join(pki, part), { recursive: true, mode: 0o700 });
  await copyFile(key, join(keyFolder, 'private_key.pem'));
  for (const file of trustedFiles)
    for (const der of await derOf(resolve(folder, file), 'CERTIFICATE')) {
      const trusted = readCertificate(der);
      if (!trusted.ok) throw new Error(`${file}: ${trusted.says}`);
      const { thumbprint, isAuthority } = trusted.certificate.summary;
      for (const part of ['trusted', ...(isAuthority ? ['issuers'] : [])])
        await writeFile(join(pki, part, 'certs', `${thumbprint}.der`), der);
    }
  for (const file of crlFiles)
    for (const der of await derOf(resolve(folder, file), 'CRL')) {
      const crl = readCrl(der);
      if (!crl.ok) throw new Error(`${file}: ${crl.says}`);
      for (const part of ['trusted', 'issuers']) await writeFile(join(pki, part, 'crl', `${crl.crl.id}.crl`), der);
    }
  const trust = new OPCUACertificateManager({
    rootFolder: pki,
    automaticallyAcceptUnknownCertificate: false,
    disableFileWatchers: true,
  });
  await trust.initialize();
  return { applicationUri, certificateFile: certificate, keyFile: key, trust };
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
