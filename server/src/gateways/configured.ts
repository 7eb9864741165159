import {
  endpointName,
  faultsOfRelays,
  linkUrlParts,
  programOf,
  securityPolicyOf,
  signInNameOf,
  usualCalls,
} from '@loyal-hinge/core';
import type { LinkInPlant, OfferedEndpoint } from '@loyal-hinge/core';
import { gatewayPolicies } from '@loyal-hinge/contract/line';
import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import { slug } from '../system/slug.js';
import type { ClassicPart, KnownGateway } from './store.js';

/** A server that a gateway shall read. */
export interface PlannedSource {
  readonly subject: LinkInPlant;
  /** The endpoint that its link takes, as a check saw it last; null: none was seen that fits. */
  readonly endpoint: OfferedEndpoint | null;
  /** null: none is kept that may go there. */
  readonly password: string | null;
  /** Where it is dialled. */
  readonly at: { readonly address: string; readonly port: number } | null;
}

/** A client that shall read from a gateway. */
export interface PlannedReader {
  readonly subject: LinkInPlant;
  /** Its password as it may lie at the gateway; null: none is kept. */
  readonly passwordLine: string | null;
  /** The password itself, for a reader by classic OPC; null: none is kept, or it is of no use there. */
  readonly password: string | null;
}

export interface PlannedGateway {
  readonly known: Pick<KnownGateway, 'outpost' | 'server' | 'address' | 'port' | 'places' | 'relays' | 'classic'>;
  readonly sources: readonly PlannedSource[];
  readonly readers: readonly PlannedReader[];
  readonly hasIssuers: boolean;
  readonly hasCrls: boolean;
  readonly hasTrusted: boolean;
}

/** Names of the files beside its configuration. */
export const gatewayFiles = {
  certificate: 'own.pem',
  key: 'own-key.pem',
  trusted: 'trusted.pem',
  issuers: 'issuers.pem',
  crls: 'crls.pem',
} as const;

export const sourceName = (linkId: string): string => slug(linkId);
export const passwordFile = (linkId: string): string => `password-${slug(linkId)}.txt`;

type GatewayPolicy = (typeof gatewayPolicies)[number];
const policyOf = (endpoint: OfferedEndpoint): GatewayPolicy | null =>
  gatewayPolicies.find((policy) => policy === securityPolicyOf(endpoint.securityPolicyUri)?.name) ?? null;

/** Why a gateway can’t read by a link; null: it can. */
export function whySourceIsLeftOut({
  subject: { link, server },
  endpoint,
  password,
  at,
}: PlannedSource): string | null {
  if (link.identity.kind === 'certificate') return 'A gateway signs in with a name and a password, or anonymously.';
  if (link.identity.kind === 'user' && password === null)
    return `No password is kept for “${link.identity.userName}” there. Give it on the page of the link.`;
  if (!at) return 'Its URL can’t be dialled.';
  if (link.kind === 'classic') return null;
  if (!endpoint)
    return `No check has seen an endpoint of ${server.name} that this link can take. Check the link, and it is told to the gateway.`;
  return policyOf(endpoint) ? null : `A gateway does not use the policy of ${endpointName(endpoint)}.`;
}

/** Why a gateway can’t let a client in as its link says; null: it lets it in. */
export function whyReaderIsLeftOut({ subject: { link }, passwordLine }: PlannedReader): string | null {
  if (link.identity.kind === 'certificate') return 'A gateway takes a name and a password, or anonymous users.';
  if (link.identity.kind === 'user' && passwordLine === null)
    return `No password is kept for “${link.identity.userName}”. Give it on the page of the link.`;
  if (link.kind === 'classic' && link.identity.kind !== 'user')
    return 'Its classic clients sign in with a name and a password.';
  return null;
}

export const mayWrite = ({ link }: LinkInPlant): boolean => link.needs.some(({ uses }) => uses.includes('write'));

/** What a gateway shall hold. */
export function configurationOf(planned: PlannedGateway): GatewayConfiguration {
  const { known, sources, readers } = planned;
  const read = sources.filter((source) => whySourceIsLeftOut(source) === null);
  const isRead = (linkId: string): boolean => read.some(({ subject }) => subject.link.id === linkId);
  return {
    name: slug(known.outpost.id),
    certificateFile: gatewayFiles.certificate,
    keyFile: gatewayFiles.key,
    trustedFiles: planned.hasTrusted ? [gatewayFiles.trusted] : [],
    issuerFiles: planned.hasIssuers ? [gatewayFiles.issuers] : [],
    crlFiles: planned.hasCrls ? [gatewayFiles.crls] : [],
    sources: read.map(sourceOf),
    places: [
      ...known.places
        .filter(({ linkId }) => isRead(linkId))
        .map(({ linkId, ...rule }) => ({ source: sourceName(linkId), ...rule })),
      ...read
        .filter(({ subject }) => !known.places.some(({ linkId }) => linkId === subject.link.id))
        .flatMap(({ subject }) => placesFromNeeds(subject)),
    ],
    faces: [
      faceOf(
        known,
        readers.filter(({ subject }) => subject.link.kind === 'ua'),
      ),
      ...(known.classic
        ? [
            classicFaceOf(
              known,
              known.classic,
              readers.filter(({ subject }) => subject.link.kind === 'classic'),
            ),
          ]
        : []),
    ],
    relays: known.relays
      .filter(({ from, to }) => isRead(from.linkId) && isRead(to.linkId))
      .map(({ from, to, ...relay }) => ({
        ...relay,
        from: { source: sourceName(from.linkId), path: from.path },
        to: { source: sourceName(to.linkId), path: to.path },
      })),
  };
}

