import type { PasswordTarget } from './password-target.js';
import type { Instant } from '../time.js';
import type { EndpointDescription } from '../entry/endpoint.js';
import type { EntryFloor } from '../entry/floor.js';
import type { SecurityMode } from '../ua/security-policies.js';
import type { TokenType } from '../ua/user-tokens.js';
import type { ConnectionLimits, ForeignProtocol } from '../ua/tcp-messages.js';
import type { CertificateValidation } from '../trust/validation.js';
import type { CertificateSummary } from '../trust/certificate.js';
import type { EndpointUrlFlaw } from './endpoint-url.js';
import type { PassageVerdict } from '../passage/judge.js';
import type { Opening, OpeningPurpose } from '../passage/openings.js';
import type { TunnelPlace, TunnelSide } from '../tunnels/tunnelled.js';
import type { RedundancySupport } from '../ua/redundancy.js';
import type { ClassicFact } from './classic/facts.js';
import type { FieldFact } from './field/facts.js';

/** How a fact came to be known: by a live attempt, computed from other facts, or read from a file or a log. */
export const factSources = ['tried', 'reckoned', 'reported'] as const;
export type FactSource = (typeof factSources)[number];

interface Observed {
  readonly id: string;
  readonly source: FactSource;
  readonly at: Instant;
  /** The probe that saw it, by its name; absent: the server itself. */
  readonly seenBy?: string | undefined;
}

/** What a collector writes down: something observed, never a judgement. */
export type FactBody =
  | EndpointUrlFact
  | NameResolutionFact
  | PassageFact
  | TunnelFact
  | TcpConnectFact
  | HelloFact
  | ServersFact
  | EndpointsFact
  | EntryFloorFact
  | EarlierServerCertificateFact
  | CertificateValidationFact
  | ListedCertificateFact
  | ChannelFact
  | AnonymousFact
  | UserCertificateFact
  | SessionFact
  | RedundancyFact
  | ItemFoundFact
  | ItemSeenByOtherFact
  | ItemPatternFact
  | ItemReadFact
  | ItemRightsFact
  | ItemWrittenFact
  | EarlierWriteFact
  | ItemHistoryFact
  | ItemAlarmsFact
  | EarlierItemTypeFact
  | ItemWatchedFact
  | ListsUnreadFact
  | ChangeMadeFact
  | NotTriedFact
  | CheckStoppedFact
  | ClassicFact
  | FieldFact;

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
  /** Whether the look-up was answered at all: that a name has no address is only known from an answer. Absent: answered. */
  readonly lookUp?: 'answered' | 'not answered';
  readonly ms: number;
}

/** What the rules of the firewalls on the way make of one opening that the link needs. */
export interface PassageFact {
  readonly kind: 'passage';
  readonly purpose: OpeningPurpose;
  readonly opens: Opening['opens'];
  readonly from: readonly string[];
  readonly to: readonly string[];
  /** Of TCP, as they are said: `4840`, `49152-65535`. */
  readonly ports: readonly string[];
  /** `partly`: some of it stops and some doesn’t; `not-told`: the rules of a firewall on the way are not known. */
  readonly verdict: PassageVerdict | 'partly' | 'not-told';
  /** In the order in which a packet meets them, up to the one that stops it. */
  readonly firewalls: readonly FirewallOnWay[];
}

export interface FirewallOnWay {
  readonly id: string;
  readonly name: string;
  readonly verdict: PassageFact['verdict'];
  /** The rule that decides, as it is written; null: a policy, or none alone. */
  readonly rule: {
    readonly table: string;
    readonly chain: string;
    readonly index: number;
    readonly text: string;
  } | null;
  /** Why it can’t be told. */
  readonly why: string | null;
  /** Where it leads instead, `address:port`. */
  readonly translated: string | null;
  /** The connection is opened through it, and the verdict is on the answers. */
  readonly isAnswer?: boolean | undefined;
  /** When its rules were taken; null: they are not known. */
  readonly takenAt: Instant | null;
  /** The smallest change of its rules that lets the opening through; null: none is known, or none is needed. */
  readonly change: {
    readonly rules: readonly string[];
    readonly commands: readonly string[];
    readonly undo: readonly string[];
  } | null;
}

