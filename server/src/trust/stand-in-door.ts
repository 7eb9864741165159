import { z } from 'zod';
import { readPem } from '@loyal-hinge/core';
import type { ServerListEntry } from '../links/check/means.js';

/**
 * A stand-in's administrative door: the way to the lists of the demo's servers. It is no part of OPC UA;
 * with a real server its place is taken by push management (Part 12 §7).
 */
export interface StandInDoor {
  readonly url: string;
  readonly token: string;
}

export const doorWords = 'the stand-in’s administrative door';

const entries = z.array(
  z.object({
    list: z.enum(['trusted', 'issuers', 'rejected']),
    thumbprint: z.string(),
    since: z.string(),
    certificatePem: z.string(),
  }),
);
const patienceMs = 3000;

export async function readLists(door: StandInDoor, signal: AbortSignal): Promise<readonly ServerListEntry[]> {
  const answer = await fetch(`${door.url}/lists`, { headers: authorised(door), signal: limited(signal) });
  if (!answer.ok) throw new Error(`the door answered ${answer.status}`);
  return entries.parse(await answer.json()).flatMap(({ certificatePem, ...entry }) => {
    const read = readPem(certificatePem);
    const der = read.ok ? read.blocks[0]?.der : undefined;
    return der ? [{ ...entry, der, by: doorWords }] : [];
  });
}

/** Moves a certificate from the rejected to the trusted list; false where it does not lie there. */
export async function acceptRejected(door: StandInDoor, thumbprint: string): Promise<boolean> {
  const answer = await fetch(`${door.url}/accept/${encodeURIComponent(thumbprint)}`, {
    method: 'POST',
    headers: authorised(door),
    signal: AbortSignal.timeout(patienceMs),
  });
  if (answer.status === 404) return false;
  if (!answer.ok) throw new Error(`the door answered ${answer.status}`);
  return true;
}

const authorised = ({ token }: StandInDoor): Record<string, string> => ({ authorization: `Bearer ${token}` });
const limited = (signal: AbortSignal): AbortSignal => AbortSignal.any([signal, AbortSignal.timeout(patienceMs)]);
