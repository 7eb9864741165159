import {
  AttributeIds,
  BrowseDirection,
  ClientMonitoredItem,
  LocalizedText,
  TimestampsToReturn,
} from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import { AnonymousIdentityToken, EventFilter, UserNameIdentityToken, X509IdentityToken } from 'node-opcua-types';
import { Variant } from 'node-opcua-variant';
import { isAuditType, readCertificate } from '@loyal-hinge/core';
import type { AuditFields } from '@loyal-hinge/core';
import { begunItem, endOf } from './monitored-item.js';
import type { Limited } from './monitored-item.js';
import { longestText, textOf } from './read-value.js';

/** An audit event with whom it names. */
export interface HeardAuditEvent extends AuditFields {
  /** SHA-1 of the certificate that it names, in capital hexadecimal; null: it names none. */
  readonly thumbprint: string | null;
}

export interface AuditListening {
  /** Whether it is listened to. */
  readonly code: string;
  /** Server.Auditing (Part 5 §6.3.1); null: the server does not tell. */
  readonly isAuditing: boolean | null;
  stop(): Promise<void>;
}

const server = 'i=2253';
const auditing = 'i=2994';
/** What is above a type is looked for so far. */
const mostTypesAbove = 12;
/** Kinds of audit events that a vendor has added; of more nobody keeps track. */
const mostTypesKnown = 500;

/** What is asked of each event, by the type that has the field (Part 5 §6.4). */
export const auditFields = [
  ['i=2041', 'EventType'],
  ['i=2041', 'SourceNode'],
  ['i=2041', 'SourceName'],
  ['i=2041', 'Time'],
  ['i=2041', 'Message'],
  ['i=2052', 'ActionTimeStamp'],
  ['i=2052', 'Status'],
  ['i=2052', 'ClientUserId'],
  ['i=2058', 'StatusCodeId'],
  ['i=2060', 'ClientCertificate'],
  ['i=2060', 'ClientCertificateThumbprint'],
  ['i=2071', 'ClientCertificate'],
  ['i=2071', 'ClientCertificateThumbprint'],
  ['i=2075', 'UserIdentityToken'],
  ['i=2080', 'Certificate'],
  ['i=2748', 'EndpointUrl'],
  ['i=2100', 'AttributeId'],
  ['i=2100', 'OldValue'],
  ['i=2100', 'NewValue'],
  ['i=2127', 'MethodId'],
] as const;
type Field = (typeof auditFields)[number][1];

/** Listens to the audit events of a server; `heard` is called for each. What a method was called with is not asked for: it may be a password. */
export async function listenToAuditEvents(
  session: ClientSession,
  heard: (event: HeardAuditEvent) => void,
  limited: Limited,
): Promise<AuditListening> {
  const told = await limited(session.read({ nodeId: auditing, attributeId: AttributeIds.Value }));
  const subscription = await limited(
    session.createSubscription2({
      requestedPublishingInterval: 500,
      requestedLifetimeCount: 1000,
      requestedMaxKeepAliveCount: 10,
      maxNotificationsPerPublish: 1000,
      publishingEnabled: true,
      priority: 1,
    }),
  );
  const types = new EventTypes(session, limited);
  const item = ClientMonitoredItem.create(
    subscription,
    { nodeId: server, attributeId: AttributeIds.EventNotifier },
    { samplingInterval: 0, queueSize: 1000, discardOldest: true, filter: filterFor() },
    TimestampsToReturn.Both,
  );
  // One after the other, so that they are told in the order in which they came.
  let turn = Promise.resolve();
  item.on('changed', (values: unknown) => {
    turn = turn.then(async () => {
      const event = await auditEventIn(values, (typeId) => types.auditTypeOf(typeId));
      if (event) heard(event);
    });
  });
  const isAuditing: unknown = told.statusCode.isGood() ? told.value.value : null;
  return {
    code: await begunItem(item, limited),
    isAuditing: typeof isAuditing === 'boolean' ? isAuditing : null,
    stop: endOf(subscription),
  };
}

/**
 * An event as it came, by the fields that were asked for.
 * @param auditTypeOf which of the standard’s audit events a type is; null: none
 * @returns null: it is no audit event
 */
export async function auditEventIn(
  values: unknown,
  auditTypeOf: (typeId: string) => Promise<string | null>,
): Promise<HeardAuditEvent | null> {
  const fields = fieldsIn(values);
  const typeId = await auditTypeOf(String(fields('EventType') ?? ''));
  return typeId === null ? null : eventOf(typeId, fields);
}

