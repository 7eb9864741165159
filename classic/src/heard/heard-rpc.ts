import { readMade, readWanted, remoteCreateInstance, remoteGetClassObject } from '../dcom/activation.js';
import { endpointMapper, hasFailed, remoteActivator } from '../dcom/interfaces.js';
import { readAnswer, readCall } from '../dcom/orpc.js';
import { ComFailure } from '../dcom/interfaces.js';
import { readAuthenticate, readChallenge } from '../ntlm/messages.js';
import { OctetReader } from '../octets/reader.js';
import { WireFault } from '../octets/wire-fault.js';
import { pduFlags, readPdu, refusedByProvider } from '../rpc/pdu.js';
import type { Pdu, PduOf, Verifier } from '../rpc/pdu.js';
import { RpcFault } from '../rpc/problems.js';
import { activation, interfaceNamed, operationNamed } from './interface-names.js';
import { HeardPdus } from './heard-pdus.js';
import { heardMessage } from './heard-message.js';
import type { HeardMessage } from './heard-message.js';
import { OctetPile } from './octet-pile.js';
import type { Room } from './octet-pile.js';

/** Of the two ends of a connection: 0 has sent its first packet that was seen. */
type End = 0 | 1;

/** A call that was heard; what it answered as `0x` and eight digits, null where that was not seen or can’t be read. */
interface Call {
  readonly name: string;
  /** Microseconds since 1970. */
  readonly at: number;
  result: string | null;
}
interface Pending {
  readonly uuid: string;
  readonly operation: number;
  readonly call: Call | null;
  readonly stub: OctetPile;
}

const mostListed = 10_000;
const mostPending = 1024;
const mostInterfaces = 64;
/** Of what is sent in several fragments so much is put together. */
const mostStub = 64 * 1024;
const encrypted = 6;
const levels = ['', 'none', 'connect', 'call', 'packet', 'integrity', 'privacy'];
const packages: Readonly<Record<number, string>> = { 9: 'Negotiate', 10: 'NTLM', 16: 'Kerberos', 68: 'Netlogon' };

/** Why a bind is not taken at all (C706 12.6.3.1, p_reject_reason_t; MS-RPCE 2.2.2.5). */
const refusals: Readonly<Record<number, string>> = {
  0: 'no reason was given',
  1: 'the server is overloaded',
  2: 'the local limit is exceeded',
  3: 'the address is not known',
  4: 'the protocol’s version is not spoken',
  5: 'the default context is not taken',
  6: 'user data can’t be read',
  7: 'no provider is there',
  8: 'the kind of security is not known',
  9: 'the check sum of the security is wrong',
};
/** Why one context is not taken (C706 12.6.3.1, p_provider_reason_t). */
const contextRefusals: Readonly<Record<number, string>> = {
  1: 'the interface is not known',
  2: 'no transfer syntax is taken',
  3: 'the local limit is exceeded',
};
const faultNames: Readonly<Record<number, string>> = {
  0x00000005: 'access denied',
  0x000006f7: 'bad stub data',
  0x00000721: 'security package error',
  0x000006be: 'call failed',
  0x1c010002: 'operation range error',
  0x1c010003: 'unknown interface',
  0x1c01000b: 'protocol error',
  0x1c00000d: 'cancelled',
  0x1c000012: 'unspecified fault',
  0x1c00001a: 'context mismatch',
  0x1c00001b: 'out of memory',
  0x80010108: 'object disconnected',
  0x80010110: 'version mismatch',
};

const code = (value: number): string => `0x${(value >>> 0).toString(16).padStart(8, '0')}`;

/** DCE/RPC: recognised by its PDUs, whatever the port (C706, chapter 12). */
export const heardRpc = {
  protocol: 'dcerpc' as const,
  /** @returns null: too few octets to tell */
  recognises(head: Uint8Array): boolean | null {
    const [version, minor, kind, , order] = head;
    if (version !== undefined && version !== 5) return false;
    if ((minor !== undefined && minor > 1) || (kind !== undefined && kind > 19)) return false;
    if (order !== undefined && order !== 0x10 && order !== 0) return false;
    if (head.length < 10) return null;
    const length = order === 0x10 ? (head[8] ?? 0) | ((head[9] ?? 0) << 8) : ((head[8] ?? 0) << 8) | (head[9] ?? 0);
    return length >= 16;
  },
  listen: (room: Room, say?: (message: HeardMessage) => void): HeardRpc => new HeardRpc(room, say),
};

