import { createHash, createPublicKey } from 'node:crypto';
import { fromServer } from '@loyal-hinge/contract/line';
import type { FromOutpost, FromServer, Ticket } from '@loyal-hinge/contract/line';
import { dialServer } from './dial.js';
import { placeOf } from './folder.js';
import type { OutpostFolder } from './folder.js';
import { Talk } from './talk.js';
import { version } from './version.js';

const againMs = 3_000;

/** SHA-256 of the public key (SubjectPublicKeyInfo), in groups of four hexadecimal digits. */
async function keyMark(folder: OutpostFolder): Promise<string> {
  const spki = createPublicKey(await folder.key()).export({ format: 'der', type: 'spki' });
  const digits = createHash('sha256').update(spki).digest('hex').toUpperCase();
  return (digits.match(/.{4}/g) ?? []).join(' ');
}

/**
 * Asks with a ticket for a certificate, and waits until somebody has signed it. A connection that breaks meanwhile is made anew.
 * @throws Error with a sentence for people where the ticket is refused
 */
export async function enrol(
  folder: OutpostFolder,
  ticket: Ticket,
  tell: (says: string) => void,
  signal: AbortSignal,
): Promise<void> {
  const place = placeOf(ticket);
  const requestPem = await folder.request(ticket.id, ticket.name);
  tell(`Compare on the page of this outpost: its key is ${await keyMark(folder)}.`);
  let isTold = '';
  for (;;) {
    signal.throwIfAborted();
    const socket = await dialServer(place, null).catch((error: unknown) => {
      const says = error instanceof Error ? error.message : String(error);
      if (says !== isTold) tell(says);
      isTold = says;
      return null;
    });
    const outcome = socket
      ? await new Promise<FromServer | null>((resolve) => {
          const talk = new Talk<FromServer, FromOutpost>(
            socket,
            fromServer,
            {
              heard: (message) => {
                if (message.kind === 'wait' && message.says !== isTold) tell((isTold = message.says));
                if (message.kind === 'enrolled' || message.kind === 'refused') {
                  resolve(message);
                  talk.close();
                }
              },
              gone: () => resolve(null),
            },
            { kind: 'alive' },
          );
          signal.addEventListener('abort', () => talk.close(), { once: true });
          talk.say({ kind: 'enrol', secret: ticket.secret, requestPem, version });
        })
      : null;
    if (outcome?.kind === 'refused') throw new Error(outcome.says);
    if (outcome?.kind === 'enrolled') {
      await folder.keep(outcome);
      await folder.keepPlace(place);
      return;
    }
    await new Promise((resolve) => setTimeout(resolve, againMs));
  }
}
