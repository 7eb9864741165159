import type { ClientSession } from 'node-opcua-client';
import { resolveNodeId } from 'node-opcua-nodeid';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { CallRefusal } from './call-method.js';
import { TrustListOnServer, applicationList, byteString } from './trust-list.js';

/** Well-known nodes of namespace 0 (Part 6 Annex A). */
const nodes = {
  serverConfiguration: 'i=12637',
  updateCertificate: 'i=13737',
  cancelChanges: 'i=25708',
  createSigningRequest: 'i=12737',
  getRejectedList: 'i=12777',
  applicationGroup: 'i=14156',
  rsaSha256Certificate: 'i=12560',
} as const;

/** Push management of a server over an active session (Part 12 §7.10), with the list by which it trusts applications. */
export class PushManagement extends TrustListOnServer {
  constructor(session: ClientSession, timeoutMs: number, signal: AbortSignal) {
    super(session, timeoutMs, signal, applicationList);
  }

  /** What the server has set aside (GetRejectedList). */
  async readRejected(): Promise<readonly Uint8Array[]> {
    const [list] = await this.call(nodes.serverConfiguration, nodes.getRejectedList, 'GetRejectedList', []);
    return ((list?.value as Buffer[] | null) ?? []).map((der) => Uint8Array.from(der));
  }

  /** A certificate request of the server, with its present key or a new one (CreateSigningRequest). */
  async createSigningRequest(withNewKey: boolean): Promise<Uint8Array> {
    const [request] = await this.call(nodes.serverConfiguration, nodes.createSigningRequest, 'CreateSigningRequest', [
      nodeId(nodes.applicationGroup),
      nodeId(nodes.rsaSha256Certificate),
      new Variant({ dataType: DataType.String, value: null }),
      new Variant({ dataType: DataType.Boolean, value: withNewKey }),
      byteString(crypto.getRandomValues(new Uint8Array(32))),
    ]);
    const der = request?.value as Buffer | null;
    if (!der || der.length === 0) throw new CallRefusal('BadDecodingError', 'CreateSigningRequest');
    return Uint8Array.from(der);
  }

  /** Gives the server a certificate for the key it has, with the issuers of its chain (UpdateCertificate). */
  async updateCertificate(certificate: Uint8Array, issuers: readonly Uint8Array[]): Promise<boolean> {
    const [required] = await this.call(nodes.serverConfiguration, nodes.updateCertificate, 'UpdateCertificate', [
      nodeId(nodes.applicationGroup),
      nodeId(nodes.rsaSha256Certificate),
      byteString(certificate),
      new Variant({
        dataType: DataType.ByteString,
        arrayType: VariantArrayType.Array,
        value: issuers.map((der) => Buffer.from(der)),
      }),
      new Variant({ dataType: DataType.String, value: '' }),
      byteString(new Uint8Array()),
    ]);
    return required?.value === true;
  }

  /** Forgets what was given and not applied yet (CancelChanges); servers of before 1.05 don’t have it. */
  async cancelChanges(): Promise<void> {
    await this.call(nodes.serverConfiguration, nodes.cancelChanges, 'CancelChanges', []).catch(() => undefined);
  }
}

const nodeId = (value: string): Variant => new Variant({ dataType: DataType.NodeId, value: resolveNodeId(value) });