/** Follows what two ends say in DCE/RPC and DCOM: who asks for what as whom, and what came of it. */
export class HeardRpc {
  asks: End | null = null;
  private readonly sent: readonly [HeardPdus, HeardPdus];
  private readonly uuids: string[] = [];
  private readonly contexts = new Map<number, string>();
  private readonly offered = new Map<number, readonly { readonly id: number; readonly uuid: string }[]>();
  private readonly pending = new Map<number, Pending>();
  private readonly answers = new Map<number, OctetPile>();
  private readonly calls: Call[] = [];
  private readonly said: string[] = [];
  private notListed = 0;
  private user: string | undefined;
  private level = 0;
  private refused: { readonly code: number; readonly name: string; readonly reason: string } | null = null;
  private faulted: { readonly operation: string; readonly code: number } | null = null;
  private activated: number | undefined;
  private failed: number | undefined;
  private at = 0;

  constructor(
    private readonly room: Room,
    private readonly tellMessage?: (message: HeardMessage) => void,
  ) {
    this.sent = [0, 1].map((end) => new HeardPdus(room, (pdu) => this.read(end as End, pdu))) as unknown as [
      HeardPdus,
      HeardPdus,
    ];
  }

  hear(from: End, octets: Uint8Array, begin: number, end: number, at: number): void {
    this.at = at;
    this.sent[from].take(octets.subarray(begin, end));
  }

  miss(from: End): void {
    this.sent[from].miss();
  }

  get isAmid(): boolean {
    if (this.refused) return false;
    return this.sent[0].isAmid || this.sent[1].isAmid || this.pending.size > 0 || this.offered.size > 0;
  }

  end(): void {
    for (const pdus of this.sent) pdus.drop();
    for (const { stub } of this.pending.values()) stub.clear();
    for (const stub of this.answers.values()) stub.clear();
  }

  told() {
    const { refused, faulted } = this;
    const fault = faulted && {
      code: faulted.code,
      name: faultNames[faulted.code] ?? code(faulted.code),
      reason: `${faulted.operation} was answered by a fault.`,
    };
    const hresult = this.activated ?? this.failed;
    return {
      services: this.calls.length > 0 ? this.calls : undefined,
      error: refused ?? fault ?? undefined,
      user: this.user,
      interfaces: this.uuids.length > 0 ? this.uuids : undefined,
      hresult,
      callLevel: this.level > 0 ? this.level : undefined,
      notes: [
        ...this.said,
        ...(this.level > 1 ? [`Calls were made at the level “${levels[this.level] ?? this.level}”.`] : []),
        ...(this.level === encrypted ? ['What calls say was encrypted and can’t be told.'] : []),
        ...(this.notListed > 0 ? [`${this.notListed} more calls are not listed.`] : []),
      ],
    };
  }

  private read(from: End, octets: Uint8Array): void {
    try {
      const pdu = readPdu(octets);
      const call = this.tellMessage ? this.callOf(pdu) : null;
      const before = this.said.length;
      this.heard(from, pdu);
      const says = this.said.slice(before).join(' ');
      this.tellMessage?.(heardMessage(from, pdu, octets, call ?? this.callOf(pdu), says, this.user));
    } catch (error) {
      if (!(error instanceof WireFault)) throw error;
      this.say('A PDU is broken.');
    }
  }

  /** The operation that a PDU asks for or answers; null: it is none. */
  private callOf(pdu: Pdu): string | null {
    const pending = this.pending.get(pdu.callId);
    const isOfCall = pdu.kind === 'request' || pdu.kind === 'response' || pdu.kind === 'fault';
    return isOfCall && pending ? operationNamed(pending.uuid, pending.operation) : null;
  }

  private heard(from: End, pdu: Pdu): void {
    if (pdu.verifier) this.verified(pdu.verifier);
    switch (pdu.kind) {
      case 'bind':
      case 'alter-context':
        this.asks ??= from;
        return this.bound(pdu);
      case 'bind-ack':
      case 'alter-context-response':
        this.asks ??= opposite(from);
        return this.taken(pdu);
      case 'bind-nak': {
        this.asks ??= opposite(from);
        this.offered.clear();
        const reason = refusals[pdu.reason] ?? `reason ${pdu.reason}`;
        this.refused ??= { code: pdu.reason, name: 'bind refused', reason: `The bind was refused: ${reason}.` };
        return;
      }
      case 'request':
        this.asks ??= from;
        return this.asked(pdu);
      case 'response':
        this.asks ??= opposite(from);
        return this.answered(pdu);
      case 'fault':
        this.asks ??= opposite(from);
        return this.faultedBy(pdu);
      default:
        return;
    }
  }

