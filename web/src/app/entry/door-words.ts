import { isWeakDoor, sayDoor, tokenWords } from '@loyal-hinge/core';
import type { Door, DoorRule, DoorWeakness, OfferedDoor, Verdict } from '@loyal-hinge/core';

/** What is weak about a door, as people say it. */
export const weaknessWords: Readonly<Record<DoorWeakness, string>> = {
  'no security': 'no security',
  'password in clear': 'password readable on the way',
  'token in clear': 'token readable on the way',
  'deprecated policy': 'deprecated policy',
  'unknown policy': 'policy not known',
  'short key': 'key shorter than 2048 bits',
  'below the floor': 'below what the plant accepts',
  anonymous: 'anyone may come in',
  'signed only': 'signed, not encrypted',
};

const openToAll: ReadonlySet<DoorWeakness> = new Set(['no security', 'password in clear', 'token in clear']);

/** How a door is drawn: cut in two where everybody on the way can read or change what is said. */
export function verdictOfDoor(door: OfferedDoor): Verdict {
  if (door.weaknesses.some((weakness) => openToAll.has(weakness))) return 'fails';
  return isWeakDoor(door) ? 'weak' : 'holds';
}

/** `Basic256Sha256, SignAndEncrypt`; without security: `no security`. */
export const endpointWords = ({ policy, mode }: Pick<Door, 'policy' | 'mode'>): string =>
  mode === 'None' ? 'no security' : `${policy}, ${mode}`;

/** What a rule is about, in words. */
export function ruleWords({ policy, mode, token }: Pick<DoorRule, 'policy' | 'mode' | 'token'>): string {
  if (policy !== null && mode !== null && token !== null) return sayDoor({ policy, mode, token });
  const parts = [
    mode === 'None' ? 'no security' : policy,
    mode === 'None' ? null : mode,
    token === null ? null : tokenWords[token],
  ];
  return parts.filter((part) => part !== null).join(', ') || 'every door';
}
