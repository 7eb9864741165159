import { EventEmitter } from 'node:events';
import { ClientMonitoredItem, resolveNodeId } from 'node-opcua-client';
import type { ClientSession, ClientSubscription } from 'node-opcua-client';
import { DataType, Variant } from 'node-opcua-variant';
import { passedFields, SourceEvents } from './events';
import type { UaEvent } from './events';

const fieldNames = ['EventType', ...Object.values(passedFields).flat()];
const told = (fields: Readonly<Record<string, [DataType, unknown]>>): Variant[] =>
  fieldNames.map((name) => {
    const [dataType, value] = fields[name] ?? [DataType.Null, null];
    return new Variant({ dataType, value });
  });
const typed = (id: string, more: Readonly<Record<string, [DataType, unknown]>> = {}) =>
  told({ EventType: [DataType.NodeId, resolveNodeId(id)], ...more });
const settled = (): Promise<void> => new Promise((done) => setTimeout(done, 5));

/** A server whose own types stand below the standard’s. */
function begun(above: Readonly<Record<string, string>> = {}, refused: readonly string[] = []) {
  const items: EventEmitter[] = [];
  jest.spyOn(ClientMonitoredItem, 'create').mockImplementation((_, { nodeId }) => {
    const item = new EventEmitter();
    items.push(item);
    setImmediate(() =>
      refused.includes(String(nodeId)) ? item.emit('err', 'BadUserAccessDenied') : item.emit('initialized'),
    );
    return item as unknown as ClientMonitoredItem;
  });
  const browsed: string[] = [];
  const called: string[] = [];
  const session = {
    browse: ({ nodeId }: { nodeId: string }) => {
      browsed.push(nodeId);
      const type = above[nodeId];
      return Promise.resolve({ references: type === undefined ? [] : [{ nodeId: resolveNodeId(type) }] });
    },
    call: ({ methodId }: { methodId: string }) => {
      called.push(methodId);
      return Promise.resolve({});
    },
  };
  const heard: [path: string, event: UaEvent][] = [];
  const events = new SourceEvents(
    session as unknown as ClientSession,
    { subscriptionId: 7 } as unknown as ClientSubscription,
    (path, event) => heard.push([path, event]),
  );
  return { events, items, heard, browsed, called };
}

afterEach(() => jest.restoreAllMocks());

describe('events of a source', () => {
  it('are told with the fields that they have, and what stands is asked for once', async () => {
    const { events, items, heard, called } = begun();
    expect(await events.listen([{ path: 'Lehr', nodeId: 'ns=1;i=1' }])).toEqual(new Map());
    items[0]?.emit('changed', typed('ns=0;i=2041', { Severity: [DataType.UInt16, 500] }));
    await settled();
    expect(called).toEqual(['i=3875']);
    expect(heard.map(([path, { type, fields }]) => [path, type, [...fields.keys()]])).toEqual([
      ['Lehr', 'ns=0;i=2041', ['Severity']],
    ]);
  });

  it('have the nearest type of the standard’s own, which is asked for once, and keep their order meanwhile', async () => {
    const { events, items, heard, browsed } = begun({ 'ns=1;i=10': 'ns=1;i=9', 'ns=1;i=9': 'ns=0;i=9341' });
    await events.listen([{ path: 'Lehr', nodeId: 'ns=1;i=1' }]);
    for (const id of ['ns=1;i=10', 'ns=0;i=2041', 'ns=1;i=10', 'ns=2;i=77']) items[0]?.emit('changed', typed(id));
    await settled();
    expect(heard.map(([, { type }]) => type)).toEqual(['ns=0;i=9341', 'ns=0;i=2041', 'ns=0;i=9341', 'ns=0;i=2041']);
    expect(browsed).toEqual(['ns=1;i=10', 'ns=1;i=9', 'ns=2;i=77']);
  });

  it('are none where they mark a refresh, or are no event at all', async () => {
    const { events, items, heard } = begun();
    await events.listen([{ path: 'Lehr', nodeId: 'ns=1;i=1' }]);
    for (const what of [typed('ns=0;i=2787'), typed('ns=0;i=2788'), 'nothing', null]) items[0]?.emit('changed', what);
    await settled();
    expect(heard).toEqual([]);
  });

  it('of a node that may not be listened to are told by its path, and the others are heard', async () => {
    const { events, items, heard, called } = begun({}, ['ns=1;i=1']);
    const nodes = [
      { path: 'Lehr', nodeId: 'ns=1;i=1' },
      { path: 'Furnace', nodeId: 'ns=1;i=2' },
    ];
    expect(await events.listen(nodes)).toEqual(new Map([['Lehr', 'BadUserAccessDenied']]));
    items[1]?.emit('changed', typed('ns=0;i=2041'));
    await settled();
    expect(heard.map(([path]) => path)).toEqual(['Furnace']);
    expect(called).toHaveLength(1);
    expect((await begun({}, ['ns=1;i=1']).events.listen(nodes.slice(0, 1))).size).toBe(1);
  });
});
