import type { AddressSpace, UAObject } from 'node-opcua-address-space';
import { resolveNodeId } from 'node-opcua-client';
import type { NodeId } from 'node-opcua-client';
import { DataType, Variant } from 'node-opcua-variant';
import type { UaEvent } from './events';
import { ShownEvents } from './shown-events';

/** As much of the library’s folder as a notifier needs; it keeps what it raised. */
class Folder {
  readonly raised: Readonly<Record<string, Variant>>[] = [];
  notifier = 0;
  _conditionRefresh?: () => void;
  readonly nodeId = resolveNodeId('ns=1;s=folder');
  setEventNotifier(flags: number): void {
    this.notifier = flags;
  }
  raiseEvent(_: unknown, data: Readonly<Record<string, Variant>>): void {
    this.raised.push(data);
  }
}

const types = ['ns=0;i=2041', 'ns=0;i=2782', 'ns=0;i=2881', 'ns=0;i=2915'];
const typed = (id: string) => ({
  nodeId: { toString: () => id },
  isSubtypeOf: (other: { nodeId: { toString(): string } }) =>
    types.indexOf(other.nodeId.toString()) < types.indexOf(id),
});

function begun() {
  const references: string[] = [];
  const server = {
    addReference: ({ nodeId }: { nodeId: NodeId }) => {
      if (references.includes(nodeId.toString())) throw new Error('it is there already');
      references.push(nodeId.toString());
    },
    removeReference: ({ nodeId }: { nodeId: NodeId }) => references.splice(references.indexOf(nodeId.toString()), 1),
  };
  const addressSpace = {
    rootFolder: { objects: { server } },
    findEventType: (id: string) =>
      id === 'BaseEventType' ? typed('ns=0;i=2041') : types.includes(id) ? typed(id) : null,
  };
  const events = new ShownEvents(addressSpace as unknown as AddressSpace);
  const folder = new Folder();
  return { events, folder, shown: folder as unknown as UAObject, references };
}

const event = (type: string, fields: Readonly<Record<string, [DataType, unknown]>>): UaEvent => ({
  type,
  fields: new Map(Object.entries(fields).map(([name, [dataType, value]]) => [name, new Variant({ dataType, value })])),
});
const alarm = (name: string, retain: boolean) =>
  event('ns=0;i=2915', {
    SourceName: [DataType.String, 'Lehr'],
    ConditionName: [DataType.String, name],
    Retain: [DataType.Boolean, retain],
    'ActiveState.Id': [DataType.Boolean, retain],
  });

describe('folders that send events', () => {
  it('send the fields that the type of an event has, and no others', () => {
    const { events, folder, shown } = begun();
    events.add('a', shown);
    events.tell('a', event('ns=0;i=2041', { Severity: [DataType.UInt16, 7], Retain: [DataType.Boolean, true] }));
    events.tell('a', alarm('too hot', true));
    events.tell('a', event('ns=0;i=9999', { Severity: [DataType.UInt16, 8] }));
    expect(folder.raised.map((data) => Object.keys(data).filter((key) => !key.startsWith('source')))).toEqual([
      ['severity'],
      ['conditionName', 'retain', 'activeState.id'],
      ['severity'],
    ]);
  });

  it('tell again what stands, and nothing that is over', () => {
    const { events, folder, shown } = begun();
    events.add('a', shown);
    events.tell('a', alarm('too hot', true));
    events.tell('a', alarm('too fast', true));
    events.tell('a', alarm('too hot', false));
    folder.raised.length = 0;
    folder._conditionRefresh?.();
    expect(folder.raised.map((data) => data['conditionName']?.value as unknown)).toEqual(['too fast']);
  });

  it('send for several nodes, until the last of them has gone, and may send again later', () => {
    const { events, folder, shown, references } = begun();
    events.add('a', shown);
    events.add('b', shown);
    events.tell('b', alarm('too hot', true));
    events.remove('a');
    events.tell('a', alarm('unheard', true));
    expect([references, folder.notifier, folder.raised.length]).toEqual([['ns=1;s=folder'], 1, 1]);
    events.remove('b');
    events.remove('b');
    expect([references, folder.notifier, folder._conditionRefresh]).toEqual([[], 0, undefined]);
    events.add('a', shown);
    expect([references, folder.notifier]).toEqual([['ns=1;s=folder'], 1]);
  });
});
