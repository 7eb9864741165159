import type { DcomService } from '../../dcom/machine-lists.js';
import type { RegistryView } from '../../dcom/settings.js';
import type { ComDecision, ComRight } from '../../dcom/com-rights.js';
import type { CallLevel } from '../../plant/plant.js';
import type { Instant } from '../../time.js';
import type { ConnectOutcome, Withheld } from '../facts.js';

/** Why a call came to nothing: on the way, by a fault of RPC, or by the code of a method. */
export type ClassicFailure =
  | { readonly by: 'way'; readonly kind: ClassicProblem; readonly says: string }
  | { readonly by: 'fault' | 'method'; readonly code: number };

/** What was met on the way. */
export type ClassicProblem =
  'refused' | 'unreachable' | 'silent' | 'ended' | 'malformed' | 'bind-refused' | 'interface-unknown' | 'cancelled';

/** A place that a server advertises, as it looks from the client’s machine. */
export interface SeenPlace {
  readonly host: string;
  readonly port: number | null;
  /** What the host means here. */
  readonly addresses: readonly string[];
  /** null: it was not dialled, since it means nothing here or may not be dialled. */
  readonly outcome: ConnectOutcome | null;
}

/** What the machine’s mapper says without asking who asks (ServerAlive2, MS-DCOM 3.1.2.5.1.6). */
export interface ClassicMapperFact {
  readonly kind: 'classic-mapper';
  /** COM’s version, such as 5.7; null: it did not say. */
  readonly version: string | null;
  readonly advertised: readonly string[];
  readonly failure: ClassicFailure | null;
}

/** The places that the machine advertises. */
export interface ClassicBindingsFact {
  readonly kind: 'classic-bindings';
  readonly places: readonly SeenPlace[];
}

/** The places where the server says that its objects are. */
export interface ClassicObjectPortFact {
  readonly kind: 'classic-object-port';
  readonly places: readonly SeenPlace[];
}

/** Signing in at the mapper, and the first call there. */
export interface ClassicSignInFact {
  readonly kind: 'classic-sign-in';
  readonly level: CallLevel;
  /** null: as nobody. */
  readonly userName: string | null;
  readonly outcome: 'let in' | 'refused' | 'withheld';
  readonly failure: ClassicFailure | null;
  /** Why it was not tried. */
  readonly withheld: Withheld | null;
  /** How the machine names itself; null: it did not come to that. */
  readonly computer: string | null;
  /** Its clock less ours; null: it did not tell its time. */
  readonly clockApartMs: number | null;
  /** Whether the answer was signed by what both sides know of the password. */
  readonly isProven: boolean;
  /** On COM’s own interface, or on another of RPC where that is not there. */
  readonly isAtMapper: boolean;
}

/** The class of the server. */
export interface ClassicClassFact {
  readonly kind: 'classic-class';
  readonly program: string;
  readonly clsid: string | null;
  /** `given`: the link names the class itself. */
  readonly by: 'given' | 'server list';
  readonly nearest: string | null;
  readonly known: readonly string[];
  readonly failure: ClassicFailure | null;
}

/** The server was to be made (RemoteCreateInstance, MS-DCOM 3.1.2.5.2.3.3). */
export interface ClassicActivationFact {
  readonly kind: 'classic-activation';
  readonly level: CallLevel;
  readonly places: readonly string[];
  /** The level that the server wants its objects to be called at; null: it does not say. */
  readonly wantedLevel: CallLevel | null;
  readonly failure: ClassicFailure | null;
}

/** The first call of the server (GetStatus, Data Access 4.4.3.4). */
export interface ClassicAccessFact {
  readonly kind: 'classic-access';
  readonly state: string | null;
  readonly vendor: string;
  readonly version: string;
  readonly startTime: Instant | null;
  readonly failure: ClassicFailure | null;
}

export interface ClassicBrowseFact {
  readonly kind: 'classic-browse';
  readonly nameSpace: 'hierarchical' | 'flat' | null;
  readonly count: number;
  readonly missing: readonly { readonly path: string; readonly nearest: string | null }[];
  readonly failure: ClassicFailure | null;
}

/** The needed items, added to a group and read from the device. */
export interface ClassicReadFact {
  readonly kind: 'classic-read';
  readonly items: readonly ClassicItem[];
  readonly failure: ClassicFailure | null;
}
export interface ClassicItem {
  readonly path: string;
  /** 0: it was added and read. */
  readonly code: number;
  readonly dataType: string | null;
  readonly mayRead: boolean | null;
  readonly mayWrite: boolean | null;
  /** Data Access 6.8; null: it was not read. */
  readonly quality: number | null;
  readonly qualitySays: string | null;
  readonly value: string | null;
  readonly timestamp: Instant | null;
}

/** A group with the wanted rate, and the calls back to us. */
export interface ClassicWatchFact {
  readonly kind: 'classic-watch';
  readonly wantedMs: number;
  readonly revisedMs: number | null;
  /** Where we said that we are called back; null: it did not come to that. */
  readonly back: {
    readonly hosts: readonly string[];
    readonly resolverPort: number;
    readonly objectPort: number;
  } | null;
  readonly calls: readonly {
    readonly from: string;
    /** null: as nobody. */
    readonly account: string | null;
    readonly level: CallLevel;
    readonly afterMs: number;
  }[];
  /** Accounts that called back, and whose calls could not be taken: their passwords are not known here. */
  readonly unproven: readonly { readonly from: string; readonly account: string }[];
  /** Addresses of others that called, and were refused. */
  readonly strangers: readonly string[];
  readonly failure: ClassicFailure | null;
}

/** What the newest export of the server’s machine says of this link; reported, and as old as it is. */
export interface ClassicRightsFact {
  readonly kind: 'classic-rights';
  readonly takenAt: Instant;
  readonly application: string;
  /** Whether DCOM is on; whoever comes is a guest; activation below packet integrity is refused. null: it does not say. */
  readonly isOn: boolean | null;
  readonly isGuestOnly: boolean | null;
  readonly isHardened: boolean | null;
  readonly runAs: string | null;
  /** The service that the server is started as; absent or null: none that is known. */
  readonly service?: DcomService | null;
  /** Of the link’s account; empty: no export tells who it is. */
  readonly rights: readonly {
    readonly right: ComRight;
    readonly isAllowed: boolean | null;
    readonly by: ComDecision['by'];
    readonly says: string;
  }[];
  /** In which views of the registry the class stands; empty or absent: nobody knows of both. */
  readonly views?: readonly RegistryView[];
  /** Rights from other machines that nobody has at all; absent: it was not looked at. */
  readonly nobodyHas?: readonly ComRight[];
  /** How many ports objects may be at, by the machine’s own setting; null: it has none of its own. */
  readonly portCount?: number | null;
  /** The application has a port of its own. */
  readonly hasOwnPort?: boolean;
  /** Who has rights from other machines as nearly everybody. */
  readonly wide: readonly { readonly name: string; readonly rights: readonly ComRight[] }[];
}

export type ClassicFact =
  | ClassicRightsFact
  | ClassicMapperFact
  | ClassicBindingsFact
  | ClassicObjectPortFact
  | ClassicSignInFact
  | ClassicClassFact
  | ClassicActivationFact
  | ClassicAccessFact
  | ClassicBrowseFact
  | ClassicReadFact
  | ClassicWatchFact;
