import {
  chooseEndpoint,
  endpointUrlParts,
  judgeEndpointUrl,
  securityPolicyOf,
  validateCertificate,
} from '@loyal-hinge/core';
import type { CertificateValidation, EndpointDescription, EndpointUrlParts, FactOf, Purpose } from '@loyal-hinge/core';
import { isDeclared } from '../../net/address-ranges.js';
import { dialTcp, sayHello } from '../../net/dial.js';
import { resolveHost } from '../../net/resolve.js';
import { UaConnection } from '../../ua/connection.js';
import type { SeenEndpoint, SessionIdentity } from '../../ua/connection.js';
import type { Dial } from '../../ua/dialling-transport.js';
import { failureOf } from '../../ua/failure.js';
import type { ReadItem, UaSession } from '../../ua/session.js';
import { ItemFinder } from './find-items.js';
import type { CheckLog, CheckMeans, LinkInPlant, ServerListEntry } from './means.js';

/**
 * Walks a link through its steps, live, as the link's client would, and notes what it observes.
 * It judges nothing: where a step can't go on, the later ones simply have no facts.
 * Sessions, channels and connections are closed whatever happens; a thrown error ends in a fact.
 * @param use what to do with the session instead of looking for the link's items; it is closed when this ends
 */
export async function walkLink(
  subject: LinkInPlant,
  means: CheckMeans,
  log: CheckLog,
  signal: AbortSignal,
  use: UseSession | null = null,
): Promise<void> {
  const walk = new LinkWalk(subject, means, log, signal, use);
  try {
    await walk.run();
  } catch (error) {
    const reason = signal.aborted ? 'it was cancelled.' : failureOf(error).reason || failureOf(error).code;
    log.note({ kind: 'check-stopped', during: walk.during, reason });
  }
}

export type UseSession = (session: UaSession) => Promise<void>;

const noServerCertificate: CertificateValidation = {
  status: 'BadCertificateInvalid',
  certificate: null,
  steps: [],
  problems: [
    {
      kind: 'cert-malformed',
      status: 'BadCertificateInvalid',
      subject: '',
      thumbprint: null,
      says: 'The endpoint is secured, and the server shows no certificate with it.',
    },
  ],
  path: [],
};

class LinkWalk {
  during = 'the start';

  constructor(
    private readonly subject: LinkInPlant,
    private readonly means: CheckMeans,
    private readonly log: CheckLog,
    private readonly signal: AbortSignal,
    private readonly use: UseSession | null,
  ) {}

  async run(): Promise<void> {
    const parts = this.judgeUrl();
    if (!parts) return;
    const addresses = await this.resolve(parts.host, 'link');
    const address = await this.reachAndGreet(parts, addresses);
    if (address === null) return;
    const dial = this.dialOf(parts, address);
    const endpoints = await this.discover(dial, parts);
    if (!endpoints) return;
    const chosen = this.choose(endpoints);
    if (!chosen) return;
    if (await this.validateServer(chosen, parts)) await this.talk(dial, chosen);
  }

  private begin(step: Parameters<CheckLog['begin']>[0], words: string): void {
    this.signal.throwIfAborted();
    this.during = words;
    this.log.begin(step);
  }

  private judgeUrl(): EndpointUrlParts | null {
    this.begin('name', 'the name');
    const { link, server } = this.subject;
    const judged = judgeEndpointUrl(link.endpointUrl, server.ports[0]);
    this.log.note(
      {
        kind: 'endpoint-url',
        given: judged.given,
        cleaned: judged.cleaned,
        host: judged.parts?.host ?? null,
        port: judged.parts?.port ?? null,
        flaws: judged.flaws,
      },
      'reckoned',
    );
    return judged.flaws.length > 0 ? null : judged.parts;
  }

  private async resolve(host: string, purpose: Purpose): Promise<readonly string[]> {
    const begun = performance.now();
    const resolution = await resolveHost(host, this.means.nameServer, this.means.limits.resolveMs, this.signal);
    this.signal.throwIfAborted();
    this.log.note({ kind: 'name-resolution', purpose, host, ...resolution, ms: Math.round(performance.now() - begun) });
    return resolution.addresses;
  }

