import { Duplex } from 'node:stream';
import fc from 'fast-check';
import type { TLSSocket } from 'node:tls';
import { Carrier, firstWindow, mostWindow } from './carrier';
import type { CarriedStream } from './carrier';
import { frame, frameKinds } from './frames';

/** A connection of which the other side is played by the test. */
class PlayedSocket extends Duplex {
  readonly written: Buffer[] = [];
  override _read(): void {
    // What comes is pushed by the test.
  }
  override _write(bytes: Buffer, _: BufferEncoding, done: () => void): void {
    this.written.push(bytes);
    done();
  }
  private get frames() {
    const names = new Map<number, string>(Object.entries(frameKinds).map(([name, number]) => [number, name]));
    const all = Buffer.concat(this.written);
    const told: { kind: string; stream: number; payload: Buffer }[] = [];
    for (let at = 0; at + 9 <= all.length; at += 9 + all.readUInt32BE(at + 5)) {
      const payload = all.subarray(at + 9, at + 9 + all.readUInt32BE(at + 5));
      told.push({ kind: names.get(all.readUInt8(at)) ?? '?', stream: all.readUInt32BE(at + 1), payload });
    }
    return told;
  }
  get kinds(): readonly string[] {
    return this.frames.map(({ kind, stream }) => `${kind} ${stream}`);
  }
  /** Room that was given, in the order in which it was. */
  get credits(): readonly number[] {
    return this.frames.filter(({ kind }) => kind === 'credit').map(({ payload }) => payload.readUInt32BE(0));
  }
}

const settled = (): Promise<void> => new Promise((done) => setTimeout(done, 10));
const begun = (answers = true) => {
  const socket = new PlayedSocket();
  const streams: CarriedStream[] = [];
  const said: string[] = [];
  const carrier = new Carrier(socket as unknown as TLSSocket, {
    ready: () => said.push('ready'),
    letGo: () => said.push('let go'),
    gone: () => said.push('gone'),
    ...(answers
      ? {
          asked: (stream: CarriedStream, target: string) => {
            said.push(`asked ${target}`);
            stream.on('error', () => undefined);
            streams.push(stream);
            stream.accept();
          },
        }
      : {}),
  });
  const hear = async (...frames: readonly Buffer[]): Promise<void> => {
    socket.push(Buffer.concat(frames));
    await settled();
  };
  return { socket, carrier, streams, said, hear };
};
const credit = (bytes: number): Buffer => {
  const payload = Buffer.alloc(4);
  payload.writeUInt32BE(bytes);
  return payload;
};
const kibi = Buffer.alloc(64 * 1024, 7);

/** Two carriers whose connections lead to each other, in pieces of any size. */
function joined(pieces: readonly number[]) {
  const ends: [PlayedSocket, PlayedSocket] = [new PlayedSocket(), new PlayedSocket()];
  let turn = 0;
  ends.forEach((end, index) => {
    const other = ends[1 - index];
    end._write = (bytes: Buffer, _: BufferEncoding, done: () => void) => {
      for (let at = 0; at < bytes.length;) {
        const piece = pieces[(turn += 1) % pieces.length] ?? 1;
        other?.push(bytes.subarray(at, at + piece));
        at += piece;
      }
      setImmediate(done);
    };
  });
  let tell = (): void => undefined;
  const letGo = new Promise<void>((resolve) => (tell = resolve));
  const echoing = new Carrier(ends[1] as unknown as TLSSocket, {
    letGo: () => tell(),
    gone: () => undefined,
    asked: (stream) => {
      stream.on('error', () => undefined);
      stream.accept();
      stream.pipe(stream);
    },
  });
  const asking = new Carrier(ends[0] as unknown as TLSSocket, { letGo: () => undefined, gone: () => undefined });
  return { asking, echoing, letGo };
}

/** All that comes back of what is written to a stream, until its end. */
function echoed(stream: CarriedStream, parts: readonly Buffer[]): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    const back: Buffer[] = [];
    stream.on('data', (part: Buffer) => back.push(part));
    stream.on('end', () => resolve(Buffer.concat(back)));
    stream.on('error', reject);
    for (const part of parts) stream.write(part);
    stream.end();
  });
}

