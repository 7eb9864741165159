import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type * as z from 'zod';
import { writePem } from '@loyal-hinge/core';
import { exportKey, makeKeys } from '@loyal-hinge/core/issuing';
import { outpostUri, ticket } from '@loyal-hinge/contract/line';
import type { Ticket } from '@loyal-hinge/contract/line';
import { namesHere, requestForKey } from './own-request.js';

const keyKind = 'P-256';

/** Where the server is, as an outpost remembers it: its ticket without the secret. */
const place = ticket.omit({ secret: true });
export type Place = z.infer<typeof place>;

/** What the plant’s authority gave. */
export interface Certified {
  readonly certificatePem: string;
  readonly authorityPem: string;
  readonly revokedPem: string | null;
}

export const fileNames = {
  key: 'key.pem',
  certificate: 'certificate.pem',
  authority: 'authority.pem',
  revoked: 'revoked.pem',
  place: 'outpost.json',
} as const;

/** The folder in which an outpost keeps its key, its certificate and what it holds; nobody else reads it. */
export class OutpostFolder {
  constructor(readonly path: string) {}

  /** The key stays here: it is made here, and never leaves. */
  async key(): Promise<string> {
    const known = await this.read(fileNames.key);
    if (known !== null) return known;
    const keys = await makeKeys(keyKind);
    const pem = writePem('PRIVATE KEY', await exportKey('pkcs8', keys.privateKey));
    await this.write(fileNames.key, pem);
    return pem;
  }

  /** A request (PKCS#10, PEM) for the key that lies here. */
  async request(id: string, name: string): Promise<string> {
    const request = await requestForKey(await this.key(), {
      commonName: name.slice(0, 64),
      applicationUri: outpostUri(id),
      hosts: namesHere(),
    });
    if (!request)
      throw new Error(`${join(this.path, fileNames.key)} is no key that can be used. Remove it, and begin again.`);
    return writePem('CERTIFICATE REQUEST', request);
  }

  async keep({ certificatePem, authorityPem, revokedPem }: Certified): Promise<void> {
    await this.write(fileNames.authority, authorityPem);
    if (revokedPem !== null) await this.write(fileNames.revoked, revokedPem);
    await this.write(fileNames.certificate, certificatePem);
  }

  async keepPlace(at: Place): Promise<void> {
    await this.write(fileNames.place, `${JSON.stringify(place.parse(at), null, 2)}\n`);
  }

  /** Where the server is; null: nobody has told. */
  async place(): Promise<Place | null> {
    const text = await this.read(fileNames.place);
    if (text === null) return null;
    const read = place.safeParse(parsed(text));
    if (!read.success)
      throw new Error(`${join(this.path, fileNames.place)} can’t be read. Remove it, and give a new ticket.`);
    return read.data;
  }

  /** What it shows itself by; null: it has no certificate yet. */
  async credentials(): Promise<{ readonly key: string; readonly certificate: string } | null> {
    const [key, certificate] = [await this.read(fileNames.key), await this.read(fileNames.certificate)];
    return key === null || certificate === null ? null : { key, certificate };
  }

  /** The text of a file; null: there is none. */
  read(name: string): Promise<string | null> {
    return readFile(join(this.path, name), 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null;
      throw new Error(`${join(this.path, name)} can’t be read: ${error.message}`);
    });
  }

  /** A power cut leaves the old file or the new one, and never half of one. */
  async write(name: string, text: string): Promise<void> {
    const file = join(this.path, name);
    const making = `${file}.${process.pid}`;
    try {
      await mkdir(this.path, { recursive: true, mode: 0o700 });
      await writeFile(making, text, { mode: 0o600, flush: true });
      await rename(making, file);
    } catch (error) {
      throw new Error(`${file} can’t be written: ${error instanceof Error ? error.message : String(error)}`);
    }
  }
}

export const placeOf = ({ secret: _, ...rest }: Ticket): Place => rest;

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
