import { BinaryStream } from 'node-opcua-binary-stream';
import type { ISessionContext } from 'node-opcua-address-space';
import { StatusCodes } from 'node-opcua-status-code';
import { TrustListDataType } from 'node-opcua-types';
import { DataType, Variant } from 'node-opcua-variant';
import { readCertificate, readCrl } from '@loyal-hinge/core';
import { Refusal, ownerOf } from './methods.js';
import type { Answer, Method } from './methods.js';
import type { PushQuirks } from './push-management.js';
import type { StoredList, StoredLists } from './trust-store.js';
import { storedLists } from './trust-store.js';

/** Whose lists they are, and what becomes of a change. */
export interface HeldLists {
  lists(): Promise<StoredLists>;
  quirks(): PushQuirks;
  /** Takes lists over. @param owner the session that gave them @returns whether they count only after ApplyChanges */
  take(lists: Partial<StoredLists>, owner: string): Promise<boolean>;
  takeNow(lists: Partial<StoredLists>): Promise<void>;
}

/** Bits of OpenWithMasks and of TrustListDataType.specifiedLists (Part 12 §7.8.2.3). */
const masks: Readonly<Record<StoredList, number>> = {
  trustedCertificates: 1,
  trustedCrls: 2,
  issuerCertificates: 4,
  issuerCrls: 8,
};
const allLists = 15;

/** Open modes of a file (Part 20 §4.2.2). */
const modes = { read: 1, writeAndErase: 6 };

interface OpenFile {
  readonly mode: number;
  bytes: Buffer;
  position: number;
  readonly owner: string;
}

/** The methods of one TrustList of a stand-in (Part 12 §7.8.2). */
export class TrustListMethods {
  private readonly files = new Map<number, OpenFile>();
  private handles = 0;

  constructor(private readonly held: HeldLists) {}

  readonly open: Method = async ([mode], context) => {
    const asked = Number(mode?.value);
    const mayWrite = !this.held.quirks().oneByOne;
    if (asked !== modes.read && !(mayWrite && asked === modes.writeAndErase))
      throw new Refusal(StatusCodes.BadNotSupported);
    return this.opened(asked, asked === modes.read ? await this.encoded(allLists) : Buffer.alloc(0), context);
  };

  readonly openWithMasks: Method = async ([mask], context) =>
    this.opened(modes.read, await this.encoded(Number(mask?.value)), context);

  readonly read: Method = async ([handle, length], context) => {
    const file = this.file(handle, context, modes.read);
    const end = file.position + Math.max(0, Number(length?.value));
    const value = file.bytes.subarray(file.position, end);
    file.position += value.length;
    return [new Variant({ dataType: DataType.ByteString, value })];
  };

  readonly write: Method = async ([handle, data], context) => {
    const file = this.file(handle, context, modes.writeAndErase);
    file.bytes = Buffer.concat([file.bytes, (data?.value as Buffer | null) ?? Buffer.alloc(0)]);
    file.position = file.bytes.length;
    return [];
  };

  readonly getPosition: Method = async ([handle], context) => [
    new Variant({ dataType: DataType.UInt64, value: [0, this.file(handle, context).position] }),
  ];

  readonly setPosition: Method = async ([handle, position], context) => {
    const file = this.file(handle, context);
    const [, low] = position?.value as [number, number];
    file.position = Math.min(low, file.bytes.length);
    return [];
  };

  readonly close: Method = async ([handle], context) => {
    this.file(handle, context);
    this.files.delete(Number(handle?.value));
    return [];
  };

  readonly closeAndUpdate: Method = async ([handle], context) => {
    const file = this.file(handle, context, modes.writeAndErase);
    this.files.delete(Number(handle?.value));
    return [yes(await this.held.take(listsIn(file.bytes), ownerOf(context)))];
  };

  readonly addCertificate: Method = async ([certificate, isTrusted]) => {
    if (isTrusted?.value !== true) throw new Refusal(StatusCodes.BadCertificateInvalid);
    const der = Uint8Array.from((certificate?.value as Buffer | null) ?? Buffer.alloc(0));
    if (!readCertificate(der).ok) throw new Refusal(StatusCodes.BadCertificateInvalid);
    const { trustedCertificates } = await this.held.lists();
    await this.held.takeNow({ trustedCertificates: [...trustedCertificates, der] });
    return [];
  };