const filterFor = (): EventFilter =>
  new EventFilter({
    selectClauses: auditFields.map(([typeDefinitionId, name]) => ({
      typeDefinitionId,
      browsePath: [{ name }],
      attributeId: AttributeIds.Value,
    })),
  });

type Fields = (name: Field) => unknown;

/** By name, what an event holds; where two types have a field of the same name, the one that is there. */
function fieldsIn(values: unknown): Fields {
  const list = Array.isArray(values) ? (values as readonly unknown[]) : [];
  return (name) => {
    for (const [place, [, own]] of auditFields.entries()) {
      const one = list[place];
      if (own === name && one instanceof Variant && one.value !== null) return one.value as unknown;
    }
    return null;
  };
}

function eventOf(typeId: string, fields: Fields): HeardAuditEvent {
  const told = (name: Field): string | null => short(fields(name));
  const message = fields('Message');
  const [at, time] = [fields('ActionTimeStamp'), fields('Time')];
  const status = fields('Status');
  const code = fields('StatusCodeId');
  const attributeId = fields('AttributeId');
  const written = (name: 'OldValue' | 'NewValue'): string | null => {
    const value = fields(name);
    return value === null ? null : textOf(value, undefined);
  };
  return {
    typeId,
    at: at instanceof Date ? at.toISOString() : time instanceof Date ? time.toISOString() : null,
    sourceName: told('SourceName') ?? '',
    message: (message instanceof LocalizedText ? (message.text ?? '') : '').slice(0, longestText),
    status: typeof status === 'boolean' ? status : null,
    code: code !== null && typeof code === 'object' && 'name' in code ? short(code.name) : null,
    user: userIn(fields('UserIdentityToken')) ?? (told('ClientUserId') || null),
    node: told('SourceNode'),
    attributeId: typeof attributeId === 'number' ? attributeId : null,
    before: written('OldValue'),
    after: written('NewValue'),
    method: told('MethodId'),
    endpointUrl: told('EndpointUrl'),
    // What a server says to be the thumbprint is believed where it does not send the certificate itself.
    thumbprint:
      thumbprintIn(fields('Certificate')) ??
      thumbprintIn(fields('ClientCertificate')) ??
      toldThumbprint(told('ClientCertificateThumbprint')),
  };
}

const short = (value: unknown): string | null =>
  value === null || value === undefined ? null : String(value as string).slice(0, longestText);

/** The name in an identity token stands for itself; what a server calls the user beside it may be anything. */
function userIn(token: unknown): string | null {
  if (token instanceof UserNameIdentityToken) return short(token.userName);
  if (token instanceof AnonymousIdentityToken) return 'anonymous';
  if (!(token instanceof X509IdentityToken)) return null;
  const read = readCertificate(new Uint8Array(token.certificateData));
  return read.ok ? short(read.certificate.summary.subject) : null;
}

function thumbprintIn(certificate: unknown): string | null {
  if (!ArrayBuffer.isView(certificate) || certificate.byteLength === 0) return null;
  const read = readCertificate(new Uint8Array(certificate.buffer, certificate.byteOffset, certificate.byteLength));
  return read.ok ? read.certificate.summary.thumbprint : null;
}

/** In capitals without anything between; null: it can’t be one. */
function toldThumbprint(told: string | null): string | null {
  const digits = (told ?? '').replace(/[\s:-]/g, '').toUpperCase();
  return /^[0-9A-F]{40}$/.test(digits) ? digits : null;
}

/** Types of events, and which of the standard’s audit events they are; vendors have types of their own below those. */
export class EventTypes {
  private readonly known = new Map<string, string | null>();

  constructor(
    private readonly session: Pick<ClientSession, 'browse'>,
    private readonly limited: Limited,
  ) {}

  /** @returns null: it is no audit event */
  async auditTypeOf(typeId: string): Promise<string | null> {
    const plain = typeId.replace(/^ns=0;/, '');
    if (isAuditType(plain)) return plain;
    const before = this.known.get(plain);
    if (before !== undefined) return before;
    const found = await this.above(plain).catch(() => null);
    if (this.known.size < mostTypesKnown) this.known.set(plain, found);
    return found;
  }

  private async above(typeId: string): Promise<string | null> {
    for (let [at, hops] = [typeId, 0]; hops < mostTypesAbove && at !== ''; hops += 1) {
      const { references } = await this.limited(
        this.session.browse({
          nodeId: at,
          browseDirection: BrowseDirection.Inverse,
          referenceTypeId: 'HasSubtype',
          includeSubtypes: false,
          nodeClassMask: 0,
          resultMask: 0,
        }),
      );
      at = String(references?.[0]?.nodeId ?? '').replace(/^ns=0;/, '');
      if (isAuditType(at)) return at;
    }
    return null;
  }
}
