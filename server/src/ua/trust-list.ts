import { createHash } from 'node:crypto';
import { BinaryStream } from 'node-opcua-binary-stream';
import type { ClientSession } from 'node-opcua-client';
import { TrustListDataType } from 'node-opcua-types';
import { DataType, Variant } from 'node-opcua-variant';
import { CallRefusal, callMethod } from './call-method.js';

/** The lists of a server, by bytes (Part 12 §7.8.2.1). */
export interface PushedLists {
  readonly trustedCertificates: readonly Uint8Array[];
  readonly trustedCrls: readonly Uint8Array[];
  readonly issuerCertificates: readonly Uint8Array[];
  readonly issuerCrls: readonly Uint8Array[];
}
export type PushedList = keyof PushedLists;

/** Bits of OpenWithMasks and of TrustListDataType.specifiedLists (Part 12 §7.8.2.3). */
const masks: Readonly<Record<PushedList, number>> = {
  trustedCertificates: 1,
  trustedCrls: 2,
  issuerCertificates: 4,
  issuerCrls: 8,
};
const allLists = 15;

/** A trust list with its methods, by their well-known nodes of namespace 0 (Part 6 Annex A). */
export interface TrustListNodes {
  readonly trustList: string;
  readonly open: string;
  readonly openWithMasks: string;
  readonly close: string;
  readonly read: string;
  readonly write: string;
  readonly closeAndUpdate: string;
  readonly addCertificate: string;
  readonly removeCertificate: string;
}

/** The list by which applications are trusted: DefaultApplicationGroup (Part 12 §7.8.3.1). */
export const applicationList: TrustListNodes = {
  trustList: 'i=12642',
  open: 'i=12647',
  openWithMasks: 'i=12663',
  close: 'i=12650',
  read: 'i=12652',
  write: 'i=12655',
  closeAndUpdate: 'i=12666',
  addCertificate: 'i=12668',
  removeCertificate: 'i=12670',
};

/** The list by which certificates of users are trusted: DefaultUserTokenGroup (Part 12 §7.8.3.1). */
export const userList: TrustListNodes = {
  trustList: 'i=14123',
  open: 'i=14129',
  openWithMasks: 'i=14145',
  close: 'i=14132',
  read: 'i=14134',
  write: 'i=14137',
  closeAndUpdate: 'i=14148',
  addCertificate: 'i=14151',
  removeCertificate: 'i=14153',
};

/** Open mode: write and erase what is there (Part 20 §4.2.2). */
const writeAndErase = 6;
const chunkBytes = 32_768;
/** No trust list of an application comes near this; a server that goes on for longer is not believed. */
const mostBytes = 16_000_000;

/** Codes by which a server says that it has no such method. */
export const notOffered: ReadonlySet<string> = new Set([
  'BadNotSupported',
  'BadNotImplemented',
  'BadNotExecutable',
  'BadMethodInvalid',
  'BadNodeIdUnknown',
]);

/** ServerConfiguration with its ApplyChanges, which counts for lists, too. */
const serverConfiguration = 'i=12637';
const applyChanges = 'i=12740';

/** A trust list of a server over an administrator’s session (Part 12 §7.8.2). Every call has its time-out. */
export class TrustListOnServer {
  constructor(
    protected readonly session: ClientSession,
    protected readonly timeoutMs: number,
    protected readonly signal: AbortSignal,
    private readonly nodes: TrustListNodes,
  ) {}

  /** All lists, with their CRLs (TrustList.OpenWithMasks, Read, Close). */
  async readLists(): Promise<PushedLists> {
    const handle = await this.openToRead();
    try {
      return listsIn(await this.readAll(handle));
    } finally {
      await this.call(this.nodes.trustList, this.nodes.close, 'Close', [uint32(handle)]).catch(() => undefined);
    }
  }

  /**
   * Makes the named lists hold what they should: as files where the server takes them, else one certificate after the other
   * (AddCertificate, RemoveCertificate). The latter can neither add issuers nor change CRLs (Part 12 §7.8.2.6).
   * @returns whether ApplyChanges is required before they count
   */
  async changeLists(before: PushedLists, after: Partial<PushedLists>): Promise<boolean> {
    try {
      return await this.writeLists(after);
    } catch (error) {
      if (!(error instanceof CallRefusal && error.during === 'Open' && notOffered.has(error.code))) throw error;
    }
    // Without files, its lists are changed certificate by certificate.
    await this.changeOneByOne(before, after);
    return false;
  }

  private async changeOneByOne(before: PushedLists, after: Partial<PushedLists>): Promise<void> {
    const added = (list: PushedList): readonly Uint8Array[] => without(after[list] ?? before[list], before[list]);
    const removed = (list: PushedList): readonly Uint8Array[] => without(before[list], after[list] ?? before[list]);
    const beyondIt = [...added('issuerCertificates'), ...added('trustedCrls'), ...added('issuerCrls')];
    if (beyondIt.length > 0) throw new CallRefusal('BadNotSupported', 'AddCertificate');
    let isPartlyDone = false;
    const one = async (methodId: string, name: string, certificate: Variant, isTrusted: boolean): Promise<void> => {
      try {
        await this.call(this.nodes.trustList, methodId, name, [certificate, boolean(isTrusted)]);
        isPartlyDone = true;
      } catch (error) {
        throw error instanceof CallRefusal ? new CallRefusal(error.code, error.during, isPartlyDone) : error;
      }
    };
    for (const der of added('trustedCertificates'))
      await one(this.nodes.addCertificate, 'AddCertificate', byteString(der), true);
    for (const [list, isTrusted] of [
      ['trustedCertificates', true],
      ['issuerCertificates', false],
    ] as const)
      for (const der of removed(list))
        await one(this.nodes.removeCertificate, 'RemoveCertificate', string(thumbprintOf(der)), isTrusted);
  }