  private bound(pdu: PduOf<'bind'>): void {
    if (this.offered.size < mostInterfaces)
      this.offered.set(
        pdu.callId,
        pdu.contexts.map(({ id, abstract }) => ({ id, uuid: abstract.uuid })),
      );
    for (const { id, abstract } of pdu.contexts) {
      if (this.contexts.size < mostInterfaces) this.contexts.set(id, abstract.uuid);
      if (this.uuids.length < mostInterfaces && !this.uuids.includes(abstract.uuid)) this.uuids.push(abstract.uuid);
    }
  }

  private taken(pdu: PduOf<'bind-ack'>): void {
    const offered = this.offered.get(pdu.callId) ?? [];
    this.offered.delete(pdu.callId);
    let hasTaken = false;
    let first: { readonly code: number; readonly name: string; readonly reason: string } | null = null;
    pdu.results.forEach(({ result, reason }, index) => {
      hasTaken ||= result === 0;
      if (result !== 1 && result !== refusedByProvider) return;
      const uuid = offered[index]?.uuid;
      const why = contextRefusals[reason] ?? 'no reason was given';
      const what = uuid === undefined ? 'A context' : interfaceNamed(uuid);
      first ??= { code: reason, name: 'interface refused', reason: `${what} was refused: ${why}.` };
    });
    if (!first) return;
    if (hasTaken) this.say((first as { readonly reason: string }).reason);
    else this.refused ??= first;
  }

  private asked(pdu: PduOf<'request'>): void {
    const isFirst = (pdu.flags & pduFlags.first) !== 0;
    const before = this.pending.get(pdu.callId);
    if (!isFirst && before) {
      if (this.isActivation(before)) before.stub.add(pdu.stub);
      return this.wholeRequest(pdu, before);
    }
    const uuid = this.contexts.get(pdu.context) ?? `context ${pdu.context}`;
    let call: Call | null = null;
    if (this.calls.length < mostListed) {
      call = { name: operationNamed(uuid, pdu.operation), at: this.at, result: null };
      this.calls.push(call);
    } else this.notListed += 1;
    const pending = { uuid, operation: pdu.operation, call, stub: new OctetPile(this.room, mostStub) };
    if (this.isActivation(pending)) pending.stub.add(pdu.stub);
    this.forget(pdu.callId);
    if (this.pending.size < mostPending) this.pending.set(pdu.callId, pending);
    this.wholeRequest(pdu, pending);
    if (this.pending.get(pdu.callId) !== pending) pending.stub.clear();
  }

  private isActivation({ uuid, operation }: Pick<Pending, 'uuid' | 'operation'>): boolean {
    return (uuid === remoteActivator.uuid && (operation === 3 || operation === 4)) || uuid === activation;
  }

  /** Which class is asked for. */
  private wholeRequest(pdu: PduOf<'request'>, pending: Pending): void {
    if ((pdu.flags & pduFlags.last) === 0 || !this.isActivation(pending) || this.isHidden(pdu)) return;
    const clsid = attempted(() => {
      if (pending.uuid === activation) return null;
      const method = pending.operation === 3 ? remoteGetClassObject : remoteCreateInstance;
      const { wanted } = readCall(method as typeof remoteGetClassObject, pending.stub.octets, pdu.isLittleEndian);
      return wanted && readWanted(wanted).clsid;
    });
    if (clsid) this.say(`The class {${clsid.toUpperCase()}} was asked for.`);
  }

  private answered(pdu: PduOf<'response'>): void {
    const before = this.answers.get(pdu.callId);
    if ((pdu.flags & pduFlags.last) === 0) {
      const pile = before ?? new OctetPile(this.room, mostStub);
      pile.add(pdu.stub);
      if (!before && this.answers.size < mostPending) this.answers.set(pdu.callId, pile);
      else if (!before) pile.clear();
      return;
    }
    before?.add(pdu.stub);
    const stub = before ? before.octets : pdu.stub;
    this.answeredWhole(pdu, stub);
    before?.clear();
    this.answers.delete(pdu.callId);
  }

