import type { OPCUAServer } from 'node-opcua-server';
import { DataType } from 'node-opcua-variant';

const everyMs = 250;

/** How many counters a server has: none, but where the environment says so (`furnace-server:1250,lehr-server:1250`). */
function countersOf(serverId: string): number {
  const wished = (process.env['HINGE_PLANT_COUNTERS'] ?? '').split(',').map((part) => part.split(':'));
  return Number(wished.find(([id]) => id === serverId)?.[1] ?? 0);
}

/** Counters that all go up by one every quarter of a second: load for measurements, in which a change that was lost shows as a gap. */
export function exposeCounters(server: OPCUAServer, serverId: string): NodeJS.Timeout | null {
  const count = countersOf(serverId);
  const { addressSpace } = server.engine;
  if (count === 0 || !addressSpace) return null;
  const namespace = addressSpace.getOwnNamespace();
  const folder = namespace.addFolder(addressSpace.rootFolder.objects, { browseName: 'Counters', nodeId: 's=Counters' });
  const counters = Array.from({ length: count }, (_, index) =>
    namespace.addVariable({
      browseName: `Counter ${index}`,
      nodeId: `s=Counter ${index}`,
      organizedBy: folder,
      dataType: DataType.UInt32,
      minimumSamplingInterval: 50,
      accessLevel: 'CurrentRead',
      userAccessLevel: 'CurrentRead',
      value: { dataType: DataType.UInt32, value: 0 },
    }),
  );
  let value = 0;
  return setInterval(() => {
    value += 1;
    for (const counter of counters) counter.setValueFromSource({ dataType: DataType.UInt32, value });
  }, everyMs);
}
