import { createPrivateKey, createPublicKey, generateKeyPair, X509Certificate } from 'node:crypto';
import { promisify } from 'node:util';
import type { UAMethod } from 'node-opcua-address-space';
import { makeNodeId } from 'node-opcua-nodeid';
import type { OPCUAServer } from 'node-opcua-server';
import { StatusCodes } from 'node-opcua-status-code';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { readCertificate } from '@loyal-hinge/core';
import { makeSigningRequest } from './certificates.js';
import { Refusal, bindForAdministrators, channelOf, ownerOf } from './methods.js';
import type { Method } from './methods.js';
import { TrustListMethods } from './trust-list-methods.js';
import type { StoredLists } from './trust-store.js';

/** What push management needs of the stand-in that it manages. */
export interface Managed {
  readonly name: string;
  readonly applicationUri: string;
  readonly hosts: readonly string[];
  lists(): Promise<StoredLists>;
  /** Those by which certificates of users are trusted. */
  userLists(): Promise<StoredLists>;
  takeUserLists(lists: Partial<StoredLists>): Promise<void>;
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
  /** Its generated devices are gone from that moment on. */
  readonly vanishes: boolean;
  /** It takes subscriptions, and never sends a value. */
  readonly neverPublishes: boolean;
}

export const wellBehaved: PushQuirks = {
  oneByOne: false,
  noise: false,
  hangsUpOnUpdate: false,
  staysAsItWas: false,
  strayCrl: false,
  vanishes: false,
  neverPublishes: false,
};

export interface PendingChanges {
  readonly lists: Partial<StoredLists> | null;
  readonly certificate: { readonly chain: readonly Uint8Array[]; readonly privateKeyPem: string } | null;
}

const nothing: PendingChanges = { lists: null, certificate: null };

/** Push management of a stand-in (Part 12 §7.10): the methods of ServerConfiguration and of the default group’s TrustList. */
export class PushManagement {
  private pending: PendingChanges = nothing;
  private newKeyPem: string | null = null;
  /** The session that gave what is pending: with it, it is forgotten (Part 12 §7.10.2). */
  private pendingOwner = '';
  private readonly applications: TrustListMethods;
  private readonly users: TrustListMethods;

  constructor(private readonly managed: Managed) {
    const quirks = (): PushQuirks => managed.quirks();
    this.applications = new TrustListMethods({
      lists: () => managed.lists(),
      quirks,
      take: (lists, owner) => this.take(lists, owner),
      takeNow: (lists) => managed.takeLists(lists),
    });
    this.users = new TrustListMethods({
      lists: () => managed.userLists(),
      quirks,
      take: async (lists) => {
        await managed.takeUserLists(lists);
        return false;
      },
      takeNow: (lists) => managed.takeUserLists(lists),
    });
  }

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
      12647: this.applications.open,
      12663: this.applications.openWithMasks,
      12650: this.applications.close,
      12652: this.applications.read,
      12655: this.applications.write,
      12657: this.applications.getPosition,
      12660: this.applications.setPosition,
      12666: this.applications.closeAndUpdate,
      12668: this.applications.addCertificate,
      12670: this.applications.removeCertificate,
      14129: this.users.open,
      14145: this.users.openWithMasks,
      14132: this.users.close,
      14134: this.users.read,
      14137: this.users.write,
      14139: this.users.getPosition,
      14142: this.users.setPosition,
      14148: this.users.closeAndUpdate,
      14151: this.users.addCertificate,
      14153: this.users.removeCertificate,
    };
    for (const [id, method] of Object.entries(methods)) {
      const node = addressSpace.findNode(makeNodeId(Number(id))) as UAMethod | null;
      if (!node) throw new Error(`the address space has no method i=${id}`);
      bindForAdministrators(node, method);
    }
  }

  private readonly getRejectedList: Method = async () => [byteStrings(await this.managed.rejected())];

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

  /** Takes lists over, now or with ApplyChanges. */
  private async take(lists: Partial<StoredLists>, owner: string): Promise<boolean> {
    this.pendingOwner = owner;
    if (!this.managed.restarts) {
      await this.managed.takeLists(lists);
      return false;
    }
    this.pending = { ...this.pending, lists: { ...this.pending.lists, ...lists } };
    return true;
  }

  /** Files of sessions that are gone are closed, and what they did not apply is forgotten, as the standard asks. */
  forget(sessionId: string): void {
    if (this.pendingOwner === sessionId) this.pending = nothing;
    this.applications.forget(sessionId);
    this.users.forget(sessionId);
  }
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