  readonly removeCertificate: Method = async ([thumbprint, isTrusted]) => {
    const list = isTrusted?.value === true ? 'trustedCertificates' : 'issuerCertificates';
    const held = (await this.held.lists())[list];
    const left = held.filter((der) => thumbprintOf(der) !== String(thumbprint?.value).toUpperCase());
    if (left.length === held.length) throw new Refusal(StatusCodes.BadInvalidArgument);
    await this.held.takeNow({ [list]: left });
    return [];
  };

  private opened(mode: number, bytes: Buffer, context: ISessionContext): Answer {
    const owner = ownerOf(context);
    const writes = [...this.files.values()].some((file) => file.mode === modes.writeAndErase);
    if (mode === modes.writeAndErase && this.files.size > 0) throw new Refusal(StatusCodes.BadNotWritable);
    if (writes) throw new Refusal(StatusCodes.BadNotReadable);
    this.handles += 1;
    this.files.set(this.handles, { mode, bytes, position: 0, owner });
    return [new Variant({ dataType: DataType.UInt32, value: this.handles })];
  }

  private file(handle: Variant | undefined, context: ISessionContext, mode?: number): OpenFile {
    const file = this.files.get(Number(handle?.value));
    if (!file || file.owner !== ownerOf(context)) throw new Refusal(StatusCodes.BadInvalidArgument);
    if (mode !== undefined && file.mode !== mode) throw new Refusal(StatusCodes.BadInvalidState);
    return file;
  }

  /** Files of sessions that are gone are closed, and what they did not apply is forgotten, as the standard asks. */
  forget(sessionId: string): void {
    for (const [handle, { owner }] of this.files) if (owner === sessionId) this.files.delete(handle);
  }

  private strays(mask: number): Buffer[] {
    return this.held.quirks().strayCrl && mask & masks.trustedCrls ? [Buffer.from('a note, and no CRL')] : [];
  }

  private async encoded(mask: number): Promise<Buffer> {
    if (this.held.quirks().noise) return Buffer.alloc(64, 0xf7);
    const held = await this.held.lists();
    const buffers = (list: StoredList): Buffer[] =>
      mask & masks[list] ? held[list].map((der) => Buffer.from(der)) : [];
    const data = new TrustListDataType({
      specifiedLists: mask,
      trustedCertificates: buffers('trustedCertificates'),
      trustedCrls: [...buffers('trustedCrls'), ...this.strays(mask)],
      issuerCertificates: buffers('issuerCertificates'),
      issuerCrls: buffers('issuerCrls'),
    });
    const stream = new BinaryStream(data.binaryStoreSize());
    data.encode(stream);
    return stream.buffer;
  }
}

function listsIn(bytes: Buffer): Partial<StoredLists> {
  const data = new TrustListDataType();
  try {
    data.decode(new BinaryStream(bytes));
  } catch {
    throw new Refusal(StatusCodes.BadDecodingError);
  }
  const lists = Object.fromEntries(
    storedLists
      .filter((list) => (data.specifiedLists & masks[list]) !== 0)
      .map((list) => [list, (data[list] ?? []).map((der) => Uint8Array.from(der))]),
  ) as Partial<StoredLists>;
  for (const der of [...(lists.trustedCertificates ?? []), ...(lists.issuerCertificates ?? [])])
    if (!readCertificate(der).ok) throw new Refusal(StatusCodes.BadCertificateInvalid);
  for (const der of [...(lists.trustedCrls ?? []), ...(lists.issuerCrls ?? [])])
    if (!readCrl(der).ok) throw new Refusal(StatusCodes.BadCertificateInvalid);
  return lists;
}

const yes = (value: boolean): Variant => new Variant({ dataType: DataType.Boolean, value });

function thumbprintOf(der: Uint8Array): string {
  const read = readCertificate(der);
  return read.ok ? read.certificate.thumbprint : '';
}