  /** Dials every address, so that a mute one among several is noticed; greets the first that answers. */
  private async reachAndGreet(parts: EndpointUrlParts, resolved: readonly string[]): Promise<string | null> {
    if (resolved.length === 0) return null;
    this.begin('reach', 'the connection');
    const pinned = this.subject.link.pinnedAddress;
    const addresses = pinned === null ? resolved : [pinned];
    const sockets = await Promise.all(addresses.map((address) => this.connect(address, parts.port, 'link')));
    this.signal.throwIfAborted();
    const answering = addresses.find((_, index) => sockets[index]?.socket);
    const socket = sockets.find((result) => result.socket)?.socket;
    for (const { socket: other } of sockets) if (other !== socket) other?.destroy();
    if (answering === undefined || !socket) {
      await this.tryNeighbouringPorts(addresses, parts.port);
      return null;
    }
    this.begin('hello', 'the Hello');
    const said = await sayHello(socket, this.subject.link.endpointUrl, this.means.limits.helloMs, this.signal);
    const place = { kind: 'hello' as const, address: answering, port: parts.port, ms: said.ms };
    if (said.outcome !== 'answered') {
      this.log.note({ ...place, outcome: said.outcome });
      return null;
    }
    const { answer } = said;
    if (answer.kind === 'acknowledge') this.log.note({ ...place, outcome: 'acknowledged', limits: answer.limits });
    else if (answer.kind === 'error')
      this.log.note({ ...place, outcome: 'error', code: answer.codeName, reason: answer.reason });
    else
      this.log.note({ ...place, outcome: 'other', looksLike: answer.looksLike, firstBytesHex: answer.firstBytesHex });
    return answer.kind === 'acknowledge' ? answering : null;
  }

  private async connect(address: string, port: number, purpose: Purpose): ReturnType<typeof dialTcp> {
    if (!isDeclared(address, this.means.declaredRanges))
      throw new Error(`${address} lies outside the address ranges that the plant has declared, so it was not dialled.`);
    const from = this.near(address);
    const result = await dialTcp(address, port, from, this.means.limits.connectMs, this.signal);
    this.log.note({ kind: 'tcp-connect', purpose, from, address, port, outcome: result.outcome, ms: result.ms });
    return result;
  }

  private near(address: string): string | null {
    const own = this.subject.clientMachine.addresses[0] ?? null;
    return this.means.dialFromClientAddress && own?.includes(':') === address.includes(':') ? own : null;
  }

  private async tryNeighbouringPorts(addresses: readonly string[], port: number): Promise<void> {
    const [address] = addresses;
    const ports = this.subject.server.ports.filter((known) => known !== port);
    if (address === undefined) return;
    for (const other of ports) (await this.connect(address, other, 'neighbour')).socket?.destroy();
  }

  private dialOf(parts: EndpointUrlParts, address: string): Dial {
    return {
      endpointUrl: this.subject.link.endpointUrl,
      address,
      port: parts.port,
      from: this.near(address),
      timeoutMs: this.means.limits.callMs,
    };
  }

