import { ticket } from '@loyal-hinge/contract/line';
import type { Ticket } from '@loyal-hinge/contract/line';

const mark = 'hinge-ticket:';
const longest = 4_000;

/** A ticket as one word, to be taken to the machine of its outpost. */
export const writeTicket = (given: Ticket): string =>
  `${mark}${Buffer.from(JSON.stringify(given)).toString('base64url')}`;

/** Reads a ticket; null: it is none, or is cut off. */
export function readTicket(text: string): Ticket | null {
  const word = text.trim();
  if (!word.startsWith(mark) || word.length > longest) return null;
  try {
    const read = ticket.safeParse(JSON.parse(Buffer.from(word.slice(mark.length), 'base64url').toString()));
    return read.success ? read.data : null;
  } catch {
    return null;
  }
}