function sourceOf(planned: PlannedSource): GatewayConfiguration['sources'][number] {
  const { subject, endpoint, at } = planned;
  const { link } = subject;
  if (link.kind === 'classic') return classicSourceOf(planned);
  const policy = endpoint && policyOf(endpoint);
  if (!endpoint || !policy || !at) throw new Error(`${link.id} has nothing to be dialled by`);
  return {
    kind: 'ua',
    name: sourceName(link.id),
    endpointUrl: `opc.tcp://${at.address.includes(':') ? `[${at.address}]` : at.address}:${at.port}`,
    policy,
    mode: endpoint.securityMode,
    ...(link.identity.kind === 'user'
      ? { user: { name: link.identity.userName, passwordFile: passwordFile(link.id) } }
      : {}),
    publishingMs: 250,
    silenceMs: 5_000,
    events: link.needs.filter(({ path, uses }) => uses.includes('alarms') && !isNodeId(path)).map(({ path }) => path),
  };
}

function classicSourceOf({ subject: { link }, at }: PlannedSource): GatewayConfiguration['sources'][number] {
  const parts = linkUrlParts(link);
  if (!at || !parts) throw new Error(`${link.id} has nothing to be dialled by`);
  const { level, updateRateMs } = link.classic ?? usualCalls;
  return {
    kind: 'classic',
    name: sourceName(link.id),
    host: at.address,
    mapperPort: at.port,
    program: programOf(parts),
    ...(link.identity.kind === 'user'
      ? { user: { name: link.identity.userName, passwordFile: passwordFile(link.id) } }
      : {}),
    level,
    publishingMs: Math.min(60_000, Math.max(50, updateRateMs)),
    silenceMs: 5_000,
  };
}

/** By which classic clients know a gateway: `Gateway.Office.1`. */
export const programOfGateway = (id: string): string =>
  `Gateway.${id
    .split('-')
    .map((part) => `${part.slice(0, 1).toUpperCase()}${part.slice(1)}`)
    .join('')
    .slice(0, 30)}.1`;

/** In which file the password of a reader lies at the gateway: classic OPC compares what is made of the password itself. */
export const readerFile = (linkId: string): string => `reader-${slug(linkId)}.txt`;

function classicFaceOf(
  { address, outpost }: PlannedGateway['known'],
  { mapperPort, clsid }: ClassicPart,
  readers: readonly PlannedReader[],
): GatewayConfiguration['faces'][number] {
  const users = new Map<string, { name: string; passwordFile: string; mayWrite: boolean }>();
  for (const reader of readers) {
    if (whyReaderIsLeftOut(reader) !== null) continue;
    const { link } = reader.subject;
    const name = signInNameOf(link.identity).replace(/^.*\\/, '');
    const before = users.get(name.toLowerCase());
    users.set(name.toLowerCase(), {
      name,
      passwordFile: readerFile(link.id),
      mayWrite: (before?.mayWrite ?? false) || mayWrite(reader.subject),
    });
  }
  return {
    kind: 'classic',
    address,
    mapperPort,
    objectPort: 0,
    clsid,
    program: programOfGateway(outpost.id),
    level: 'integrity',
    users: [...users.values()],
  };
}

/** What a link needs is shown under the name of its server, where nobody has said otherwise. */
export const placesFromNeeds = ({ link, server }: LinkInPlant): GatewayConfiguration['places'] =>
  link.needs
    .filter(({ path }) => !isNodeId(path))
    .map(({ path, uses }) => ({
      source: sourceName(link.id),
      // Items of classic servers have names, whose parts points divide.
      items: link.kind === 'classic' ? path.replaceAll('.', '/') : path,
      domain: server.name.replaceAll('/', ' ').slice(0, 100),
      withoutFirst: 0,
      isWritable: uses.includes('write'),
    }));

const isNodeId = (path: string): boolean => /^(ns=\d+;)?[isgb]=/.test(path);

function faceOf(
  { address, port }: PlannedGateway['known'],
  readers: readonly PlannedReader[],
): GatewayConfiguration['faces'][number] {
  const letIn = readers.filter((reader) => whyReaderIsLeftOut(reader) === null);
  const users = new Map<string, { name: string; password: string; mayWrite: boolean }>();
  for (const { subject, passwordLine } of letIn) {
    if (passwordLine === null) continue;
    const name = signInNameOf(subject.link.identity);
    const before = users.get(name);
    users.set(name, {
      name,
      password: passwordLine,
      mayWrite: (before?.mayWrite ?? false) || mayWrite(subject),
    });
  }
  return {
    kind: 'ua',
    address,
    port,
    policies: ['Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'],
    modes: ['Sign', 'SignAndEncrypt'],
    allowsAnonymous: letIn.some(({ subject }) => subject.link.identity.kind === 'anonymous'),
    users: [...users.values()],
  };
}

/** What is wrong with the relays of a gateway, taken together; empty: nothing. */
export const faultsAmong = (relays: KnownGateway['relays']): readonly string[] =>
  faultsOfRelays(
    relays.map(({ from, to, ...relay }) => ({
      ...relay,
      from: { source: from.linkId, path: from.path },
      to: { source: to.linkId, path: to.path },
    })),
  ).map(({ says }) => says);
