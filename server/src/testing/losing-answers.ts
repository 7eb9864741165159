import { createServer, connect } from 'node:net';
import type { AddressInfo, Socket } from 'node:net';

/** The way to a database on which the answer to a statement gets lost: it is carried out, and nobody hears of it. */
export interface LosingWay {
  /** The database’s address by this way. */
  readonly url: string;
  /** The texts of all statements that went by, in order. */
  readonly seen: readonly string[];
  /** From now on, the connection breaks once, after the next statement whose text this is was carried out, or after a later one. */
  loseAnswerTo(text: string, which?: number): void;
  /** True while it waits for such a statement. */
  readonly isWaiting: boolean;
  close(): void;
}

const readyForQuery = 0x5a;

/**
 * Opens such a way, on loopback. It reads the frames of PostgreSQL’s protocol (version 3.0: one octet of kind, four of
 * length) of both sides; the texts are those of Parse and Query.
 */
export async function openLosingWay(databaseUrl: string): Promise<LosingWay> {
  const { hostname, port } = new URL(databaseUrl);
  const seen: string[] = [];
  const sockets = new Set<Socket>();
  const lost: { readonly text: string; left: number }[] = [];
  const server = createServer((client) => {
    const database = connect(Number(port), hostname);
    for (const socket of [client, database]) {
      sockets.add(socket);
      socket.on('error', () => undefined);
      socket.on('close', () => {
        sockets.delete(socket);
        client.destroy();
        database.destroy();
      });
    }
    let isLosing = false;
    const asked = frames(true, (kind, body) => {
      const text = textOf(kind, body);
      if (text === null) return;
      seen.push(text);
      const at = lost.findIndex((one) => one.text === text && (one.left -= 1) === 0);
      if (at < 0) return;
      lost.splice(at, 1);
      isLosing = true;
    });
    const answered = frames(false, (kind) => {
      if (isLosing && kind === readyForQuery) client.destroy();
    });
    client.on('data', (data: Buffer) => {
      asked(data);
      database.write(data);
    });
    database.on('data', (data: Buffer) => {
      answered(data);
      if (!isLosing) client.write(data);
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const way = Object.assign(new URL(databaseUrl), { port: String((server.address() as AddressInfo).port) });
  return {
    url: way.href,
    seen,
    loseAnswerTo(text, which = 1) {
      lost.push({ text, left: which });
    },
    get isWaiting() {
      return lost.length > 0;
    },
    close() {
      server.close();
      for (const socket of sockets) socket.destroy();
    },
  };
}

/** Cuts a stream into frames; the first of a client (the startup message) has no kind, and is told as kind 0. */
function frames(beginsWithoutKind: boolean, frame: (kind: number, body: Buffer) => void): (data: Buffer) => void {
  let rest: Buffer = Buffer.alloc(0);
  let kindOctets = beginsWithoutKind ? 0 : 1;
  return (data) => {
    rest = Buffer.concat([rest, data]);
    while (rest.length >= kindOctets + 4) {
      const end = kindOctets + rest.readUInt32BE(kindOctets);
      if (rest.length < end) return;
      frame(kindOctets === 0 ? 0 : rest.readUInt8(0), rest.subarray(kindOctets + 4, end));
      rest = rest.subarray(end);
      kindOctets = 1;
    }
  };
}

function textOf(kind: number, body: Buffer): string | null {
  const [first = '', second = ''] = body.toString('utf8').split('\0', 2);
  if (kind === 'Q'.charCodeAt(0)) return first;
  return kind === 'P'.charCodeAt(0) ? second : null;
}
