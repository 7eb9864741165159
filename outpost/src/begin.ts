import { readFile } from 'node:fs/promises';
import type { OutpostKind, Ticket } from '@loyal-hinge/contract/line';
import { enrol } from './enrol.js';
import { placeOf } from './folder.js';
import type { OutpostFolder } from './folder.js';
import { readTicket } from './ticket.js';

const longest = 10_000_000;
const words: Readonly<Record<OutpostKind, string>> = {
  probe: 'a probe',
  'tunnel-end': 'an end of a tunnel',
  gateway: 'a gateway',
};

/** The text of a file; `-` reads standard input. @throws Error with a sentence for people */
export async function readGiven(file: string): Promise<string> {
  if (file !== '-')
    return readFile(file, 'utf8').catch(() => {
      throw new Error(`${file} can’t be read.`);
    });
  let text = '';
  for await (const part of process.stdin) {
    text += String(part);
    if (text.length > longest) throw new Error('What came on standard input is too long.');
  }
  return text;
}

/** The ticket in a text, for an outpost of this kind. @throws Error with a sentence for people where it is none */
export function ticketFor(kind: OutpostKind, text: string): Ticket {
  const ticket = readTicket(text);
  if (ticket?.kind !== kind) throw new Error(`This is no ticket for ${words[kind]}, or it is cut off.`);
  return ticket;
}

/** Brings a folder to its certificate by a ticket; where it has that already, the ticket tells only where the server is. */
export async function beginWith(
  folder: OutpostFolder,
  ticket: Ticket,
  tell: (says: string) => void,
  signal: AbortSignal,
): Promise<void> {
  const known = await folder.place();
  if (known?.id !== ticket.id || (await folder.credentials()) === null) await enrol(folder, ticket, tell, signal);
  await folder.keepPlace(placeOf(ticket));
}
