/**
 * A rule set of nftables as its own JSON says it (libnftables-json, schema version 1): tables, chains, sets, maps and rules,
 * each rule a list of statements. The text of a listing is read into the same shape.
 */
export type Json = string | number | boolean | null | readonly Json[] | { readonly [name: string]: Json };
export type JsonObject = { readonly [name: string]: Json };

export interface NftTable {
  readonly family: string;
  readonly name: string;
  /** Its chains hang nowhere. */
  readonly isDormant: boolean;
  /** It has flags, and the listing doesn’t tell them. */
  readonly hasUnknownFlags?: boolean;
}
export interface NftChain {
  readonly family: string;
  readonly table: string;
  readonly name: string;
  readonly base: {
    readonly type: string;
    readonly hook: string;
    readonly priority: number;
    readonly policy: string;
    /** null: the listing doesn’t tell them. */
    readonly devices: readonly string[] | null;
  } | null;
}
export interface NftSet {
  readonly family: string;
  readonly table: string;
  readonly name: string;
  /** Of a map pairs of key and value. */
  readonly elements: readonly Json[];
  readonly isMap: boolean;
}
export interface NftRule {
  readonly family: string;
  readonly table: string;
  readonly chain: string;
  /** As it is written; null: to be put into words. */
  readonly text: string | null;
  readonly statements: readonly Json[];
  /** From here on it could not be read; null: all of it could. */
  readonly unread: string | null;
}

export interface NftRuleSet {
  readonly tables: readonly NftTable[];
  readonly chains: readonly NftChain[];
  readonly sets: readonly NftSet[];
  readonly rules: readonly NftRule[];
  readonly notes: readonly { readonly line: number; readonly says: string }[];
}

export const isObject = (value: Json | undefined): value is JsonObject =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
export const isList = (value: Json | undefined): value is readonly Json[] => Array.isArray(value);
export const textOf = (value: Json | undefined): string | null => (typeof value === 'string' ? value : null);

/** The name and the body of a statement or expression, which is an object of one member. */
export function only(value: Json | undefined): readonly [name: string, body: Json] | null {
  if (!isObject(value)) return null;
  const [entry] = Object.entries(value);
  return entry ?? null;
}

/** Priorities by name (nft(8), “standard priority names”), for families of IP. */
export const priorityNames: Readonly<Record<string, number>> = {
  raw: -300,
  mangle: -150,
  dstnat: -100,
  filter: 0,
  security: 50,
  srcnat: 100,
};

/** Something is not of the shape that it must have. */
export class NotRead extends Error {
  constructor(
    readonly line: number,
    message: string,
  ) {
    super(message);
  }
}