/** The link goes through a tunnel: what its ends told last. */
export interface TunnelFact {
  readonly kind: 'tunnel';
  readonly tunnelId: string;
  readonly name: string;
  /** Where the client dials. */
  readonly entrance: TunnelPlace;
  /** What the end at the server’s side connects to. */
  readonly target: TunnelPlace;
  readonly ends: readonly TunnelEndSeen[];
}
export interface TunnelEndSeen {
  readonly side: TunnelSide;
  readonly machine: string;
  /** `away`: it told nothing for a while; `unset`: it was never heard. */
  readonly state: 'joined' | 'waiting' | 'stopping' | 'away' | 'unset';
  readonly heardAt: Instant | null;
  /** Why it can’t do what it shall. */
  readonly fault: string | null;
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

/** Answer to GetEndpoints, over an unsecured channel that is closed again at once. */
export type EndpointsFact = { readonly kind: 'endpoints'; readonly ms: number } & (
  | { readonly outcome: 'listed'; readonly endpoints: readonly EndpointDescription[] }
  | { readonly outcome: 'failed'; readonly code: string; readonly reason: string }
);

/** What the plant accepts of an endpoint, where that is not everything: links take none that is below it. */
export interface EntryFloorFact {
  readonly kind: 'entry-floor';
  readonly floor: EntryFloor;
  /** The exception that it comes from, and the plant’s own floor that it takes the place of; null: it is the plant’s own. */
  readonly exception: {
    readonly reason: string;
    readonly until: Instant;
    readonly by: string;
    readonly instead: EntryFloor;
  } | null;
}

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
  /** null: what was recorded of it doesn’t tell. */
  readonly securityMode: SecurityMode | null;
  readonly ms: number;
} & (
  | { readonly outcome: 'open' }
  | { readonly outcome: 'refused'; readonly code: string; readonly reason: string }
  | { readonly outcome: 'closed'; readonly reason: string }
);

/** An anonymous session was tried beside the link's own identity. */
export interface AnonymousFact {
  /** The first needed item that it may write; null: none, or none was looked at. */
  readonly writable?: string | null;
  readonly kind: 'anonymous';
  readonly accepted: boolean;
  readonly code: string;
}

/** The certificate with which the link’s user signs in. */
export interface UserCertificateFact {
  readonly kind: 'user-certificate';
  readonly name: string;
  readonly certificate: CertificateSummary;
}

export type SessionFact = {
  readonly kind: 'session';
  readonly tokenType: TokenType;
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
  | ({ readonly outcome: 'withheld' } & Withheld)
);

/** What the server says of others that stand in for it (ServerRedundancy, Part 5 §6.3.7; Part 4 §6.6.2). */
export interface RedundancyFact {
  readonly kind: 'redundancy';
  readonly support: RedundancySupport;
  /** The others of its set to which clients turn themselves; of `Transparent` none: it has one address for all. */
  readonly others: readonly RedundantServer[];
}
export interface RedundantServer {
  readonly applicationUri: string;
  /** As the plant knows it; null: it doesn’t. */
  readonly name: string | null;
  /** A link of the same client leads there, so that it is checked whether it would be let in. */
  readonly isLinked: boolean;
}

/** Why a session was not tried: a kept password was not sent, or a user certificate not used. */
export type Withheld =
  | { readonly reason: 'password in clear' | 'no password kept' }
  | { readonly reason: 'no user certificate'; readonly name: string }
  | {
      readonly reason: 'kept for another target';
      readonly keptFor: PasswordTarget;
      readonly wanted: PasswordTarget;
    }
  /** Nothing proves that the server is the one of the plant; `says` why. */
  | { readonly reason: 'server not proved'; readonly says: string }
  /** It was refused so often that another try could lock the account. */
  | {
      readonly reason: 'refused before';
      readonly code: string;
      readonly refusals: number;
      readonly until: Instant;
    };

export type ItemFoundFact = { readonly kind: 'item-found'; readonly path: string; readonly ms: number } & (
  | { readonly outcome: 'found'; readonly nodeId: string }
  | { readonly outcome: 'missing'; readonly code: string; readonly nearest: string | null; readonly seen: number }
);

/** Variables whose paths fit a pattern that the link needs. */
export interface ItemPatternFact {
  readonly kind: 'item-pattern';
  readonly pattern: string;
  readonly paths: readonly string[];
  /** All that can fit was looked at. */
  readonly isWhole: boolean;
  readonly ms: number;
}

/** Somebody else found an item at the same server that this link’s user did not find. */
export interface ItemSeenByOtherFact {
  readonly kind: 'item-seen-by-other';
  readonly path: string;
  /** The name under which that one signs in; empty: anonymous. */
  readonly as: string;
  readonly on: Instant;
  readonly by: 'a check' | 'a snapshot of rights';
}

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
  /** Source timestamp of the newest value that came; null: it had none, or none came. Absent: not noted. */
  readonly newestSourceTimestamp?: Instant | null;
  readonly changes: number;
  readonly keepAlives: number;
  readonly waitedMs: number;
}