describe('two carriers', () => {
  it('bring what goes into streams to the other side and back, whole and in order, however it is cut', async () => {
    const amounts = fc.array(fc.array(fc.integer({ min: 1, max: 200_000 }), { maxLength: 12 }), {
      minLength: 1,
      maxLength: 8,
    });
    const pieces = fc.array(fc.integer({ min: 1, max: 70_000 }), { minLength: 1, maxLength: 5 }).map((sizes) => [
      ...sizes,
      // Else a run of single bytes would take the test’s time.
      65_536,
    ]);
    await fc.assert(
      fc.asyncProperty(amounts, pieces, async (wanted, cuts) => {
        const { asking } = joined(cuts);
        const sent = wanted.map((sizes, which) => sizes.map((size, at) => Buffer.alloc(size, which * 16 + at)));
        const back = await Promise.all(sent.map((parts) => echoed(asking.open('echo'), parts)));
        back.forEach((bytes, which) => expect(bytes.equals(Buffer.concat(sent[which] ?? []))).toBe(true));
      }),
      { numRuns: 40 },
    );
  });

  it('bring more than all room at first, too, whole and in order, while room grows', async () => {
    const { asking, echoing } = joined([65_536, 40_000]);
    const bytes = Buffer.alloc(20 << 20);
    for (let at = 0; at < bytes.length; at += 4) bytes.writeUInt32BE(at, at);
    const stream = asking.open('echo');
    const back = await echoed(stream, [bytes]);
    expect(back.length).toBe(bytes.length);
    expect(back.equals(bytes)).toBe(true);
    expect([stream.room, asking.isOpen, echoing.isOpen]).toEqual([expect.any(Number), true, true]);
    expect(stream.room).toBeLessThanOrEqual(mostWindow);
    // What it had is there for others again.
    const others = Array.from({ length: 8 }, () => asking.grow(mostWindow));
    expect(others).toEqual(others.map(() => true));
    expect(asking.grow(1)).toBe(false);
  });

  it('let a stream through whose neighbour is not read, and end when both have', async () => {
    const { asking, echoing, letGo } = joined([65_536]);
    const stalled = asking.open('echo');
    stalled.on('error', () => undefined);
    stalled.write(Buffer.alloc(8 << 20, 1));
    const bytes = Buffer.alloc(3 << 20, 2);
    expect((await echoed(asking.open('echo'), [bytes])).equals(bytes)).toBe(true);
    asking.drain();
    expect([asking.isOpen, stalled.destroyed]).toEqual([false, false]);
    stalled.cancel();
    await letGo;
    expect(echoing.isOpen).toBe(false);
  });
});

