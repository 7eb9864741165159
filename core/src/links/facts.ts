import type { Instant } from '../time.js';
import type { SecurityMode } from '../ua/security-policies.js';
import type { ConnectionLimits, ForeignProtocol } from '../ua/tcp-messages.js';
import type { CertificateValidation } from '../trust/validation.js';
import type { CertificateSummary } from '../trust/certificate.js';
import type { EndpointUrlFlaw } from './endpoint-url.js';

/** How a fact came to be known: by a live attempt, computed from other facts, or read from a file or a log. */
export const factSources = ['tried', 'reckoned', 'reported'] as const;
export type FactSource = (typeof factSources)[number];

interface Observed {
  readonly id: string;
  readonly source: FactSource;
  readonly at: Instant;
}

/** What a collector writes down: something observed, never a judgement. */
export type FactBody =
  | EndpointUrlFact
  | NameResolutionFact
  | TcpConnectFact
  | HelloFact
  | ServersFact
  | EndpointsFact
  | EarlierServerCertificateFact
  | CertificateValidationFact
  | ListedCertificateFact
  | ChannelFact
  | AnonymousFact
  | SessionFact
  | ItemFoundFact
  | ItemReadFact
  | ItemWatchedFact
  | CheckStoppedFact;

export type Fact = Observed & FactBody;
export type FactKind = FactBody['kind'];
export type FactOf<Kind extends FactKind> = Extract<Fact, { readonly kind: Kind }>;

/** The link's endpoint URL as it stands in its settings. */
export interface EndpointUrlFact {
  readonly kind: 'endpoint-url';
  readonly given: string;
  readonly cleaned: string | null;
  readonly host: string | null;
  readonly port: number | null;
  readonly flaws: readonly EndpointUrlFlaw[];
}

/** For what a host was resolved or an address dialled: the link itself, an advertised URL, or another known port of the machine. */
export type Purpose = 'link' | 'advertised' | 'neighbour';

export interface NameResolutionFact {
  readonly kind: 'name-resolution';
  readonly purpose: Purpose;
  readonly host: string;
  readonly means: 'literal' | 'name server' | 'operating system';
  /** The name server asked, where one was. */
  readonly asked: string | null;
  readonly addresses: readonly string[];
  /** Why there is no address, as the resolver says. */
  readonly failure: string | null;
  readonly ms: number;
}

export type ConnectOutcome = 'open' | 'refused' | 'silent' | 'unreachable' | 'reset';

export interface TcpConnectFact {
  readonly kind: 'tcp-connect';
  readonly purpose: Purpose;
  readonly from: string | null;
  readonly address: string;
  readonly port: number;
  readonly outcome: ConnectOutcome;
  readonly ms: number;
}

/** HEL sent, and what came back. */
export type HelloFact = {
  readonly kind: 'hello';
  readonly address: string;
  readonly port: number;
  readonly ms: number;
} & (
  | { readonly outcome: 'acknowledged'; readonly limits: ConnectionLimits }
  | { readonly outcome: 'error'; readonly code: string; readonly reason: string }
  | { readonly outcome: 'other'; readonly looksLike: ForeignProtocol; readonly firstBytesHex: string }
  | { readonly outcome: 'silent' }
  | { readonly outcome: 'closed' }
);

export interface ApplicationDescription {
  readonly applicationUri: string;
  readonly applicationName: string;
  readonly applicationType: 'Server' | 'Client' | 'ClientAndServer' | 'DiscoveryServer';
  readonly discoveryUrls: readonly string[];
}

/** Answer to FindServers. */
export interface ServersFact {
  readonly kind: 'servers';
  readonly servers: readonly ApplicationDescription[];
  readonly failure: string | null;
  readonly ms: number;
}

export interface UserTokenPolicy {
  readonly policyId: string;
  readonly tokenType: 'Anonymous' | 'UserName' | 'Certificate' | 'IssuedToken';
  readonly securityPolicyUri: string;
}

export interface EndpointDescription {
  readonly endpointUrl: string;
  readonly applicationUri: string;
  readonly securityPolicyUri: string;
  readonly securityMode: SecurityMode;
  readonly securityLevel: number;
  readonly userTokens: readonly UserTokenPolicy[];
  /** The server's certificate of this endpoint, or null where it has none. */
  readonly certificate: CertificateSummary | null;
}

