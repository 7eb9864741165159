import fc from 'fast-check';
import { frame, FrameReader, frameKinds, mostData } from './frames';
import type { FrameKind } from './frames';

type Heard = [kind: string, stream: number, bytes: string];

/** What is heard, with the parts of a data frame put together. */
function heardOf(pieces: readonly Buffer[]): Heard[] {
  const heard: Heard[] = [];
  let open: Heard | null = null;
  const reader = new FrameReader({
    data: (stream, part) => {
      if (!open) heard.push((open = ['data', stream, '']));
      open[2] += part.toString('hex');
    },
    other: (kind, stream, payload) => {
      open = null;
      heard.push([kind, stream, payload.toString('hex')]);
    },
  });
  for (const piece of pieces) reader.take(piece);
  return heard;
}

const kinds = Object.keys(frameKinds) as FrameKind[];
const frames = fc.array(
  fc.tuple(fc.constantFrom(...kinds), fc.nat(1000), fc.uint8Array({ minLength: 1, maxLength: 200 })),
  { maxLength: 20 },
);

describe('frames of a tunnel’s line', () => {
  it('are heard as they were written, however they were cut on the way', () => {
    fc.assert(
      fc.property(frames, fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1 }), (written, cuts) => {
        // Something else stands between data frames: parts of two of them can’t be told apart here.
        const all = written.flatMap((each) => [each, ['ping', 0, new Uint8Array()] as const]);
        const bytes = Buffer.concat(all.map(([kind, stream, payload]) => frame(kind, stream, Buffer.from(payload))));
        const pieces: Buffer[] = [];
        for (let at = 0, turn = 0; at < bytes.length; turn += 1) {
          const length = cuts[turn % cuts.length] ?? 1;
          pieces.push(bytes.subarray(at, at + length));
          at += length;
        }
        expect(heardOf(pieces)).toEqual(
          all.map(([kind, stream, payload]) => [kind, stream, Buffer.from(payload).toString('hex')]),
        );
      }),
    );
  });

  it.each([
    ['of a kind that is not known', Buffer.from([99, 0, 0, 0, 1, 0, 0, 0, 0])],
    ['longer than data may be', Buffer.from([frameKinds.data, 0, 0, 0, 1, 0, 1, 0, 1])],
    ['longer than anything else may be', Buffer.from([frameKinds.open, 0, 0, 0, 1, 0, 0, 1, 0])],
    ['of four thousand million bytes', Buffer.from([frameKinds.data, 0, 0, 0, 1, 255, 255, 255, 255])],
  ])('are none where one is %s', (_, bytes) => {
    expect(() => heardOf([bytes])).toThrow(/frame/);
    expect(mostData).toBe(65_536);
  });
});
