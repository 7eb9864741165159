import fc from 'fast-check';
import { HeardCalls } from './heard-calls';

const [good, bad] = [0, 0x80340000];

/** The plain way: each request with the call that it is, and what came of that. */
function expected(said: readonly (readonly ['asks' | 'answers', id: number])[]) {
  const calls: { name: string; at: number; result: string | null }[] = [];
  const open = new Map<number, (typeof calls)[number]>();
  said.forEach(([what, id], index) => {
    if (what === 'asks') {
      const call = { name: `Call${id}`, at: index, result: null };
      calls.push(call);
      open.set(id, call);
      return;
    }
    const call = open.get(id);
    if (call) call.result = 'Good';
    open.delete(id);
  });
  return { calls, isWaiting: open.size > 0 };
}

describe('calls that were heard', () => {
  it('get each the answer to its own request, in whatever order they come', () => {
    const said = fc.array(
      fc.tuple(fc.constantFrom('asks' as const, 'answers' as const), fc.integer({ min: 1, max: 4 })),
    );
    fc.assert(
      fc.property(said, (all) => {
        const heard = new HeardCalls();
        all.forEach(([what, id], index) =>
          what === 'asks' ? heard.asked(id, `Call${id}`, index) : heard.answered(id, good),
        );
        const { calls, isWaiting } = expected(all);
        expect([heard.services, heard.isWaiting, heard.error]).toEqual([calls, isWaiting, null]);
      }),
      { numRuns: 500 },
    );
  });

  it('tell the last failure, unless the same service has worked afterwards', () => {
    const heard = new HeardCalls();
    heard.asked(1, 'Read', 1);
    heard.answered(1, bad);
    expect(heard.error).toEqual({ code: bad, name: 'BadNodeIdUnknown', reason: 'Read failed.' });
    heard.asked(2, 'Write', 2);
    heard.answered(2, good);
    expect(heard.error?.name).toBe('BadNodeIdUnknown');
    heard.asked(3, 'Read', 3);
    heard.answered(3, good);
    expect(heard.error).toBeNull();
    expect(heard.services.map(({ result }) => result)).toEqual(['BadNodeIdUnknown', 'Good', 'Good']);
  });

  it('wait for nothing more once the channel is closed', () => {
    const heard = new HeardCalls();
    heard.asked(1, 'Read', 1);
    heard.asked(2, 'Browse', 2);
    expect([heard.isWaiting, heard.nameOf(1), heard.nameOf(2), heard.nameOf(3)]).toEqual([
      true,
      'Read',
      'Browse',
      null,
    ]);
    heard.close();
    heard.answered(2, bad);
    expect([heard.isWaiting, heard.error]).toEqual([false, null]);
  });

  it('have an answer that can’t be read', () => {
    const heard = new HeardCalls();
    heard.asked(1, 'Read', 1);
    heard.answered(1, null);
    expect([heard.services, heard.isWaiting]).toEqual([[{ name: 'Read', at: 1, result: null }], false]);
  });

  it('are listed up to a bound, and told of beyond it, with their failures', () => {
    const heard = new HeardCalls();
    for (let id = 1; id <= 10_003; id += 1) {
      heard.asked(id, 'Read', id);
      if (id !== 10_002) heard.answered(id, good);
    }
    expect(heard.services).toHaveLength(10_000);
    expect(heard.notes).toEqual(['3 more calls of services are not listed.']);
    expect(heard.nameOf(10_002)).toBe('Read');
    heard.answered(10_002, bad);
    expect(heard.error?.name).toBe('BadNodeIdUnknown');
    expect(heard.services.every(({ result }) => result === 'Good')).toBe(true);
  });
});