/** Answer to GetEndpoints, over an unsecured channel that is closed again at once. */
export type EndpointsFact = { readonly kind: 'endpoints'; readonly ms: number } & (
  | { readonly outcome: 'listed'; readonly endpoints: readonly EndpointDescription[] }
  | { readonly outcome: 'failed'; readonly code: string; readonly reason: string }
);

/** The server's certificate as the check before this one saw it. */
export interface EarlierServerCertificateFact {
  readonly kind: 'earlier-server-certificate';
  readonly certificate: CertificateSummary;
}

/** Our own validation of one side's certificate against the other side's trust list, step by step. */
export interface CertificateValidationFact {
  readonly kind: 'certificate-validation';
  readonly of: 'server' | 'client';
  readonly validation: CertificateValidation;
}

/** The client's certificate seen in one of the server's lists. */
export interface ListedCertificateFact {
  readonly kind: 'listed-certificate';
  readonly list: 'trusted' | 'issuers' | 'rejected';
  readonly thumbprint: string;
  readonly since: Instant | null;
  /** How the list was read. */
  readonly by: string;
}

export type ChannelFact = {
  readonly kind: 'channel';
  readonly securityPolicyUri: string;
  readonly securityMode: SecurityMode;
  readonly ms: number;
} & (
  | { readonly outcome: 'open' }
  | { readonly outcome: 'refused'; readonly code: string; readonly reason: string }
  | { readonly outcome: 'closed'; readonly reason: string }
);

/** An anonymous session was tried beside the link's own identity. */
export interface AnonymousFact {
  readonly kind: 'anonymous';
  readonly accepted: boolean;
  readonly code: string;
}

export type SessionFact = {
  readonly kind: 'session';
  readonly tokenType: UserTokenPolicy['tokenType'];
  /** True where a password was sent without any encryption. */
  readonly passwordInClear: boolean;
  readonly ms: number;
} & (
  | {
      readonly outcome: 'active';
      readonly revisedSessionTimeoutMs: number;
      readonly serverTime: Instant | null;
      readonly clockApartMs: number | null;
    }
  | {
      readonly outcome: 'refused';
      readonly code: string;
      readonly reason: string;
      readonly during: 'CreateSession' | 'ActivateSession';
    }
  | { readonly outcome: 'withheld'; readonly reason: 'password in clear' | 'no password kept' }
);

export type ItemFoundFact = { readonly kind: 'item-found'; readonly path: string; readonly ms: number } & (
  | { readonly outcome: 'found'; readonly nodeId: string }
  | { readonly outcome: 'missing'; readonly code: string; readonly nearest: string | null; readonly seen: number }
);

export interface ItemReadFact {
  readonly kind: 'item-read';
  readonly path: string;
  readonly nodeId: string;
  readonly code: string;
  readonly value: string | null;
  readonly dataType: string | null;
  readonly sourceTimestamp: Instant | null;
  readonly serverTimestamp: Instant | null;
  /** AccessLevel and UserAccessLevel (Part 3 §8.57), as words. */
  readonly accessLevel: readonly string[];
  readonly userAccessLevel: readonly string[];
  readonly ms: number;
}

export interface ItemWatchedFact {
  readonly kind: 'item-watched';
  readonly path: string;
  readonly code: string;
  readonly requestedSamplingIntervalMs: number;
  readonly revisedSamplingIntervalMs: number;
  readonly revisedPublishingIntervalMs: number;
  readonly firstNotificationMs: number | null;
  readonly changes: number;
  readonly keepAlives: number;
  readonly waitedMs: number;
}

/** The walk ended early: it was cancelled, or a collector met something that it could not carry on from. */
export interface CheckStoppedFact {
  readonly kind: 'check-stopped';
  readonly during: string;
  readonly reason: string;
}

/** Facts of one link, sorted by kind once, so that each cause finds its own in constant time. */
export class FactBook {
  private readonly byKind = new Map<FactKind, Fact[]>();

  constructor(readonly facts: readonly Fact[]) {
    for (const fact of facts) {
      const known = this.byKind.get(fact.kind);
      if (known) known.push(fact);
      else this.byKind.set(fact.kind, [fact]);
    }
  }

  /** All facts of a kind, oldest first. */
  all<Kind extends FactKind>(kind: Kind): readonly FactOf<Kind>[] {
    return (this.byKind.get(kind) ?? none) as readonly FactOf<Kind>[];
  }

  /** The newest fact of a kind. */
  latest<Kind extends FactKind>(kind: Kind): FactOf<Kind> | null {
    return this.all(kind).at(-1) ?? null;
  }
}

const none: readonly Fact[] = [];
