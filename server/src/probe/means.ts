import type {
  Certificate,
  ChangeMadeFact,
  ClassicRightsFact,
  EarlierWriteFact,
  EntryFloor,
  Fact,
  FactBody,
  FactSource,
  FloorInForce,
  ItemSeenByOtherFact,
  LinkInPlant,
  PassageFact,
  PasswordTarget,
  RedundantServer,
  StepId,
  CertificateSummary,
  TrustList,
  TunnelFact,
  Waiver,
  Withheld,
} from '@loyal-hinge/core';
import type { ClientCredentials } from '../ua/connection.js';
import type { AtDevice, KnownOrigin } from './field/means.js';

/** What a check needs from the rest of the product: settings and secrets, looked up when the check begins. */
export interface CheckMeans {
  /** Address and port of the plant's name server; null: the operating system resolves. */
  readonly nameServer: string | null;
  /** Ranges that may be dialled (CIDR). */
  readonly declaredRanges: readonly string[];
  /** Whether the client machine's own address is to be used as the near end. */
  readonly dialFromClientAddress: boolean;
  readonly credentials: ClientCredentials | null;
  readonly clientTrust: TrustList;
  readonly crlsDemanded: boolean;
  /** What the plant accepts of an endpoint for this link. */
  readonly floor: FloorInForce;
  /** The plant’s own floor, whatever exception there is. */
  readonly plantFloor: EntryFloor;
  /** What each side passes over for single certificates. */
  readonly waivers: { readonly client: readonly Waiver[]; readonly server: readonly Waiver[] };
  readonly password: string | null;
  /** The other target that a kept password belongs to; null: it may be sent, or there is none. */
  readonly keptFor: PasswordTarget | null;
  /** With which the link signs in, where it does with one; null: none is kept. */
  readonly userCertificate: { readonly certificate: Certificate; readonly privateKeyPem: string } | null;
  readonly signIns: SignInGuard;
  readonly earlierCertificate: CertificateSummary | null;
  /** Data types of the needed items as the check before saw them, by path. */
  readonly earlierTypes: ReadonlyMap<string, string>;
  /** Items that a person wants to see written with the value that they have; null: nothing is written. */
  readonly writes: AskedWrites | null;
  /** Items that were written and read back by earlier checks, by path. */
  readonly earlierWrites: ReadonlyMap<string, Pick<EarlierWriteFact, 'on' | 'by' | 'as'>>;
  /** Who else found items at this server; null: nobody can be asked. */
  readonly seenByOthers: ((paths: readonly string[]) => Promise<readonly SeenByOther[]>) | null;
  /** What is known of the server’s lists without asking it; null: nothing. */
  readonly knownServerLists: ServerLists | null;
  /** The newest change of the server’s lists after which the check before opened no channel; null: none. */
  readonly changeMade: Omit<ChangeMadeFact, 'kind'> | null;
  /** Reads the server's own lists where there is a way to them. */
  readonly readServerLists: ((signal: AbortSignal) => Promise<ServerLists>) | null;
  /** What the newest export of the server’s machine says of a classic link; null: none does. */
  readonly classicRights: Omit<ClassicRightsFact, 'kind'> | null;
  /** What the firewalls that the plant knows make of the link’s connections to these addresses. */
  readonly passage: (addresses: readonly string[]) => readonly PassageFact[] | Promise<readonly PassageFact[]>;
  /** What the plant knows of servers that stand in for the link’s own, and of the ways to them. @param uris their application URIs */
  readonly redundant: (uris: readonly string[]) => KnownRedundant | Promise<KnownRedundant>;
  /** The tunnel that the link goes through, and how its ends stand; null: it goes straight. */
  readonly tunnel: TunnelFact | null;
  /** Where the values of the server’s items come from, as far as the plant states it. */
  readonly origins: readonly KnownOrigin[];
  readonly atDevice: AtDevice;
  /** Milliseconds between two requests to a device. */
  readonly devicePauseMs: number;
  readonly limits: CheckLimits;
}

/** Servers that stand in for another one. */
export interface KnownRedundant {
  readonly others: readonly RedundantServer[];
  readonly passage: readonly PassageFact[];
}

/** Somebody else who found an item at the server. */
export type SeenByOther = Omit<ItemSeenByOtherFact, 'kind'>;

/** Items of a link that a person wants to see written, and who that is. */
export interface AskedWrites {
  readonly paths: readonly string[];
  readonly by: string;
  readonly why: string;
}

/** Keeps count of how signing in went, so that no account gets locked by it. */
export interface SignInGuard {
  /** Why the password is not to be sent now; null: it may be. */
  whyPaused(): Promise<Extract<Withheld, { readonly reason: 'refused before' }> | null>;
  /** @param code by which the server refused; null: it let the user in */
  note(code: string | null): Promise<void>;
}

/** For whoever has no account to lock. */
export const unguarded: SignInGuard = { whyPaused: () => Promise.resolve(null), note: () => Promise.resolve() };

/** The lists of the server, by bytes. */
export interface ServerLists {
  readonly trusted: readonly Uint8Array[];
  readonly issuers: readonly Uint8Array[];
  readonly crls: readonly Uint8Array[];
  readonly rejected: readonly Uint8Array[];
  /** How they were read, in words. */
  readonly by: string;
  /** Since when a certificate is known to lie set aside; null: not known. */
  rejectedSince(der: Uint8Array): string | null;
}

export interface CheckLimits {
  readonly resolveMs: number;
  readonly connectMs: number;
  readonly helloMs: number;
  readonly callMs: number;
  readonly watchMs: number;
  /** How long events are waited for. */
  readonly alarmsMs: number;
  readonly warnDays: number;
}

export const usualLimits: CheckLimits = {
  resolveMs: 2000,
  connectMs: 2500,
  helloMs: 3000,
  callMs: 8000,
  watchMs: 6000,
  alarmsMs: 6000,
  warnDays: 60,
};

/** Where a check writes down what it observes. */
export interface CheckLog {
  begin(step: StepId): void;
  /** @param at when it was observed; left out: now */
  note(body: FactBody, source?: FactSource, at?: string): Fact;
  /** Certificates whose bytes must be kept, so that they can be looked at and trusted later. */
  keep(der: Uint8Array): void;
}

export type { LinkInPlant };
