import { DataValue, StatusCodes } from 'node-opcua-client';
import type { ReadValueIdOptions } from 'node-opcua-client';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { readRedundancy } from './redundancy.js';

const support = (value: number) => new DataValue({ value: new Variant({ dataType: DataType.Int32, value }) });
const uris = (...value: string[]) =>
  new DataValue({ value: new Variant({ dataType: DataType.String, arrayType: VariantArrayType.Array, value }) });
const missing = new DataValue({ statusCode: StatusCodes.BadNodeIdUnknown });

/** What is read of a server that answers so. */
function readOf(...answers: readonly DataValue[]) {
  const asked: string[] = [];
  const read = (nodes: readonly ReadValueIdOptions[]): Promise<readonly DataValue[]> => {
    asked.push(...nodes.map(({ nodeId }) => String(nodeId)));
    return Promise.resolve(answers);
  };
  const session = { read } as unknown as Parameters<typeof readRedundancy>[0];
  return { asked, told: readRedundancy(session, (call) => call) };
}

describe('the redundancy of a server', () => {
  it('is read at its well-known nodes, in one request', async () => {
    const { asked, told } = readOf(support(2), uris('urn:a', 'urn:b'));
    expect(await told).toEqual({ support: 'Warm', uris: ['urn:a', 'urn:b'] });
    expect(asked).toEqual(['i=3709', 'i=11314']);
  });

  it('names nobody where the server has no such list', async () => {
    expect(await readOf(support(0), missing).told).toEqual({ support: 'None', uris: [] });
    expect(await readOf(support(4), new DataValue({})).told).toEqual({ support: 'Transparent', uris: [] });
  });

  it.each([
    ['it may not be read', missing],
    ['it is none of the standard’s', support(6)],
    ['it is negative', support(-1)],
    ['it is no number', uris('Warm')],
  ])('is not known where %s', async (_, answer) => {
    expect(await readOf(answer, uris('urn:a')).told).toBeNull();
  });

  it('is bounded, whatever the server sends', async () => {
    const many = Array.from({ length: 500 }, (_, index) => `urn:${index}`);
    const told = await readOf(support(3), uris('', 'urn:0', 'u'.repeat(5000), ...many)).told;
    expect(told?.uris).toHaveLength(100);
    expect(told?.uris.slice(0, 3)).toEqual(['urn:0', 'u'.repeat(200), 'urn:1']);
  });
});