  /**
   * Replaces the named lists and leaves the others (Open, Write in chunks, CloseAndUpdate).
   * @returns whether ApplyChanges is required before they count
   */
  async writeLists(lists: Partial<PushedLists>): Promise<boolean> {
    const bytes = encoded(lists);
    const [opened] = await this.call(this.nodes.trustList, this.nodes.open, 'Open', [
      new Variant({ dataType: DataType.Byte, value: writeAndErase }),
    ]);
    const handle = Number(opened?.value);
    try {
      for (let from = 0; from < bytes.length; from += chunkBytes)
        await this.call(this.nodes.trustList, this.nodes.write, 'Write', [
          uint32(handle),
          byteString(bytes.subarray(from, from + chunkBytes)),
        ]);
    } catch (error) {
      await this.call(this.nodes.trustList, this.nodes.close, 'Close', [uint32(handle)]).catch(() => undefined);
      throw error;
    }
    const [required] = await this.call(this.nodes.trustList, this.nodes.closeAndUpdate, 'CloseAndUpdate', [
      uint32(handle),
    ]);
    return required?.value === true;
  }

  /** Makes what was given so far count; the server may close all lines and come back (ApplyChanges). */
  async applyChanges(): Promise<void> {
    await this.call(serverConfiguration, applyChanges, 'ApplyChanges', []);
  }

  private async openToRead(): Promise<number> {
    const [opened] = await this.call(this.nodes.trustList, this.nodes.openWithMasks, 'OpenWithMasks', [
      uint32(allLists),
    ]);
    return Number(opened?.value);
  }

  private async readAll(handle: number): Promise<Buffer> {
    const chunks: Buffer[] = [];
    for (let total = 0; ;) {
      const [chunk] = await this.call(this.nodes.trustList, this.nodes.read, 'Read', [
        uint32(handle),
        new Variant({ dataType: DataType.Int32, value: chunkBytes }),
      ]);
      const bytes = (chunk?.value as Buffer | null) ?? Buffer.alloc(0);
      if (bytes.length === 0) return Buffer.concat(chunks);
      chunks.push(bytes);
      total += bytes.length;
      if (total > mostBytes) throw new CallRefusal('BadEncodingLimitsExceeded', 'Read');
    }
  }

  protected call(objectId: string, methodId: string, name: string, inputs: Variant[]): Promise<readonly Variant[]> {
    return callMethod(this.session, { objectId, methodId, name, inputs }, this.timeoutMs, this.signal);
  }
}

/** A TrustListDataType as it came; bytes that are none are refused as such. */
export function listsIn(bytes: Buffer): PushedLists {
  const data = new TrustListDataType();
  try {
    data.decode(new BinaryStream(bytes));
  } catch {
    throw new CallRefusal('BadDecodingError', 'Read');
  }
  const list = (name: PushedList): readonly Uint8Array[] => (data[name] ?? []).map((der) => Uint8Array.from(der));
  return {
    trustedCertificates: list('trustedCertificates'),
    trustedCrls: list('trustedCrls'),
    issuerCertificates: list('issuerCertificates'),
    issuerCrls: list('issuerCrls'),
  };
}

export function encoded(lists: Partial<PushedLists>): Buffer {
  const buffers = (name: PushedList): Buffer[] => (lists[name] ?? []).map((der) => Buffer.from(der));
  const names = Object.keys(masks) as PushedList[];
  const data = new TrustListDataType({
    specifiedLists: names.reduce((sum, name) => (lists[name] ? sum | masks[name] : sum), 0),
    trustedCertificates: buffers('trustedCertificates'),
    trustedCrls: buffers('trustedCrls'),
    issuerCertificates: buffers('issuerCertificates'),
    issuerCrls: buffers('issuerCrls'),
  });
  const stream = new BinaryStream(data.binaryStoreSize());
  data.encode(stream);
  return stream.buffer;
}

/** Of some certificates or CRLs those that are not among others. */
export const without = (all: readonly Uint8Array[], others: readonly Uint8Array[]): readonly Uint8Array[] =>
  all.filter((der) => !others.some((other) => Buffer.from(other).equals(Buffer.from(der))));
const thumbprintOf = (der: Uint8Array): string => createHash('sha1').update(der).digest('hex').toUpperCase();

const string = (value: string): Variant => new Variant({ dataType: DataType.String, value });
const boolean = (value: boolean): Variant => new Variant({ dataType: DataType.Boolean, value });
const uint32 = (value: number): Variant => new Variant({ dataType: DataType.UInt32, value });
export const byteString = (value: Uint8Array): Variant =>
  new Variant({ dataType: DataType.ByteString, value: Buffer.from(value) });