/** What the attributes of an item say about this user’s rights; nothing is tried for it. */
export interface ItemRightsFact {
  readonly kind: 'item-rights';
  readonly path: string;
  readonly nodeId: string;
  /** UserAccessLevel (Part 3 §5.6.2), as words; null: could not be read. */
  readonly userAccessLevel: readonly string[] | null;
  /** All permissions of the user’s roles (UserRolePermissions, Part 3 §5.2.10); null: the server does not tell. */
  readonly userPermissions: readonly string[] | null;
  /** AccessRestrictions (Part 3 §5.2.11); null: the server does not tell. */
  readonly accessRestrictions: readonly string[] | null;
  /** What could not be read, and why. */
  readonly unread: readonly string[];
}

/** A person had an item written with the value that it had, and read back. */
export interface ItemWrittenFact {
  readonly kind: 'item-written';
  readonly path: string;
  readonly nodeId: string;
  /** `not read`: there was nothing to write back; `other value`: it was accepted, and another value stands there. */
  readonly outcome: 'same value' | 'other value' | 'refused' | 'not read';
  readonly code: string;
  readonly before: string | null;
  readonly after: string | null;
  readonly by: string;
  readonly as: WriterOfItem;
  readonly ms: number;
}

/** Who wrote an item, and where: another user at another server proves nothing for it. */
export interface WriterOfItem {
  readonly userName: string;
  readonly applicationUri: string;
}

/** An earlier check wrote this item as the same user at the same server, and read it back. */
export interface EarlierWriteFact {
  readonly kind: 'earlier-write';
  readonly path: string;
  readonly on: Instant;
  readonly by: string;
  readonly as: WriterOfItem;
}

/** Earlier values of an item, as the server gave them (HistoryRead, Part 4 §5.11.3). */
export interface ItemHistoryFact {
  readonly kind: 'item-history';
  readonly path: string;
  readonly nodeId: string;
  readonly code: string;
  /** The span that was asked for. */
  readonly from: Instant;
  readonly to: Instant;
  readonly values: number;
  /** AccessLevel and UserAccessLevel of the item (Part 3 §8.57), as words. */
  readonly accessLevel: readonly string[];
  readonly userAccessLevel: readonly string[];
  /** Source timestamps of the oldest and the newest value; null: none came. */
  readonly oldest: Instant | null;
  readonly newest: Instant | null;
  readonly ms: number;
}

/** Events of a node, watched for a while (Part 4 §7.22.3, Part 9 §5.5.7). */
export interface ItemAlarmsFact {
  readonly kind: 'item-alarms';
  readonly path: string;
  readonly nodeId: string;
  /** Whether EventNotifier has SubscribeToEvents (Part 3 §8.59); null: it could not be read, as of a node that is no object. */
  readonly sendsEvents: boolean | null;
  /** Of the monitored item. */
  readonly code: string;
  /** Of ConditionRefresh, by which a server sends all conditions again; empty: it was not called. */
  readonly refreshCode: string;
  readonly events: number;
  /** The first event that came; null: none did. */
  readonly first: { readonly message: string; readonly severity: number; readonly sourceName: string } | null;
  readonly waitedMs: number;
}

/** The data type of an item as the check before this one saw it. */
export interface EarlierItemTypeFact {
  readonly kind: 'earlier-item-type';
  readonly path: string;
  readonly dataType: string;
}

/** The server’s lists were to be read and could not be. */
export interface ListsUnreadFact {
  readonly kind: 'lists-unread';
  readonly reason: string;
}

/** A change of the server’s lists that was carried out, and after which no channel was opened yet. */
export interface ChangeMadeFact {
  readonly kind: 'change-made';
  /** What was changed, in a sentence. */
  readonly says: string;
  readonly since: Instant;
  readonly by: string;
  /** Whether the lists show it, as they were read afterwards. */
  readonly inLists: boolean;
}

/** Something was not tried, for a reason on this side: it says nothing about the link. */
export interface NotTriedFact {
  readonly kind: 'not-tried';
  readonly reason: 'no client key' | 'policy not spoken here' | 'outside the declared ranges' | 'no such near address';
  readonly purpose: Purpose;
  /** The address or the application that it is about. */
  readonly what: string;
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
