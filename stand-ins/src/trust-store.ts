import { createHash } from 'node:crypto';
import { mkdir, readFile, readdir, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { readPem, writePem } from '@loyal-hinge/core';

/** The lists of a stand-in, by bytes (Part 12 §7.8.2.1). */
export interface StoredLists {
  readonly trustedCertificates: readonly Uint8Array[];
  readonly trustedCrls: readonly Uint8Array[];
  readonly issuerCertificates: readonly Uint8Array[];
  readonly issuerCrls: readonly Uint8Array[];
}
export type StoredList = keyof StoredLists;
export const storedLists: readonly StoredList[] = [
  'trustedCertificates',
  'trustedCrls',
  'issuerCertificates',
  'issuerCrls',
];

const folders: Readonly<Record<StoredList | 'rejected', string>> = {
  trustedCertificates: 'trusted/certs',
  trustedCrls: 'trusted/crl',
  issuerCertificates: 'issuers/certs',
  issuerCrls: 'issuers/crl',
  rejected: 'rejected',
};

/** Trust list and rejected list of a stand-in as files, in the folders that its UA library reads. */
export class TrustStore {
  constructor(private readonly folder: string) {}

  async read(): Promise<StoredLists> {
    const [trustedCertificates, trustedCrls, issuerCertificates, issuerCrls] = await Promise.all([
      this.list('trustedCertificates'),
      this.list('trustedCrls'),
      this.list('issuerCertificates'),
      this.list('issuerCrls'),
    ]);
    return { trustedCertificates, trustedCrls, issuerCertificates, issuerCrls };
  }

  rejected(): Promise<readonly Uint8Array[]> {
    return this.list('rejected');
  }

  /** Replaces the named lists; what is trusted from then on no longer lies set aside. */
  async write(lists: Partial<StoredLists>): Promise<void> {
    for (const list of storedLists) {
      const wanted = lists[list];
      if (wanted) await this.replace(list, wanted);
    }
    const trusted = new Set((lists.trustedCertificates ?? []).map(nameOf));
    for (const { file, der } of await this.files('rejected'))
      if (trusted.has(nameOf(der))) await rm(file, { force: true });
  }

  /** Puts the time back at which a certificate came to lie in a list. */
  async date(list: StoredList, der: Uint8Array, since: Date): Promise<void> {
    for (const { file, der: found } of await this.files(list))
      if (nameOf(found) === nameOf(der)) await utimes(file, since, since);
  }

  private async list(list: StoredList | 'rejected'): Promise<readonly Uint8Array[]> {
    return (await this.files(list)).map(({ der }) => der);
  }

  /** Newest first. */
  private async files(
    list: StoredList | 'rejected',
  ): Promise<readonly { file: string; der: Uint8Array; at: number }[]> {
    const folder = join(this.folder, folders[list]);
    const names = await readdir(folder).catch(() => []);
    const found = await Promise.all(
      names.map(async (name) => {
        const file = join(folder, name);
        const [der, { mtimeMs }] = await Promise.all([derIn(file), stat(file)]);
        return der ? [{ file, der, at: mtimeMs }] : [];
      }),
    );
    return found.flat().sort((left, right) => right.at - left.at);
  }

  private async replace(list: StoredList, wanted: readonly Uint8Array[]): Promise<void> {
    const folder = join(this.folder, folders[list]);
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const kept = new Set(wanted.map(nameOf));
    const there = new Set<string>();
    for (const { file, der } of await this.files(list))
      if (kept.has(nameOf(der))) there.add(nameOf(der));
      else await rm(file, { force: true });
    const label = list.endsWith('Crls') ? 'X509 CRL' : 'CERTIFICATE';
    for (const der of wanted)
      if (!there.has(nameOf(der))) await writeFile(join(folder, `${nameOf(der)}.pem`), writePem(label, der));
  }
}

const nameOf = (der: Uint8Array): string => createHash('sha1').update(der).digest('hex');

async function derIn(file: string): Promise<Uint8Array | null> {
  const bytes = await readFile(file).catch(() => null);
  if (!bytes) return null;
  if (bytes[0] === 0x30) return Uint8Array.from(bytes);
  const read = readPem(bytes.toString('latin1'));
  return (read.ok ? read.blocks[0]?.der : null) ?? null;
}