  private async discover(dial: Dial, parts: EndpointUrlParts): Promise<readonly SeenEndpoint[] | null> {
    this.begin('endpoints', 'GetEndpoints');
    const begun = performance.now();
    const ms = (): number => Math.round(performance.now() - begun);
    const unsecured = {
      securityPolicyUri: 'http://opcfoundation.org/UA/SecurityPolicy#None',
      securityMode: 'None' as const,
      serverCertificate: null,
    };
    const opened = await UaConnection.open(dial, unsecured, null, this.signal);
    if (!opened.ok) {
      this.signal.throwIfAborted();
      this.log.note({
        kind: 'endpoints',
        outcome: 'failed',
        code: opened.failure.code,
        reason: opened.failure.reason,
        ms: ms(),
      });
      return null;
    }
    try {
      const servers = await opened.value.findServers();
      this.log.note({
        kind: 'servers',
        servers: servers.ok ? servers.value : [],
        failure: servers.ok ? null : servers.failure.code,
        ms: ms(),
      });
      const endpoints = await opened.value.getEndpoints();
      this.signal.throwIfAborted();
      if (!endpoints.ok) {
        this.log.note({
          kind: 'endpoints',
          outcome: 'failed',
          code: endpoints.failure.code,
          reason: endpoints.failure.reason,
          ms: ms(),
        });
        return null;
      }
      this.log.note({
        kind: 'endpoints',
        outcome: 'listed',
        endpoints: endpoints.value.map((seen) => seen.description),
        ms: ms(),
      });
      if (this.means.earlierCertificate)
        this.log.note({ kind: 'earlier-server-certificate', certificate: this.means.earlierCertificate }, 'reported');
      for (const seen of endpoints.value) if (seen.certificate) this.log.keep(seen.certificate);
      const usable = await this.followAdvertised(endpoints.value, parts);
      return usable ? endpoints.value : null;
    } finally {
      await opened.value.close();
    }
  }

  /** Where the server advertises another host than the one dialled, looks whether the client could go there. */
  private async followAdvertised(endpoints: readonly SeenEndpoint[], parts: EndpointUrlParts): Promise<boolean> {
    const places = new Map(
      endpoints.flatMap(({ description }) => {
        const advertised = endpointUrlParts(description.endpointUrl);
        return advertised ? [[`${advertised.host}:${advertised.port}`, advertised] as const] : [];
      }),
    );
    if ([...places.values()].some((place) => place.host === parts.host)) return true;
    let usable = false;
    for (const place of places.values()) {
      const [address] = await this.resolve(place.host, 'advertised');
      if (address === undefined) continue;
      const { socket } = await this.connect(address, place.port, 'advertised');
      socket?.destroy();
      usable ||= socket !== null;
    }
    return usable;
  }

  private choose(endpoints: readonly SeenEndpoint[]): SeenEndpoint | null {
    this.begin('policy', 'the choice of an endpoint');
    const { client, link } = this.subject;
    const { chosen } = chooseEndpoint(
      endpoints.map((seen) => seen.description),
      client,
      link.chosenEndpoint,
    );
    return endpoints.find((seen) => seen.description === chosen) ?? null;
  }

  /** True where the client would go on: the certificate passes, or none is needed. */
  private async validateServer(chosen: SeenEndpoint, parts: EndpointUrlParts): Promise<boolean> {
    if (chosen.description.securityMode === 'None') return true;
    this.begin('server-certificate', 'the server’s certificate');
    const validation = chosen.certificate
      ? await validateCertificate({
          certificate: chosen.certificate,
          sentIssuers: chosen.issuers,
          trustList: this.means.clientTrust,
          at: new Date().toISOString(),
          applicationUri: chosen.description.applicationUri,
          host: parts.host,
          policy: securityPolicyOf(chosen.description.securityPolicyUri),
          crlsDemanded: this.means.crlsDemanded,
          warnDays: this.means.limits.warnDays,
        })
      : noServerCertificate;
    this.log.note({ kind: 'certificate-validation', of: 'server', validation }, 'reckoned');
    return validation.status === 'Good';
  }

  /** Looks for the client's certificate in the server's own lists, where there is a way to read them. */
  private async lookIntoServerLists(endpoint: EndpointDescription): Promise<void> {
    const { credentials, readServerLists } = this.means;
    if (!readServerLists || !credentials || endpoint.securityMode === 'None') return;
    this.begin('client-certificate', 'the server’s lists');
    const entries = await readServerLists(this.signal).catch((): readonly ServerListEntry[] => []);
    const own = Buffer.from(credentials.certificate);
    for (const entry of entries.filter(({ der }) => own.equals(der))) {
      this.log.note(
        {
          kind: 'listed-certificate',
          list: entry.list,
          thumbprint: entry.thumbprint,
          since: entry.since,
          by: entry.by,
        },
        'reported',
      );
      this.log.keep(entry.der);
    }
    const listed = (list: ServerListEntry['list']): Uint8Array[] =>
      entries.filter((entry) => entry.list === list).map((entry) => entry.der);
    const validation = await validateCertificate({
      certificate: credentials.certificate,
      sentIssuers: [],
      trustList: { trusted: listed('trusted'), issuers: listed('issuers'), crls: [] },
      at: new Date().toISOString(),
      applicationUri: credentials.applicationUri,
      host: null,
      policy: securityPolicyOf(endpoint.securityPolicyUri),
      crlsDemanded: false,
      warnDays: this.means.limits.warnDays,
    });
    this.log.note({ kind: 'certificate-validation', of: 'client', validation }, 'reckoned');
  }

