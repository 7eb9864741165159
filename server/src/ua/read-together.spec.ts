import { DataValue } from 'node-opcua-client';
import type { ReadValueIdOptions } from 'node-opcua-client';
import { DataType, Variant } from 'node-opcua-variant';
import { readTogether } from './read-together.js';

const wished = (count: number): ReadValueIdOptions[] =>
  Array.from({ length: count }, (_, index) => ({ nodeId: `ns=1;i=${index}`, attributeId: 13 }));
const number = (value: number) => new DataValue({ value: new Variant({ dataType: DataType.UInt32, value }) });

/** A server that takes so many nodes, and says so, or something else. */
function serverWith(takes: number, says: number | null) {
  const sizes: number[] = [];
  const read = (nodes: readonly ReadValueIdOptions[]): Promise<DataValue[]> => {
    if (nodes[0]?.nodeId === 'i=11705') return Promise.resolve([says === null ? new DataValue({}) : number(says)]);
    sizes.push(nodes.length);
    if (nodes.length > takes) return Promise.reject(new Error('serviceResult = BadTooManyOperations (0x80100000)'));
    return Promise.resolve(nodes.map(({ nodeId }) => number(Number(String(nodeId).split('=').at(-1)))));
  };
  return { session: { read } as unknown as Parameters<typeof readTogether>[0], sizes };
}
const numbersOf = (values: readonly DataValue[]): unknown[] => values.map(({ value }) => value.value as unknown);
const straight = <Value>(call: Promise<Value>): Promise<Value> => call;

describe('reading many attributes', () => {
  it('asks for no more at once than the server says that it takes, and keeps their order', async () => {
    const { session, sizes } = serverWith(10, 10);
    expect(numbersOf(await readTogether(session, wished(25), straight))).toEqual(
      Array.from({ length: 25 }, (_, i) => i),
    );
    expect(sizes).toEqual([10, 10, 5]);
  });

  it('asks for all at once where the server says nothing, or takes any number', async () => {
    for (const says of [null, 0]) {
      const { session, sizes } = serverWith(Infinity, says);
      await readTogether(session, wished(25), straight);
      expect(sizes).toEqual([25]);
    }
  });

  it('tries half of what was refused, and remembers what went', async () => {
    const { session, sizes } = serverWith(7, 20);
    expect((await readTogether(session, wished(25), straight)).length).toBe(25);
    expect(sizes).toEqual([20, 10, 5, 5, 5, 5, 5]);
    await readTogether(session, wished(6), straight);
    expect(sizes.slice(-2)).toEqual([5, 1]);
  });

  it('gives up where even one is too many', async () => {
    const { session } = serverWith(0, null);
    await expect(readTogether(session, wished(3), straight)).rejects.toThrow(/BadTooManyOperations/);
  });
});
