import type { ComClient, Identity } from '../dcom/client.js';
import type { ToldTarget } from '../ntlm/client.js';
import type { Guid } from '../octets/guid.js';
import type { HeldServer } from './held-server.js';
import type { Observation, ReadItem } from './observations.js';

/** What items a name stands for. */
export interface ItemPattern {
  readonly text: string;
  fits(itemId: string): boolean;
}

export interface ClassicWalk {
  /** A name or an address. */
  readonly host: string;
  readonly mapperPort: number;
  readonly localAddress?: string | undefined;
  readonly identity: Identity;
  /** By its class, or by its program’s name; `list`: the machine’s list of servers alone; null: the machine alone. */
  readonly server: { readonly clsid: Guid } | { readonly progId: string } | 'list' | null;
  readonly needs: {
    readonly items: readonly string[];
    /** Names among the items that stand for others where no item has that very name. */
    readonly patterns?: readonly ItemPattern[];
    readonly browse: boolean;
    readonly read: boolean;
    readonly watch: { readonly updateRateMs: number } | null;
    /** Items that somebody wants to see written with the value that they have. */
    readonly writes?: readonly string[];
  };
  /** What is done with the server once it has answered, instead of what the needs say; the server is given back when it ends. */
  readonly use?: ((held: HeldServer) => Promise<void>) | undefined;
  /** What is done beside, once the needs are met and the items can still be read. */
  readonly beside?: ((readAgain: () => Promise<readonly ReadItem[]>) => Promise<void>) | undefined;
  /** For each connection and call. */
  readonly timeoutMs: number;
  readonly signal?: AbortSignal | undefined;
  /** The machine is looked at, and nobody signs in. */
  readonly stopsBeforeSignIn?: boolean;
  /** The addresses that a name or an address means here; empty: none. */
  readonly resolve: (name: string) => Promise<readonly string[]>;
  /** Whether an address may be dialled at all. */
  readonly mayDial: (address: string) => boolean;
  /** Where we are to be called back; absent: at the address that calls come from, at any free port. */
  readonly back?: {
    readonly hosts: readonly string[];
    readonly ports: { readonly resolver: number; readonly objects: number };
  };
}

/** A walk that is under way. */
export interface Walking {
  readonly walk: ClassicWalk;
  readonly com: ComClient;
  readonly note: (observation: Observation) => void;
  /** What the server said of itself when we signed in. */
  readonly told: { target: ToldTarget | null };
  /** Where our connections come from; null: that is not known yet. */
  localAddress: string | null;
  /** All addresses at which the server was seen: from another one nobody calls back. */
  readonly ofServer: Set<string>;
}
