import { createPrivateKey, createPublicKey, generateKeyPair, X509Certificate } from 'node:crypto';
import { promisify } from 'node:util';
import { BinaryStream } from 'node-opcua-binary-stream';
import type { ISessionContext, UAMethod } from 'node-opcua-address-space';
import { makeNodeId } from 'node-opcua-nodeid';
import type { OPCUAServer } from 'node-opcua-server';
import { StatusCodes } from 'node-opcua-status-code';
import { TrustListDataType } from 'node-opcua-types';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { readCertificate, readCrl } from '@loyal-hinge/core';
import { makeSigningRequest } from './certificates.js';
import { Refusal, bindForAdministrators, channelOf, ownerOf } from './methods.js';
import type { Answer, Method } from './methods.js';
import type { StoredList, StoredLists } from './trust-store.js';
import { storedLists } from './trust-store.js';

/** What push management needs of the stand-in that it manages. */
export interface Managed {
  readonly name: string;
  readonly applicationUri: string;
  readonly hosts: readonly string[];
  lists(): Promise<StoredLists>;
  rejected(): Promise<readonly Uint8Array[]>;
  privateKeyPem(): Promise<string>;
  /** Whether a change counts only after ApplyChanges and a restart. */
  readonly restarts: boolean;
  quirks(): PushQuirks;
  /** Takes lists over at once. */
  takeLists(lists: Partial<StoredLists>): Promise<void>;
  /** Takes lists and certificate over and starts anew; called a moment after ApplyChanges was answered. */
  restart(changes: PendingChanges): void;
}

/** What servers in the field do differently, or wrong. */
export interface PushQuirks {
  /** Lists can’t be written as a file: certificates are added and removed one by one. */
  readonly oneByOne: boolean;
  /** What is read as a trust list is noise. */
  readonly noise: boolean;
  /** The line goes down as soon as UpdateCertificate has come. */
  readonly hangsUpOnUpdate: boolean;
  /** Lists are taken and shown, and it goes on with those that it read at its start. */
  readonly staysAsItWas: boolean;
  /** A file that is no CRL lies among the CRLs, as in many a folder. */
  readonly strayCrl: boolean;
}

export const wellBehaved: PushQuirks = {
  oneByOne: false,
  noise: false,
  hangsUpOnUpdate: false,
  staysAsItWas: false,
  strayCrl: false,
};

export interface PendingChanges {
  readonly lists: Partial<StoredLists> | null;
  readonly certificate: { readonly chain: readonly Uint8Array[]; readonly privateKeyPem: string } | null;
}

const nothing: PendingChanges = { lists: null, certificate: null };

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

/** Push management of a stand-in (Part 12 §7.10): the methods of ServerConfiguration and of the default group’s TrustList. */
export class PushManagement {
  private pending: PendingChanges = nothing;
  private newKeyPem: string | null = null;
  /** The session that gave what is pending: with it, it is forgotten (Part 12 §7.10.2). */
  private pendingOwner = '';
  private readonly files = new Map<number, OpenFile>();
  private handles = 0;

  constructor(private readonly managed: Managed) {}

  bind(server: OPCUAServer): void {
    const { addressSpace } = server.engine;
    if (!addressSpace) throw new Error('the server has no address space');
    const set = (id: number, variant: Variant): void => {
      const node = addressSpace.findNode(makeNodeId(id));
      if (node && 'setValueFromSource' in node)
        (node as unknown as { setValueFromSource(value: Variant): void }).setValueFromSource(variant);
    };
    set(12639, new Variant({ dataType: DataType.String, arrayType: VariantArrayType.Array, value: ['PEM'] }));
    set(12640, new Variant({ dataType: DataType.UInt32, value: 0 }));
    set(
      14161,
      new Variant({ dataType: DataType.NodeId, arrayType: VariantArrayType.Array, value: [makeNodeId(12560)] }),
    );
    const methods: Readonly<Record<number, Method>> = {
      13737: this.updateCertificate,
      12740: this.applyChanges,
      25708: this.cancelChanges,
      12737: this.createSigningRequest,
      12777: this.getRejectedList,
      12647: this.open,
      12663: this.openWithMasks,
      12650: this.close,
      12652: this.read,
      12655: this.write,
      12657: this.getPosition,
      12660: this.setPosition,
      12666: this.closeAndUpdate,
      12668: this.addCertificate,
      12670: this.removeCertificate,
    };
    for (const [id, method] of Object.entries(methods)) {
      const node = addressSpace.findNode(makeNodeId(Number(id))) as UAMethod | null;
      if (!node) throw new Error(`the address space has no method i=${id}`);
      bindForAdministrators(node, method);
    }
  }