describe('a carrier of streams', () => {
  it('takes data as far as there is room, and gives room back as it is read', async () => {
    const { socket, streams, hear, said } = begun();
    await hear(frame('open', 1, Buffer.from('echo')));
    expect([said, socket.kinds]).toEqual([['asked echo'], ['opened 1']]);
    await hear(...Array.from({ length: 16 }, () => frame('data', 1, kibi)));
    expect(socket.kinds.filter((kind) => kind === 'credit 1').length).toBeLessThan(2);
    let read = 0;
    streams[0]?.on('data', (part: Buffer) => (read += part.length));
    await settled();
    expect(read).toBe(16 * kibi.length);
    expect(socket.kinds).toContain('credit 1');
    expect(said).not.toContain('gone');
  });

  it('sends no more than there is room for at the far end, and goes on when that says so', async () => {
    const { socket, carrier, hear } = begun(false);
    const stream = carrier.open('echo');
    await hear(frame('opened', 1));
    stream.write(Buffer.alloc(3 << 20));
    await settled();
    const sent = () => socket.kinds.filter((kind) => kind === 'data 1').length * kibi.length;
    expect(sent()).toBe(1 << 20);
    await hear(frame('credit', 1, credit(1 << 19)));
    expect(sent()).toBe((1 << 20) + (1 << 19));
  });

  describe('whose far end sends a lot', () => {
    let clock: jest.SpyInstance<number, []>;
    let now = 1000;
    beforeAll(() => (clock = jest.spyOn(performance, 'now')));
    beforeEach(() => clock.mockReturnValue(now));
    afterAll(() => clock.mockRestore());
    /** Data over a stream that is fetched at once, each quarter of its first room taking so many milliseconds. */
    const sends = async (of: ReturnType<typeof begun>, stream: number, bytes: number, msEach: number) => {
      await of.hear(frame('open', stream, Buffer.from('echo')));
      of.streams.at(-1)?.on('data', () => undefined);
      await settled();
      for (let sent = 0; sent < bytes; sent += 4 * kibi.length) {
        clock.mockReturnValue((now += msEach));
        await of.hear(...Array.from({ length: 4 }, () => frame('data', stream, kibi)));
      }
    };

    it('gives more room where what comes is fetched quickly, up to a bound', async () => {
      const carrier = begun();
      await sends(carrier, 1, 4 << 20, 1);
      const { credits } = carrier.socket;
      expect(credits.slice(0, 3)).toEqual([(1 << 18) + (1 << 20), (1 << 19) + (2 << 20), (1 << 20) + (4 << 20)]);
      expect(carrier.streams[0]?.room).toBe(mostWindow);
    });

    it('gives no more where it is fetched slowly, or not at all', async () => {
      const carrier = begun();
      await sends(carrier, 1, 1 << 20, 30);
      expect(carrier.socket.credits).toEqual([1 << 18, 1 << 18, 1 << 18, 1 << 18]);
      await carrier.hear(
        frame('open', 2, Buffer.from('echo')),
        ...Array.from({ length: 16 }, () => frame('data', 2, kibi)),
      );
      expect(carrier.streams[1]?.room).toBe(firstWindow);
    });

    it('gives all streams together no more than it can hold, and takes room back with its stream', async () => {
      const carrier = begun();
      for (let stream = 1; stream <= 10; stream += 1) await sends(carrier, stream, 2 << 20, 1);
      const grown = () => carrier.streams.reduce((sum, { room }) => sum + room - firstWindow, 0);
      expect(grown()).toBe(64 << 20);
      expect(carrier.streams.at(-1)?.room).toBe(2 << 20);
      carrier.streams[0]?.cancel();
      await settled();
      await sends(carrier, 11, 2 << 20, 1);
      expect(carrier.streams.at(-1)?.room).toBe(mostWindow);
    });
  });

  it('lets streams take turns', async () => {
    const { socket, carrier } = begun(false);
    const [one, other] = [carrier.open('echo'), carrier.open('echo')];
    socket.cork();
    one.write(Buffer.alloc(1 << 20));
    other.write(Buffer.alloc(100));
    socket.uncork();
    await settled();
    const data = socket.kinds.filter((kind) => kind.startsWith('data'));
    expect(data.indexOf('data 2')).toBeLessThan(data.lastIndexOf('data 1'));
  });

  it.each([
    ['more data than there is room for', Array.from({ length: 17 }, () => frame('data', 1, kibi))],
    ['more credit than there can be room for', [frame('credit', 1, credit(mostWindow - firstWindow + 1))]],
    ['credit of no size', [frame('credit', 1, Buffer.from([1]))]],
    ['data after the end', [frame('end', 1), frame('data', 1, kibi)]],
    ['the same stream twice', [frame('open', 1, Buffer.from('echo'))]],
    ['no frame at all', [Buffer.from('GET / HTTP/1.1\r\n\r\n')]],
  ])('is given up where there is %s', async (_, frames) => {
    const { hear, said, streams } = begun();
    await hear(frame('open', 1, Buffer.from('echo')));
    await hear(...frames);
    expect(said).toContain('gone');
    expect(streams[0]?.destroyed).toBe(true);
  });

  it('is given up where the side that asks is asked', async () => {
    const { hear, said } = begun(false);
    await hear(frame('open', 1, Buffer.from('echo')));
    expect(said).toEqual(['gone']);
  });

  it('lets go of what is over, and passes over what still comes of it', async () => {
    const { socket, carrier, hear, said } = begun(false);
    const stream = carrier.open('echo');
    stream.on('error', () => undefined);
    stream.cancel();
    await settled();
    expect(socket.kinds).toEqual(['open 1', 'reset 1']);
    await hear(frame('opened', 1), frame('data', 1, kibi), frame('end', 1));
    expect(said).toEqual([]);
    carrier.drain();
    await settled();
    expect([socket.kinds.at(-1), socket.writableEnded, carrier.isOpen]).toEqual(['last 0', true, false]);
  });
});
