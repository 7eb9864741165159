import type { AccessToken } from './access-check.js';
import { usualSid } from './sid.js';

/** An account as its machine tells of it: what is printed for it with all its groups, as a table, a list, or CSV. */
export interface ToldAccount {
  /** As it is written beside its SID; empty: it is not. */
  readonly name: string;
  readonly token: AccessToken;
  /** Integrity level (S-1-16-…); null: it is not told. */
  readonly label: string | null;
}

const sid = /S-1-(?:0x[0-9a-f]+|\d+)(?:-\d+)+/i;
const mostGroups = 2000;
/** Of a group that counts: mandatory, enabled by default, enabled. */
const leastAttributes = 3;

interface ToldSid {
  readonly sid: string;
  readonly before: string;
  readonly attributes: string;
}

/**
 * Reads who somebody is from what a machine prints of them, in whichever language: the first SID is the user’s, all others
 * are groups, and integrity levels are told apart by their SIDs. A group that counts is mandatory, enabled by default and
 * enabled at once; one with fewer attributes only denies.
 * @returns null: there is no SID in it
 */
export function readAccount(text: string): ToldAccount | null {
  const lines = text.split(/\r\n|\n|\r/);
  const told = lines.flatMap((line, index) => toldSid(line, lines[index + 1] ?? '') ?? []).slice(0, mostGroups);
  const [user, ...others] = told;
  if (!user) return null;
  const groups = others.filter((one) => !isLabel(one.sid));
  return {
    name: nameBefore(user.before),
    token: {
      user: user.sid,
      groups: groups.filter((one) => !onlyDenies(one)).map((one) => one.sid),
      denyOnly: groups.filter(onlyDenies).map((one) => one.sid),
    },
    label: others.find((one) => isLabel(one.sid))?.sid ?? null,
  };
}

const isLabel = (one: string): boolean => one.startsWith('S-1-16-');
/** A sentence of some language may have a comma of its own. */
const onlyDenies = ({ attributes }: ToldSid): boolean =>
  attributes !== '' && attributes.split(',').length < leastAttributes;

function toldSid(line: string, next: string): ToldSid | null {
  const found = sid.exec(line);
  const usual = found && usualSid(found[0]);
  if (!usual) return null;
  const behind = line.slice(found.index + found[0].length);
  // In a list, a line each, the attributes stand in the next one, behind their title.
  const isList = /^[^"]*:\s*$/.test(line.slice(0, found.index)) && behind.trim() === '';
  const attributes = isList ? (sid.test(next) ? '' : next.slice(next.indexOf(':') + 1)) : behind;
  return { sid: usual, before: line.slice(0, found.index), attributes: attributes.replace(/^[\s",;]+|[\s",;]+$/g, '') };
}

/** `"works\display",` in CSV, `works\display   ` in a table. */
const nameBefore = (before: string): string => before.replace(/[",]/g, ' ').trim();