  private readonly getRejectedList: Method = async () => [byteStrings(await this.managed.rejected())];

  private readonly open: Method = async ([mode], context) => {
    const asked = Number(mode?.value);
    const mayWrite = !this.managed.quirks().oneByOne;
    if (asked !== modes.read && !(mayWrite && asked === modes.writeAndErase))
      throw new Refusal(StatusCodes.BadNotSupported);
    return this.opened(asked, asked === modes.read ? await this.encoded(allLists) : Buffer.alloc(0), context);
  };

  private readonly openWithMasks: Method = async ([mask], context) =>
    this.opened(modes.read, await this.encoded(Number(mask?.value)), context);

  private readonly read: Method = async ([handle, length], context) => {
    const file = this.file(handle, context, modes.read);
    const end = file.position + Math.max(0, Number(length?.value));
    const value = file.bytes.subarray(file.position, end);
    file.position += value.length;
    return [new Variant({ dataType: DataType.ByteString, value })];
  };

  private readonly write: Method = async ([handle, data], context) => {
    const file = this.file(handle, context, modes.writeAndErase);
    file.bytes = Buffer.concat([file.bytes, (data?.value as Buffer | null) ?? Buffer.alloc(0)]);
    file.position = file.bytes.length;
    return [];
  };

  private readonly getPosition: Method = async ([handle], context) => [
    new Variant({ dataType: DataType.UInt64, value: [0, this.file(handle, context).position] }),
  ];

  private readonly setPosition: Method = async ([handle, position], context) => {
    const file = this.file(handle, context);
    const [, low] = position?.value as [number, number];
    file.position = Math.min(low, file.bytes.length);
    return [];
  };

  private readonly close: Method = async ([handle], context) => {
    this.file(handle, context);
    this.files.delete(Number(handle?.value));
    return [];
  };

  private readonly closeAndUpdate: Method = async ([handle], context) => {
    const file = this.file(handle, context, modes.writeAndErase);
    this.files.delete(Number(handle?.value));
    this.pendingOwner = ownerOf(context);
    return [await this.take(listsIn(file.bytes))];
  };

  private readonly addCertificate: Method = async ([certificate, isTrusted]) => {
    if (isTrusted?.value !== true) throw new Refusal(StatusCodes.BadCertificateInvalid);
    const der = Uint8Array.from((certificate?.value as Buffer | null) ?? Buffer.alloc(0));
    if (!readCertificate(der).ok) throw new Refusal(StatusCodes.BadCertificateInvalid);
    const { trustedCertificates } = await this.managed.lists();
    await this.managed.takeLists({ trustedCertificates: [...trustedCertificates, der] });
    return [];
  };

  private readonly removeCertificate: Method = async ([thumbprint, isTrusted]) => {
    const list = isTrusted?.value === true ? 'trustedCertificates' : 'issuerCertificates';
    const held = (await this.managed.lists())[list];
    const left = held.filter((der) => thumbprintOf(der) !== String(thumbprint?.value).toUpperCase());
    if (left.length === held.length) throw new Refusal(StatusCodes.BadInvalidArgument);
    await this.managed.takeLists({ [list]: left });
    return [];
  };

  private readonly createSigningRequest: Method = async ([, , subject, regenerate]) => {
    if (regenerate?.value === true) this.newKeyPem = await newKey();
    const privateKeyPem = this.newKeyPem ?? (await this.managed.privateKeyPem());
    const { name, applicationUri, hosts } = this.managed;
    const commonName = commonNameIn((subject?.value as string | null) ?? '') ?? name;
    const request = await makeSigningRequest({ privateKeyPem, commonName, applicationUri, hosts });
    return [new Variant({ dataType: DataType.ByteString, value: Buffer.from(request) })];
  };

