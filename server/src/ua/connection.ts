import { MessageSecurityMode, OPCUAClient, UserTokenType } from 'node-opcua-client';
import type { ClientSession, EndpointDescription as LibraryEndpoint } from 'node-opcua-client';
import { InMemoryCertificateKeyPairProvider } from 'node-opcua-common';
import { makePrivateKeyFromPem } from 'node-opcua-crypto/web';
import { ApplicationType } from 'node-opcua-types';
import { readCertificate, readIssuedPolicy, splitDerChain } from '@loyal-hinge/core';
import type { ApplicationDescription, EndpointDescription, SecurityMode, UserTokenPolicy } from '@loyal-hinge/core';
import { DiallingTransport } from './dialling-transport.js';
import type { Dial } from './dialling-transport.js';
import { failureOf } from './failure.js';
import type { UaFailure } from './failure.js';
import { PinnedCertificate } from './pinned-certificate.js';
import { UaSession } from './session.js';
import { spokenPolicyOf } from './spoken-policies.js';
import { within } from './within.js';

export type Attempt<Value> =
  { readonly ok: true; readonly value: Value } | { readonly ok: false; readonly failure: UaFailure };

/** A client application with its key: only ever in memory. */
export interface ClientCredentials {
  readonly applicationUri: string;
  readonly certificate: Uint8Array;
  readonly privateKeyPem: string;
}

/** The endpoint to open a channel to. */
export interface ChannelTarget {
  readonly securityPolicyUri: string;
  readonly securityMode: SecurityMode;
  /** The server's certificate as our own validation let it through; null without security. */
  readonly serverCertificate: Uint8Array | null;
}

export type SessionIdentity =
  | { readonly kind: 'anonymous' }
  | { readonly kind: 'user'; readonly userName: string; readonly password: string }
  /** An X.509 certificate of a user, DER, and its key. */
  | { readonly kind: 'certificate'; readonly certificate: Uint8Array; readonly privateKeyPem: string };

/** An endpoint with its certificate's bytes, which facts leave out. */
export interface SeenEndpoint {
  readonly description: EndpointDescription;
  readonly certificate: Uint8Array | null;
  readonly issuers: readonly Uint8Array[];
}

/** A secure channel to one server, with the calls that a check makes over it. Always close it. */
export class UaConnection {
  /** The service that the newest session failed in: the last one that was called, whatever code it gave. */
  failedService: 'CreateSession' | 'ActivateSession' = 'CreateSession';

  private constructor(
    private readonly client: OPCUAClient,
    private readonly dial: Dial,
    private readonly signal: AbortSignal,
  ) {}

  /** Connects and opens a secure channel: HEL/ACK and OpenSecureChannel, nothing else. */
  static async open(
    dial: Dial,
    target: ChannelTarget,
    credentials: ClientCredentials | null,
    signal: AbortSignal,
  ): Promise<Attempt<UaConnection>> {
    const client = await makeClient(dial, target, credentials);
    const connection = new UaConnection(client, dial, signal);
    try {
      await within(dial.timeoutMs, signal, client.connect(dial.endpointUrl));
      return { ok: true, value: connection };
    } catch (error) {
      await connection.close();
      return { ok: false, failure: failureOf(error) };
    }
  }

  /** FindServers (Part 4 §5.5.2). */
  findServers(): Promise<Attempt<readonly ApplicationDescription[]>> {
    return this.attempt(async () => {
      const servers = await this.client.findServers({ endpointUrl: this.dial.endpointUrl });
      return servers.map((server) => ({
        applicationUri: server.applicationUri ?? '',
        applicationName: server.applicationName.text ?? '',
        applicationType: applicationTypes[server.applicationType] ?? 'Server',
        discoveryUrls: (server.discoveryUrls ?? []).flatMap((url) => url ?? []),
      }));
    });
  }

  /** FindServersOnNetwork (Part 4 §5.5.3): discovery URLs; many servers don’t have it. */
  findServersOnNetwork(): Promise<Attempt<readonly string[]>> {
    return this.attempt(async () => {
      const servers = await this.client.findServersOnNetwork({ maxRecordsToReturn: 1000 });
      return servers.flatMap(({ discoveryUrl }) => discoveryUrl ?? []);
    });
  }

  /** GetEndpoints (Part 4 §5.5.4). */
  getEndpoints(): Promise<Attempt<readonly SeenEndpoint[]>> {
    return this.attempt(async () => {
      const endpoints = await this.client.getEndpoints({ endpointUrl: this.dial.endpointUrl });
      return Promise.all(endpoints.map(seenEndpoint));
    });
  }

  /** CreateSession and ActivateSession (Part 4 §5.7); the library verifies the server's signature and nonce. */
  openSession(identity: SessionIdentity): Promise<Attempt<UaSession>> {
    this.failedService = 'CreateSession';
    const called = ({ schema }: { readonly schema?: { readonly name?: string } }): void => {
      if (schema?.name === 'ActivateSessionRequest') this.failedService = 'ActivateSession';
    };
    this.client.on('send_request', called);
    return this.attempt(async () => {
      const session: ClientSession = await this.client.createSession(
        identity.kind === 'anonymous'
          ? { type: UserTokenType.Anonymous }
          : identity.kind === 'user'
            ? { type: UserTokenType.UserName, userName: identity.userName, password: identity.password }
            : {
                type: UserTokenType.Certificate,
                certificateData: Buffer.from(identity.certificate),
                privateKey: identity.privateKeyPem,
              },
      );
      return new UaSession(session, this.dial.timeoutMs, this.signal, lossOf(this.client, session));
    }).finally(() => this.client.off('send_request', called));
  }

