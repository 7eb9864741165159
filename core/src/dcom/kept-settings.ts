import { decodeBase64, encodeBase64 } from '../trust/pem.js';
import { descriptorBytes, readDescriptorBytes } from './descriptor-binary.js';
import type { DcomApplication, DcomSettings, KeptPermission } from './settings.js';

/** A permission as it is written down: the bytes of its descriptor, or why it could not be read. */
type WrittenPermission = { readonly base64: string } | { readonly fault: string } | null;
type Written<Of> = {
  readonly [Name in keyof Of]: Of[Name] extends KeptPermission | null ? WrittenPermission : Of[Name];
};

/** Settings that can be written down as JSON. */
export type WrittenSettings = Omit<Written<DcomSettings>, 'applications' | Later> & {
  readonly applications: readonly Written<DcomApplication>[];
} & Partial<Pick<DcomSettings, Later>>;
/** What was not read from exports at first: settings that were kept before do not have it. */
type Later = 'services' | 'impersonationLevel';

function written(kept: KeptPermission | null): WrittenPermission {
  if (kept === null) return null;
  return kept.descriptor ? { base64: encodeBase64(descriptorBytes(kept.descriptor)) } : { fault: kept.fault ?? '' };
}
function read(kept: WrittenPermission): KeptPermission | null {
  if (kept === null) return null;
  if ('fault' in kept) return { descriptor: null, fault: kept.fault };
  const bytes = decodeBase64(kept.base64);
  const found = bytes && readDescriptorBytes(bytes);
  return found?.ok ? { descriptor: found.value, fault: null } : { descriptor: null, fault: 'It is broken.' };
}

export const writtenSettings = (settings: DcomSettings): WrittenSettings => ({
  ...settings,
  defaultLaunch: written(settings.defaultLaunch),
  defaultAccess: written(settings.defaultAccess),
  launchRestriction: written(settings.launchRestriction),
  accessRestriction: written(settings.accessRestriction),
  launchPolicy: written(settings.launchPolicy),
  accessPolicy: written(settings.accessPolicy),
  applications: settings.applications.map((one) => ({
    ...one,
    launch: written(one.launch),
    access: written(one.access),
  })),
});

export const readSettings = (settings: WrittenSettings): DcomSettings => ({
  ...settings,
  services: settings.services ?? [],
  impersonationLevel: settings.impersonationLevel ?? null,
  defaultLaunch: read(settings.defaultLaunch),
  defaultAccess: read(settings.defaultAccess),
  launchRestriction: read(settings.launchRestriction),
  accessRestriction: read(settings.accessRestriction),
  launchPolicy: read(settings.launchPolicy),
  accessPolicy: read(settings.accessPolicy),
  applications: settings.applications.map((one) => ({ ...one, launch: read(one.launch), access: read(one.access) })),
});
