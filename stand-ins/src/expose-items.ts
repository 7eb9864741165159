import { WellKnownRoles, makeRoles } from 'node-opcua-address-space';
import { makeEUInformation, standardUnits } from 'node-opcua-data-access';
import { makePermissionFlag } from 'node-opcua-data-model';
import type { OPCUAServer } from 'node-opcua-server';
import { StatusCodes } from 'node-opcua-status-code';
import { DataType } from 'node-opcua-variant';
import type { RoleName } from './access-management.js';
import type { StandInItem, StandInServer } from './marrowby/index.js';
import { DevicePoller } from './poll-devices.js';
import { ProcessValue } from './process-values.js';

const tickMs = 500;

const seen = makePermissionFlag('Browse | Read | ReadRolePermissions');
/** Part 3 §8.56: everybody who signed in sees it, operators write it. */
const setByOperators = [
  { roleId: makeRoles([WellKnownRoles.AuthenticatedUser])[0] ?? null, permissions: seen },
  {
    roleId: makeRoles([WellKnownRoles.Operator])[0] ?? null,
    permissions: makePermissionFlag('Browse | Read | ReadRolePermissions | Write'),
  },
];

/** Those who see an item that is hidden from all others, and write it where it is one that is set. */
const seenOnlyBy = (roles: readonly RoleName[], isSet: boolean) =>
  roles.map((role) => ({
    roleId: makeRoles([WellKnownRoles[role]])[0] ?? null,
    permissions: isSet ? makePermissionFlag('Browse | Read | ReadRolePermissions | Write') : seen,
  }));

/** Values of an item that is recorded. */
const mostRecorded = 2000;

/** Of a generated device. */
const valuesPerDevice = 10;

function rightsOf({ seenBy, isSet = false }: StandInItem) {
  if (seenBy) return { rolePermissions: seenOnlyBy(seenBy, isSet) };
  return isSet ? { rolePermissions: setByOperators } : {};
}

/** Takes generated devices out of the address space, as somebody does who reconfigures a server while it runs. */
export function removeDevices({ engine: { addressSpace } }: OPCUAServer): void {
  const devices = addressSpace?.getOwnNamespace().findNode('s=Devices');
  if (devices) addressSpace?.deleteNode(devices);
}

/** How many devices are generated: fewer where the environment says so, for plants that are thrown away. */
function devicesOf({ devices = 0 }: StandInServer): number {
  const most = process.env['HINGE_PLANT_DEVICES'];
  return most === undefined ? devices : Math.min(devices, Number(most));
}

/**
 * Puts a stand-in's items into its address space, and keeps their values moving.
 * @returns ends that
 */
export function exposeItems(server: OPCUAServer, standIn: StandInServer): () => void {
  const addressSpace = server.engine.addressSpace;
  if (!addressSpace) throw new Error('the server has no address space');
  const namespace = addressSpace.getOwnNamespace();
  addressSpace.installAlarmsAndConditionsService();
  const alarming = new Set(standIn.items.flatMap(({ path, alarmAbove }) => (alarmAbove ? [path.split('/')[0]] : [])));
  const folders = new Map<string, ReturnType<typeof namespace.addFolder>>();
  /** Who sees a folder that holds nothing but hidden items; null: everybody. */
  const viewersOf = (path: string): readonly RoleName[] | null => {
    const below = standIn.items.filter((item) => item.path.startsWith(`${path}/`));
    const all = [...new Set(below.flatMap(({ seenBy = [] }) => seenBy))];
    return below.length > 0 && below.every(({ seenBy }) => seenBy) ? all : null;
  };
  const folderAt = (parts: readonly string[]): ReturnType<typeof namespace.addFolder> => {
    const path = parts.join('/');
    const known = folders.get(path);
    if (known) return known;
    const parent = parts.length > 1 ? folderAt(parts.slice(0, -1)) : addressSpace.rootFolder.objects;
    const made = namespace.addFolder(parent, {
      browseName: parts.at(-1) ?? '',
      nodeId: `s=${path}`,
      // What has an alarm below it sends its events.
      ...(alarming.has(path) ? { notifierOf: addressSpace.rootFolder.objects.server } : {}),
    });
    if (alarming.has(path)) made.setEventNotifier(1);
    const viewers = viewersOf(path);
    if (viewers) made.setRolePermissions(seenOnlyBy(viewers, false));
    folders.set(path, made);
    return made;
  };
  const devices = devicesOf(standIn);
  for (let device = 0; device < devices; device += 1) {
    const folder = folderAt(['Devices', `Area ${Math.floor(device / 100)}`, `Device ${device % 100}`]);
    for (let value = 0; value < valuesPerDevice; value += 1)
      namespace.addVariable({
        browseName: `Value ${value}`,
        nodeId: `s=device ${device} value ${value}`,
        organizedBy: folder,
        dataType: DataType.Double,
        accessLevel: 'CurrentRead',
        userAccessLevel: 'CurrentRead',
        value: { dataType: DataType.Double, value: device + value / 10 },
      });
  }
  const pollers: DevicePoller[] = [];
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
      minimumSamplingInterval: standIn.leastSamplingMs ?? 100,
      accessLevel: item.isSet ? 'CurrentRead | CurrentWrite' : 'CurrentRead',
      userAccessLevel: item.isSet ? 'CurrentRead | CurrentWrite' : 'CurrentRead',
      ...rightsOf(item),
    });
    if (item.isRecorded) addressSpace.installHistoricalDataNode(variable, { maxOnlineValues: mostRecorded });
    if (item.alarmAbove !== undefined) {
      const area = folderAt(parts.slice(0, 1));
      area.addReference({ referenceType: 'HasEventSource', nodeId: variable });
      namespace.instantiateNonExclusiveLimitAlarm('NonExclusiveLimitAlarmType', {
        browseName: `${parts.at(-1) ?? ''} too high`,
        componentOf: area,
        conditionSource: variable,
        inputNode: variable,
        // What an alarm watches has its limits in order; below, nothing ever comes.
        lowLowLimit: item.mean - 200 * item.swing,
        lowLimit: item.mean - 100 * item.swing,
        highLimit: item.alarmAbove,
        highHighLimit: item.mean + 100 * item.swing,
      });
    }
    if (item.polled) {
      const poller = new DevicePoller(item.polled);
      pollers.push(poller);
      return () =>
        poller.value === null
          ? variable.setValueFromSource({ dataType: DataType.Double, value: 0 }, StatusCodes.BadNoCommunication)
          : variable.setValueFromSource({ dataType: DataType.Double, value: poller.value });
    }
    const next = (): void => variable.setValueFromSource({ dataType: DataType.Double, value: value.next() });
    next();
    return item.isSet ? () => variable.touchValue() : next;
  });
  const update = (): void => updates.forEach((run) => run());
  const timer = setInterval(update, tickMs);
  return () => {
    clearInterval(timer);
    for (const poller of pollers) poller.stop();
  };
}