  /** Closes channel and connection; never throws and never waits long. */
  async close(): Promise<void> {
    await within(closeMs, new AbortController().signal, this.client.disconnect()).catch(() => undefined);
  }

  private async attempt<Value>(call: () => Promise<Value>): Promise<Attempt<Value>> {
    try {
      return { ok: true, value: await within(this.dial.timeoutMs, this.signal, call()) };
    } catch (error) {
      return { ok: false, failure: failureOf(error) };
    }
  }
}

/** Resolves when a session can’t be used any more, whoever ended it. */
const lossOf = (client: OPCUAClient, session: ClientSession): Promise<void> =>
  new Promise((resolve) => {
    const lost = (): void => resolve();
    client.once('connection_lost', lost);
    client.once('start_reconnection', lost);
    client.once('close', lost);
    session.once('session_closed', lost);
  });

const closeMs = 2000;
const discoveryUri = 'urn:loyal-hinge:discovery';

const applicationTypes: Readonly<Record<number, ApplicationDescription['applicationType']>> = {
  [ApplicationType.Server]: 'Server',
  [ApplicationType.Client]: 'Client',
  [ApplicationType.ClientAndServer]: 'ClientAndServer',
  [ApplicationType.DiscoveryServer]: 'DiscoveryServer',
};

async function makeClient(
  dial: Dial,
  target: ChannelTarget,
  credentials: ClientCredentials | null,
): Promise<OPCUAClient> {
  const securityPolicy = spokenPolicyOf(target.securityPolicyUri);
  if (securityPolicy === null) throw new Error(`no channel can be opened with ${target.securityPolicyUri}`);
  return OPCUAClient.create({
    applicationName: 'Loyal Hinge',
    applicationUri: credentials?.applicationUri ?? discoveryUri,
    securityMode: MessageSecurityMode[target.securityMode],
    securityPolicy,
    endpointMustExist: false,
    keepSessionAlive: false,
    connectionStrategy: { maxRetry: 0, initialDelay: 100, maxDelay: 100 },
    transportTimeout: dial.timeoutMs,
    defaultTransactionTimeout: dial.timeoutMs,
    requestedSessionTimeout: 30_000,
    clientCertificateManager: new PinnedCertificate(target.serverCertificate),
    certificateKeyPairProvider: await keyPairOf(credentials),
    ...(target.serverCertificate ? { serverCertificate: Buffer.from(target.serverCertificate) } : {}),
    transportFactory: { create: (settings) => new DiallingTransport(dial, settings) },
  });
}

function keyPairOf(credentials: ClientCredentials | null): Promise<InMemoryCertificateKeyPairProvider> {
  if (!credentials) return (throwaway ??= makeThrowaway());
  const key = makePrivateKeyFromPem(credentials.privateKeyPem);
  return Promise.resolve(new InMemoryCertificateKeyPairProvider([Buffer.from(credentials.certificate)], key));
}

/** The library wants a certificate even where none is sent: made once, never kept, trusted by nobody. */
let throwaway: Promise<InMemoryCertificateKeyPairProvider> | null = null;

async function makeThrowaway(): Promise<InMemoryCertificateKeyPairProvider> {
  const provider = new InMemoryCertificateKeyPairProvider();
  await provider.ensureCertificateExists({ applicationUri: discoveryUri, subject: '/CN=Loyal Hinge', dns: [] });
  return provider;
}

const modes: Readonly<Record<number, SecurityMode>> = {
  [MessageSecurityMode.None]: 'None',
  [MessageSecurityMode.Sign]: 'Sign',
  [MessageSecurityMode.SignAndEncrypt]: 'SignAndEncrypt',
};

const tokenTypes: Readonly<Record<number, UserTokenPolicy['tokenType']>> = {
  [UserTokenType.Anonymous]: 'Anonymous',
  [UserTokenType.UserName]: 'UserName',
  [UserTokenType.Certificate]: 'Certificate',
  [UserTokenType.IssuedToken]: 'IssuedToken',
};

async function seenEndpoint(endpoint: LibraryEndpoint): Promise<SeenEndpoint> {
  const chain = splitDerChain(new Uint8Array(endpoint.serverCertificate)) ?? [
    new Uint8Array(endpoint.serverCertificate),
  ];
  const [leaf, ...issuers] = chain;
  const read = leaf ? readCertificate(leaf) : null;
  return {
    certificate: leaf ?? null,
    issuers,
    description: {
      endpointUrl: endpoint.endpointUrl ?? '',
      applicationUri: endpoint.server.applicationUri ?? '',
      securityPolicyUri: endpoint.securityPolicyUri ?? '',
      securityMode: modes[endpoint.securityMode] ?? 'None',
      securityLevel: endpoint.securityLevel,
      userTokens: (endpoint.userIdentityTokens ?? []).map((token) => ({
        policyId: token.policyId ?? '',
        tokenType: tokenTypes[token.tokenType] ?? 'IssuedToken',
        securityPolicyUri: token.securityPolicyUri ?? '',
        ...(token.tokenType === UserTokenType.IssuedToken
          ? { issued: readIssuedPolicy(token.issuedTokenType ?? '', token.issuerEndpointUrl ?? '') }
          : {}),
      })),
      certificate: read?.ok ? read.certificate.summary : null,
    },
  };
}