  private async talk(dial: Dial, chosen: SeenEndpoint): Promise<void> {
    this.begin('secure-channel', 'OpenSecureChannel');
    const { securityPolicyUri, securityMode } = chosen.description;
    const secured = securityMode !== 'None';
    if (secured && !this.means.credentials)
      throw new Error('No key is kept for this client, so no secured channel can be opened as this client.');
    const begun = performance.now();
    const opened = await UaConnection.open(
      dial,
      { securityPolicyUri, securityMode, serverCertificate: secured ? chosen.certificate : null },
      this.means.credentials,
      this.signal,
    );
    this.signal.throwIfAborted();
    const channel = {
      kind: 'channel' as const,
      securityPolicyUri,
      securityMode,
      ms: Math.round(performance.now() - begun),
    };
    if (!opened.ok) {
      const { closed, code, reason } = opened.failure;
      this.log.note(
        closed ? { ...channel, outcome: 'closed', reason } : { ...channel, outcome: 'refused', code, reason },
      );
      await this.lookIntoServerLists(chosen.description);
      return;
    }
    try {
      this.log.note({ ...channel, outcome: 'open' });
      await this.signIn(opened.value, chosen.description);
    } finally {
      await opened.value.close();
    }
  }

  private async signIn(connection: UaConnection, endpoint: EndpointDescription): Promise<void> {
    this.begin('identity', 'the session');
    const { identity } = this.subject.link;
    const tokenType = identity.kind === 'user' ? ('UserName' as const) : ('Anonymous' as const);
    const token = endpoint.userTokens.find((offered) => offered.tokenType === tokenType);
    if (!token) return;
    const encrypts = endpoint.securityMode !== 'None' || (securityPolicyOf(token.securityPolicyUri)?.strength ?? 0) > 0;
    const fact = { kind: 'session' as const, tokenType, passwordInClear: false };
    if (identity.kind === 'user' && !encrypts) {
      this.log.note({ ...fact, outcome: 'withheld', reason: 'password in clear', ms: 0 });
      return;
    }
    if (identity.kind === 'user' && this.means.password === null) {
      this.log.note({ ...fact, outcome: 'withheld', reason: 'no password kept', ms: 0 });
      return;
    }
    const asking: SessionIdentity =
      identity.kind === 'user' ? { ...identity, password: this.means.password ?? '' } : { kind: 'anonymous' };
    const begun = performance.now();
    const opened = await connection.openSession(asking);
    const ms = Math.round(performance.now() - begun);
    this.signal.throwIfAborted();
    if (!opened.ok) {
      const { code, reason } = opened.failure;
      this.log.note({ ...fact, outcome: 'refused', code, reason, during: duringOf(code), ms });
      return;
    }
    const session = opened.value;
    try {
      const asked = Date.now();
      const serverTime = await session.serverTime().catch(() => null);
      const middle = (asked + Date.now()) / 2;
      this.log.note({
        ...fact,
        outcome: 'active',
        revisedSessionTimeoutMs: session.revisedSessionTimeoutMs,
        serverTime,
        clockApartMs: serverTime === null ? null : Math.round(Date.parse(serverTime) - middle),
        ms,
      });
      await (this.use ? this.use(session) : this.useItems(session));
    } finally {
      await session.close();
    }
  }

