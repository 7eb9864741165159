import { createPrivateKey } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { readCertificate } from '@loyal-hinge/core';
import { issueRevocationList } from '@loyal-hinge/core/issuing';
import { dayMs, derIn, keptOrMade, makeApplication, makeAuthority, makeUser, signerOf } from './certificates.js';
import type { KeyAndCertificate } from './certificates.js';
import {
  applicationUriOf,
  formerApplications,
  hostsOfClient,
  signedByAuthority,
  standInClients,
  standInServers,
  userCertificates,
} from './marrowby/index.js';
import type { ListedId } from './marrowby/index.js';

export const authorityName = 'Marrowby Glass Works Authority';

/** All keys, certificates and CRLs of Marrowby Glass; made once, and kept in the folder. */
export interface PlantCertificates {
  of(applicationId: string): KeyAndCertificate;
  /** The certificates of users, by their names. */
  readonly users: ReadonlyMap<string, KeyAndCertificate>;
  /** DER of whatever may lie in a list from the start. */
  listed(id: ListedId): Uint8Array;
  readonly authority: KeyAndCertificate;
  /** The authority’s CRLs: the first one is still in force and names nobody; the current one names the lost tablet. */
  readonly crls: { readonly first: Uint8Array; readonly current: Uint8Array; readonly former: Uint8Array };
  readonly revoked: readonly {
    readonly applicationId: string;
    readonly serialNumber: string;
    readonly sinceMs: number;
  }[];
}

export async function plantCertificates(folder: string): Promise<PlantCertificates> {
  const [authority, former] = await Promise.all([
    keptOrMade(join(folder, 'authority'), () => makeAuthority(authorityName, -300, 3350)),
    keptOrMade(join(folder, 'former-authority'), () => makeAuthority(authorityName, -3600, 50)),
  ]);
  const applications = await applicationsBelow(folder, authority);
  const of = (id: string): KeyAndCertificate => {
    const found = applications.get(id);
    if (!found) throw new Error(`no certificate was made for ${id}`);
    return found;
  };
  const users = new Map(
    await Promise.all(
      userCertificates.map(
        async (name) => [name, await keptOrMade(join(folder, 'users', name), () => makeUser(name, -90, 900))] as const,
      ),
    ),
  );
  const tablet = {
    applicationId: 'lost-tablet-client',
    serialNumber: serialOf(of('lost-tablet-client')),
    sinceMs: -30 * dayMs,
  };
  const revoked = [tablet];
  const crls = await keptCrls(folder, authority, former, revoked);
  const authorities: Readonly<Record<string, KeyAndCertificate>> = {
    'works-authority': authority,
    'former-authority': former,
  };
  return { of, users, listed: (id) => derIn((authorities[id] ?? of(id)).certificatePem), authority, crls, revoked };
}

async function applicationsBelow(
  folder: string,
  authority: KeyAndCertificate,
): Promise<ReadonlyMap<string, KeyAndCertificate>> {
  const wishes = [
    ...standInServers.map((standIn) => ({ id: standIn.id, commonName: standIn.name, ...standIn.certificate })),
    ...standInClients.map(({ id, name, machineId }) => ({
      id,
      commonName: name,
      hosts: hostsOfClient(machineId),
      fromDay: -120,
      toDay: 1200,
    })),
    ...formerApplications,
  ];
  const spare = await spareKeys();
  const made = await Promise.all(
    wishes.map(async ({ id, ...wish }, index) => {
      const signer = signedByAuthority.includes(id) ? authority : null;
      const application = await keptOrMade(join(folder, 'own', id), () =>
        makeApplication({ ...wish, applicationUri: applicationUriOf(id) }, signer, spare[index]),
      );
      return [id, application] as const;
    }),
  );
  return new Map(made);
}

/** Keys that were made before, one after the other in PEM: plants that are thrown away can share them. */
async function spareKeys(): Promise<readonly string[]> {
  const file = process.env['HINGE_PLANT_KEYS'];
  return file ? (await readFile(file, 'utf8')).split(/(?=-----BEGIN)/) : [];
}

async function keptCrls(
  folder: string,
  authority: KeyAndCertificate,
  former: KeyAndCertificate,
  revoked: PlantCertificates['revoked'],
): Promise<PlantCertificates['crls']> {
  const issue = async (
    name: string,
    by: KeyAndCertificate,
    number: number,
    fromDay: number,
    toDay: number,
    names: boolean,
  ) => {
    const file = join(folder, 'crls', `${name}.crl`);
    const known = await readFile(file).catch(() => null);
    if (known) return Uint8Array.from(known);
    const der = await issueRevocationList(
      {
        number,
        thisUpdate: Date.now() + fromDay * dayMs,
        nextUpdate: Date.now() + toDay * dayMs,
        revoked: names
          ? revoked.map(({ serialNumber, sinceMs }) => ({
              serialNumber,
              since: Date.now() + sinceMs,
              reason: 'cessationOfOperation' as const,
            }))
          : [],
      },
      await signerOf(by),
    );
    await mkdir(dirname(file), { recursive: true, mode: 0o700 });
    await writeFile(file, der);
    return der;
  };
  const [first, current, old] = await Promise.all([
    issue('first', authority, 1, -200, 165, false),
    issue('current', authority, 2, -29, 336, true),
    issue('former', former, 9, -100, 49, false),
  ]);
  return { first, current, former: old };
}

function serialOf({ certificatePem }: KeyAndCertificate): string {
  const read = readCertificate(derIn(certificatePem));
  if (!read.ok) throw new Error(read.says);
  return read.certificate.serialNumber;
}

/** A private key as its owner would keep it: PKCS#8, encrypted with a passphrase. */
export const encryptedKeyPem = (privateKeyPem: string, passphrase: string): string =>
  createPrivateKey(privateKeyPem)
    .export({ type: 'pkcs8', format: 'pem', cipher: 'aes-256-cbc', passphrase })
    .toString();
