import { createSocket } from 'node:dgram';
import type { Socket } from 'node:dgram';
import { AUTHORITATIVE_ANSWER, decode, encode } from 'dns-packet';

/** Stands for the plant's name server: a small real one, over UDP, that knows one address book and nothing else. */
export async function startNameServer(
  book: ReadonlyMap<string, readonly string[]>,
  address: string,
  port: number,
): Promise<{ stop(): Promise<void> }> {
  const socket = createSocket('udp4');
  socket.on('message', (message, from) => {
    const answer = answerTo(book, message);
    if (answer) socket.send(answer, from.port, from.address);
  });
  await new Promise<void>((resolve, reject) => {
    socket.once('error', reject);
    socket.bind(port, address, resolve);
  });
  return { stop: () => closed(socket) };
}

const closed = (socket: Socket): Promise<void> => new Promise((resolve) => socket.close(() => resolve()));

/** Bit 0 to 3 of the flags: the name does not exist (RFC 1035 §4.1.1). */
const nameError = 3;

const kindOf = (address: string): 'A' | 'AAAA' => (address.includes(':') ? 'AAAA' : 'A');

function answerTo(book: ReadonlyMap<string, readonly string[]>, message: Buffer): Buffer | null {
  try {
    const query = decode(message);
    const question = query.questions?.[0];
    if (!question) return null;
    const addresses = book.get(question.name.toLowerCase());
    return encode({
      type: 'response',
      id: query.id ?? 0,
      flags: AUTHORITATIVE_ANSWER | (addresses ? 0 : nameError),
      questions: [question],
      answers: (addresses ?? [])
        .filter((address) => kindOf(address) === question.type)
        .map((data) => ({ type: kindOf(data), name: question.name, ttl: 5, data })),
    });
  } catch {
    return null;
  }
}