  private readonly updateCertificate: Method = async ([, , certificate, issuers, format, key], context) => {
    const leaf = Uint8Array.from((certificate?.value as Buffer | null) ?? Buffer.alloc(0));
    const read = readCertificate(leaf);
    if (!read.ok) throw new Refusal(StatusCodes.BadCertificateInvalid);
    if (!read.certificate.summary.applicationUris.includes(this.managed.applicationUri))
      throw new Refusal(StatusCodes.BadCertificateUriInvalid);
    const given = (key?.value as Buffer | null) ?? Buffer.alloc(0);
    if (given.length > 0 && format?.value !== 'PEM') throw new Refusal(StatusCodes.BadNotSupported);
    const keys = [given.length > 0 ? given.toString('utf8') : null, this.newKeyPem, await this.managed.privateKeyPem()];
    const privateKeyPem = keys.find((pem) => pem !== null && belongs(leaf, pem));
    if (!privateKeyPem) throw new Refusal(StatusCodes.BadSecurityChecksFailed);
    const above = ((issuers?.value as Buffer[] | null) ?? []).map((der) => Uint8Array.from(der));
    this.pending = { ...this.pending, certificate: { chain: [leaf, ...above], privateKeyPem } };
    this.pendingOwner = ownerOf(context);
    if (this.managed.quirks().hangsUpOnUpdate) channelOf(context)?.abruptlyInterrupt();
    return [yes(true)];
  };

  private readonly applyChanges: Method = async () => {
    const changes = this.pending;
    this.pending = nothing;
    this.newKeyPem = null;
    if (changes.lists || changes.certificate) this.managed.restart(changes);
    return [];
  };

  private readonly cancelChanges: Method = async () => {
    this.pending = nothing;
    this.newKeyPem = null;
    return [];
  };

  /** Takes lists over, now or with ApplyChanges; tells whether ApplyChanges is required. */
  private async take(lists: Partial<StoredLists>): Promise<Variant> {
    if (!this.managed.restarts) {
      await this.managed.takeLists(lists);
      return yes(false);
    }
    this.pending = { ...this.pending, lists: { ...this.pending.lists, ...lists } };
    return yes(true);
  }

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
    if (this.pendingOwner === sessionId) this.pending = nothing;
    for (const [handle, { owner }] of this.files) if (owner === sessionId) this.files.delete(handle);
  }

  private strays(mask: number): Buffer[] {
    return this.managed.quirks().strayCrl && mask & masks.trustedCrls ? [Buffer.from('a note, and no CRL')] : [];
  }

  private async encoded(mask: number): Promise<Buffer> {
    if (this.managed.quirks().noise) return Buffer.alloc(64, 0xf7);
    const held = await this.managed.lists();
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

/** A subject is asked for as `CN=…,O=…` or as `CN=…/O=…`. */
const commonNameIn = (subject: string): string | null => /CN=([^/,]+)/.exec(subject)?.[1]?.trim() ?? null;

const yes = (value: boolean): Variant => new Variant({ dataType: DataType.Boolean, value });
const byteStrings = (ders: readonly Uint8Array[]): Variant =>
  new Variant({
    dataType: DataType.ByteString,
    arrayType: VariantArrayType.Array,
    value: ders.map((der) => Buffer.from(der)),
  });

function thumbprintOf(der: Uint8Array): string {
  const read = readCertificate(der);
  return read.ok ? read.certificate.thumbprint : '';
}

function belongs(certificate: Uint8Array, privateKeyPem: string): boolean {
  try {
    const key = createPublicKey(createPrivateKey(privateKeyPem));
    return new X509Certificate(certificate).publicKey.equals(key);
  } catch {
    return false;
  }
}

const makeKeyPair = promisify(generateKeyPair);

async function newKey(): Promise<string> {
  const { privateKey } = await makeKeyPair('rsa', { modulusLength: 2048 });
  return privateKey.export({ type: 'pkcs8', format: 'pem' }).toString();
}
