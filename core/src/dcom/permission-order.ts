import { decodeBase64, encodeBase64 } from '../trust/pem.js';
import { descriptorBytes, readDescriptorBytes } from './descriptor-binary.js';
import type { SecurityDescriptor } from './descriptor.js';
import type { DcomApplication, DcomSettings, KeptPermission } from './settings.js';
import { appIds, ole } from './permission-entries.js';
import type { PermissionChange } from './permission-entries.js';
import { keysOfChanges, sayPermission } from './smallest-settings.js';
import type { KeysOfChanges } from './smallest-settings.js';

/** A permission in a machine’s registry that is to become another one. Nobody sets it from afar: a person does it on the machine. */
export interface DcomChange {
  readonly kind: 'set-permission';
  readonly machineId: string;
  /** Such as “Launch permission of Lehr data”. */
  readonly what: string;
  /** The key, from the root on, and the name of the value. */
  readonly path: string;
  readonly name: string;
  /** A security descriptor, self-relative (MS-DTYP 2.4.6), in base64; null: there is no such value. */
  readonly before: string | null;
  readonly after: string | null;
}

const ofApplication = ['LaunchPermission', 'AccessPermission'] as const;
const ofMachine = [
  'DefaultLaunchPermission',
  'DefaultAccessPermission',
  'MachineLaunchRestriction',
  'MachineAccessRestriction',
] as const;
const guid = /^\{[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}\}$/i;

/** Whether a value of the registry is a permission of DCOM, and nothing else. */
export function isDcomPermission({ path, name }: Pick<DcomChange, 'path' | 'name'>): boolean {
  if (path === ole) return ofMachine.some((known) => known === name);
  const isOfApplication = path.startsWith(`${appIds}\\`) && guid.test(path.slice(appIds.length + 1));
  return isOfApplication && ofApplication.some((known) => known === name);
}

/** A descriptor in base64. */
export const writtenDescriptor = (descriptor: SecurityDescriptor | null): string | null =>
  descriptor && encodeBase64(descriptorBytes(descriptor));

/** The descriptor that is meant; undefined: it is none. */
export function readDescriptor(base64: string): SecurityDescriptor | undefined {
  const bytes = decodeBase64(base64);
  const read = bytes && readDescriptorBytes(bytes);
  return read?.ok ? read.value : undefined;
}

/** A change of the smallest settings, as a line of a work order. */
export const dcomChangeOf = (machineId: string, { what, path, name, before, after }: PermissionChange): DcomChange => ({
  kind: 'set-permission',
  machineId,
  what,
  path,
  name,
  before: writtenDescriptor(before),
  after: writtenDescriptor(after),
});

/** The change that takes it back. */
export const undoOfDcomChange = (change: DcomChange): DcomChange => ({
  ...change,
  before: change.after,
  after: change.before,
});

const descriptorIn = (base64: string | null): SecurityDescriptor | null =>
  base64 === null ? null : (readDescriptor(base64) ?? null);

/** A change in words. */
export function sayDcomChange({ what, before, after }: DcomChange, machine: string) {
  const words = (base64: string | null): string => sayPermission(descriptorIn(base64)) ?? 'none of its own';
  return {
    title: `${after === null ? 'Take away' : 'Set'} on ${machine}: ${lowered(what)}`,
    target: machine,
    before: words(before),
    after: words(after),
    undo: 'Put the file that takes it back in force on the machine.',
  };
}
const lowered = (what: string): string => what.charAt(0).toLowerCase() + what.slice(1);

/** Keys of files for the registry: one that puts all of these changes in force, one that takes them back. */
export const keysOfDcomChanges = (changes: readonly DcomChange[]): KeysOfChanges =>
  keysOfChanges(
    changes.map(({ path, name, before, after }) => ({
      path,
      name,
      before: descriptorIn(before),
      after: descriptorIn(after),
    })),
  );

/**
 * The permission that an export has in a place; null: it has none there.
 * @returns undefined: it does not hold that part of the registry, or what stands there can’t be read
 */
export function permissionAt(
  settings: DcomSettings,
  { path, name }: Pick<DcomChange, 'path' | 'name'>,
): string | null | undefined {
  const kept = keptAt(settings, path, name);
  if (kept) return kept.descriptor ? writtenDescriptor(kept.descriptor) : undefined;
  const isHeld = path === ole ? holdsMachine(settings) : applicationAt(settings, path) !== undefined;
  return isHeld ? null : undefined;
}

/** Whether the machine’s own part is there: it says at least one of these on every machine. */
const holdsMachine = ({ isOn, ...settings }: DcomSettings): boolean =>
  isOn !== null ||
  [settings.defaultLaunch, settings.defaultAccess, settings.launchRestriction, settings.accessRestriction].some(
    (kept) => kept !== null,
  );

function applicationAt({ applications }: DcomSettings, path: string): DcomApplication | undefined {
  const appId = path.slice(appIds.length + 1).toLowerCase();
  return applications.find((one) => one.appId.toLowerCase() === appId);
}

function keptAt(settings: DcomSettings, path: string, name: string): KeptPermission | null {
  const application = applicationAt(settings, path);
  switch (name) {
    case 'LaunchPermission':
      return application?.launch ?? null;
    case 'AccessPermission':
      return application?.access ?? null;
    case 'DefaultLaunchPermission':
      return settings.defaultLaunch;
    case 'DefaultAccessPermission':
      return settings.defaultAccess;
    case 'MachineLaunchRestriction':
      return settings.launchRestriction;
    case 'MachineAccessRestriction':
      return settings.accessRestriction;
    default:
      return null;
  }
}