  private answeredWhole(pdu: PduOf<'response'>, stub: Uint8Array): void {
    const pending = this.forget(pdu.callId);
    if (!pending) return;
    if (this.faulted?.operation === operationNamed(pending.uuid, pending.operation)) this.faulted = null;
    if (this.isHidden(pdu)) return;
    const result = lastWord(stub, pdu.isLittleEndian);
    if (result === null) return;
    if (pending.call) pending.call.result = code(result);
    if (pending.uuid === endpointMapper.uuid) return this.mapped(stub);
    if (this.isActivation(pending)) return this.made(pending, stub, pdu.isLittleEndian, result);
    if (hasFailed(result)) this.failed = result;
  }

  private forget(callId: number): Pending | null {
    const pending = this.pending.get(callId) ?? null;
    this.pending.delete(callId);
    pending?.stub.clear();
    return pending;
  }

  /** Ports that the mapper names: towers whose fourth floor is TCP (C706, appendix L). */
  private mapped(stub: Uint8Array): void {
    for (let at = 0; at + 7 <= stub.length; at += 1) {
      const isTcp =
        stub[at] === 1 && stub[at + 1] === 0 && stub[at + 2] === 7 && stub[at + 3] === 2 && stub[at + 4] === 0;
      const port = ((stub[at + 5] ?? 0) << 8) | (stub[at + 6] ?? 0);
      if (isTcp && port > 0) this.say(`The mapper named port ${port}.`);
    }
  }

  private made(pending: Pending, stub: Uint8Array, isLittleEndian: boolean, result: number): void {
    this.activated = result;
    if (hasFailed(result) || pending.uuid === activation) return;
    const made = attempted(() => {
      const { made: octets } = readAnswer(remoteCreateInstance, stub, isLittleEndian).out;
      return octets && readMade(octets);
    });
    const ports = new Set(made?.bindings.strings.flatMap(({ port }) => (port === null ? [] : [port])));
    for (const port of ports) this.say(`The object is at port ${port}.`);
  }

  private faultedBy(pdu: PduOf<'fault'>): void {
    const pending = this.forget(pdu.callId);
    const operation = pending ? operationNamed(pending.uuid, pending.operation) : 'A call';
    if (pending?.call) pending.call.result = code(pdu.status);
    this.faulted = { operation, code: pdu.status >>> 0 };
  }

  private isHidden({ verifier }: { readonly verifier: Verifier | null }): boolean {
    return verifier?.level === encrypted;
  }

  /** Who calls, and how calls are secured. */
  private verified({ type, level, value }: Verifier): void {
    this.level = Math.max(this.level, level < levels.length ? level : 0);
    const at = signatureIn(value);
    if (at < 0) {
      if (packages[type] && type !== 10) this.say(`${packages[type]} was used to sign in.`);
      return;
    }
    const message = value.subarray(at);
    const kind = message[8];
    if (kind === 2) {
      const target = attempted(() => readChallenge(message).targetName);
      if (target) this.say(`The server calls itself ${target}.`);
    }
    if (kind !== 3) return;
    const told = attempted(() => readAuthenticate(message));
    if (!told) return;
    if (told.user === '') this.say('The caller gave no name (anonymous).');
    else this.user = told.domain === '' ? told.user : `${told.domain}\\${told.user}`;
    if (told.workstation !== '') this.say(`The caller’s machine calls itself ${told.workstation}.`);
  }

  private say(sentence: string): void {
    if (this.said.length < 32 && !this.said.includes(sentence)) this.said.push(sentence);
  }
}

const opposite = (end: End): End => (end === 0 ? 1 : 0);

/** Where a message of NTLM begins, alone or within another package’s; negative: there is none. */
function signatureIn(value: Uint8Array): number {
  const octets = Buffer.from(value.buffer, value.byteOffset, value.length);
  return octets.indexOf('NTLMSSP\0', 0, 'latin1');
}

/** What every operation of these interfaces answers last. */
function lastWord(stub: Uint8Array, isLittleEndian: boolean): number | null {
  if (stub.length < 4) return null;
  return new OctetReader(stub.subarray(stub.length - 4), isLittleEndian).u32();
}

/** null: it can’t be read. */
function attempted<Value>(read: () => Value): Value | null {
  try {
    return read();
  } catch (error) {
    if (error instanceof WireFault || error instanceof ComFailure || error instanceof RpcFault) return null;
    throw error;
  }
}
