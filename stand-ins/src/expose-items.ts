import { makeEUInformation, standardUnits } from 'node-opcua-data-access';
import type { OPCUAServer } from 'node-opcua-server';
import { DataType } from 'node-opcua-variant';
import type { StandInServer } from './marrowby/index.js';
import { ProcessValue } from './process-values.js';

const tickMs = 500;

/** Puts a stand-in's items into its address space, and keeps their values moving. */
export function exposeItems(server: OPCUAServer, standIn: StandInServer): NodeJS.Timeout {
  const addressSpace = server.engine.addressSpace;
  if (!addressSpace) throw new Error('the server has no address space');
  const namespace = addressSpace.getOwnNamespace();
  const folders = new Map<string, ReturnType<typeof namespace.addFolder>>();
  const folderAt = (parts: readonly string[]): ReturnType<typeof namespace.addFolder> => {
    const path = parts.join('/');
    const known = folders.get(path);
    if (known) return known;
    const parent = parts.length > 1 ? folderAt(parts.slice(0, -1)) : addressSpace.rootFolder.objects;
    const made = namespace.addFolder(parent, { browseName: parts.at(-1) ?? '', nodeId: `s=${path}` });
    folders.set(path, made);
    return made;
  };
  const updates = standIn.items.map((item) => {
    const parts = item.path.split('/');
    const value = new ProcessValue(item);
    const variable = namespace.addAnalogDataItem({
      browseName: parts.at(-1) ?? '',
      nodeId: `s=${item.path}`,
      organizedBy: folderAt(parts.slice(0, -1)),
      engineeringUnits: item.unit === 'count' ? makeEUInformation('C62', '', 'one') : standardUnits[item.unit],
      engineeringUnitsRange: { low: item.mean - 10 * item.swing, high: item.mean + 10 * item.swing },
      dataType: DataType.Double,
      minimumSamplingInterval: 100,
      accessLevel: 'CurrentRead',
      userAccessLevel: 'CurrentRead',
    });
    return () => variable.setValueFromSource({ dataType: DataType.Double, value: value.next() });
  });
  const update = (): void => updates.forEach((run) => run());
  update();
  return setInterval(update, tickMs);
}
