import { changedBy, stageOfChange, wayBackOf } from '../orders/order-change.js';
import {
  dcomChangeOf,
  isDcomPermission,
  keysOfDcomChanges,
  permissionAt,
  readDescriptor,
  sayDcomChange,
  writtenDescriptor,
} from './permission-order.js';
import type { DcomChange } from './permission-order.js';
import { registryExportText } from './registry-export.js';
import { Registry, readRegistryExport } from './registry.js';
import { readSddl } from './sddl.js';
import { dcomSettings } from './settings.js';
import { appIds, ole } from './permission-entries.js';

const path = `${appIds}\\{5d8f0b52-3c1e-4f6a-9a70-2b6c1de90402}`;
function descriptorOf(sddl: string) {
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(read.fault.says);
  return read.value;
}
const administrators = descriptorOf('O:BAG:BAD:(A;;CCLC;;;BA)');
const change: DcomChange = dcomChangeOf('tin-data', {
  what: 'Access permission of Tin bath data',
  path,
  name: 'AccessPermission',
  before: null,
  after: administrators,
  says: [],
});

describe('a permission in a work order', () => {
  it('is a permission of DCOM, and no other value of the registry', () => {
    const places: readonly (readonly [string, string, boolean])[] = [
      [path, 'AccessPermission', true],
      [path, 'LaunchPermission', true],
      [ole, 'MachineLaunchRestriction', true],
      [ole, 'DefaultAccessPermission', true],
      [path, 'RunAs', false],
      [ole, 'LaunchPermission', false],
      [`${appIds}\\notepad`, 'LaunchPermission', false],
      [`${path}\\Elevation`, 'AccessPermission', false],
      ['HKEY_LOCAL_MACHINE\\SOFTWARE', 'AccessPermission', false],
    ];
    for (const [at, name, isOne] of places)
      expect([at, name, isDcomPermission({ path: at, name })]).toEqual([at, name, isOne]);
  });

  it('is told in words, before and after, and taken back', () => {
    expect(sayDcomChange(change, 'Tin bath data')).toMatchObject({
      title: 'Set on Tin bath data: access permission of Tin bath data',
      before: 'none of its own',
      after: 'O:BAG:BAD:(A;;CCLC;;;BA)',
    });
    const back = wayBackOf(change);
    expect(back).toEqual({ ...change, before: change.after, after: null });
    expect(sayDcomChange(back as DcomChange, 'Tin bath data').title).toMatch(
      /^Take away on Tin bath data: access permission/,
    );
    expect([changedBy(change), stageOfChange(change)]).toEqual(['tin-data', 1]);
  });

  it('is in force once an export has it there', () => {
    const registry = new Registry();
    const settingsAfter = (which: 'apply' | 'undo') => {
      expect(readRegistryExport(registryExportText(keysOfDcomChanges([change])[which]), registry)).toEqual([]);
      return permissionAt(dcomSettings(registry), change);
    };
    expect(settingsAfter('apply')).toBe(change.after);
    expect(settingsAfter('undo')).toBeNull();
  });

  it('is neither there nor gone by an export that does not hold its place, or holds what can’t be read', () => {
    const exportOf = (...keys: Parameters<typeof registryExportText>[0]) => {
      const registry = new Registry();
      readRegistryExport(registryExportText(keys), registry);
      return dcomSettings(registry);
    };
    const elsewhere = exportOf({ path: ole, values: [{ name: 'EnableDCOM', text: 'Y' }] });
    expect(permissionAt(elsewhere, change)).toBeUndefined();
    expect(permissionAt(elsewhere, { path: ole, name: 'DefaultAccessPermission' })).toBeNull();
    const there = exportOf({ path, values: [{ name: '', text: 'Tin bath data' }] });
    expect(permissionAt(there, change)).toBeNull();
    expect(permissionAt(there, { path: ole, name: 'DefaultAccessPermission' })).toBeUndefined();
    const broken = exportOf({ path, values: [{ name: 'AccessPermission', bytes: Uint8Array.of(1, 2, 3) }] });
    expect(permissionAt(broken, change)).toBeUndefined();
  });

  it('is read only where it is a descriptor', () => {
    expect(readDescriptor(writtenDescriptor(administrators) ?? '')).toEqual(administrators);
    for (const text of ['', 'AQAE', 'not base64!']) expect(readDescriptor(text)).toBeUndefined();
  });
});