  private async useItems(session: UaSession): Promise<void> {
    const { needs } = this.subject.link;
    if (needs.length === 0) return;
    this.begin('browse', 'the search for items');
    const finder = new ItemFinder(session);
    const found = new Map<string, string>();
    for (const { path } of needs) {
      const fact = await finder.find(path);
      this.signal.throwIfAborted();
      this.log.note(fact);
      if (fact.outcome === 'found') found.set(path, fact.nodeId);
    }
    const there = needs.flatMap((item) => {
      const nodeId = found.get(item.path);
      return nodeId === undefined ? [] : [{ ...item, nodeId }];
    });
    if (there.length === 0) return;
    this.begin('read', 'reading');
    const begun = performance.now();
    const values = await session.read(there.map((item) => item.nodeId));
    const ms = Math.round(performance.now() - begun);
    there.forEach(({ path, nodeId }, index) => {
      const read = values[index];
      if (read) this.log.note(itemRead(path, nodeId, read, ms));
    });
    const watched = there.filter((item) => item.uses.includes('watch'));
    if (watched.length > 0) await this.watch(session, watched);
  }

  /** Subscribes, waits for the first notification of every item and then for one change, or until the time is up. */
  private async watch(session: UaSession, items: readonly { path: string; nodeId: string }[]): Promise<void> {
    this.begin('watch', 'watching');
    const begun = performance.now();
    const heard = items.map(() => ({ firstMs: null as number | null, notifications: 0 }));
    let keepAlives = 0;
    let wake: () => void = () => undefined;
    const woken = new Promise<void>((resolve) => (wake = resolve));
    const isDone = (): boolean =>
      heard.every((item) => item.firstMs !== null) && heard.some((item) => item.notifications > 1);
    const watching = await session.watch(
      items.map((item) => item.nodeId),
      samplingIntervalMs,
      samplingIntervalMs,
      (index) => {
        const item = heard[index];
        if (!item) return;
        item.firstMs ??= Math.round(performance.now() - begun);
        item.notifications += 1;
        if (isDone()) wake();
      },
      () => (keepAlives += 1),
    );
    const timer = setTimeout(() => wake(), this.means.limits.watchMs);
    const cancel = (): void => wake();
    this.signal.addEventListener('abort', cancel, { once: true });
    if (watching.every((item) => item.code !== 'Good')) wake();
    await woken;
    clearTimeout(timer);
    this.signal.removeEventListener('abort', cancel);
    await watching[0]?.stop();
    this.signal.throwIfAborted();
    items.forEach(({ path }, index) => {
      const state = watching[index];
      const counts = heard[index];
      if (!state || !counts) return;
      this.log.note({
        kind: 'item-watched',
        path,
        code: state.code,
        requestedSamplingIntervalMs: samplingIntervalMs,
        revisedSamplingIntervalMs: state.revisedSamplingIntervalMs,
        revisedPublishingIntervalMs: state.revisedPublishingIntervalMs,
        firstNotificationMs: counts.firstMs,
        changes: Math.max(0, counts.notifications - 1),
        keepAlives,
        waitedMs: Math.round(performance.now() - begun),
      });
    });
  }
}

const samplingIntervalMs = 250;

/** Codes that only CreateSession gives; all others come from ActivateSession, where the user is looked at. */
const createSessionCodes = [
  'BadTooManySessions',
  'BadServerUriInvalid',
  'BadApplicationSignatureInvalid',
  'BadCertificateUriInvalid',
];
const duringOf = (code: string): 'CreateSession' | 'ActivateSession' =>
  createSessionCodes.includes(code) ? 'CreateSession' : 'ActivateSession';

function itemRead(
  path: string,
  nodeId: string,
  read: ReadItem,
  ms: number,
): Omit<FactOf<'item-read'>, 'id' | 'source' | 'at'> {
  const { code, value, dataType, sourceTimestamp, serverTimestamp, accessLevel, userAccessLevel } = read;
  return {
    kind: 'item-read',
    path,
    nodeId,
    code,
    value,
    dataType,
    sourceTimestamp,
    serverTimestamp,
    accessLevel,
    userAccessLevel,
    ms,
  };
}
