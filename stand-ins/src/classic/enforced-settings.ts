import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import {
  Registry,
  authenticationLevels,
  checkComRight,
  dcomSettings,
  readRegistryExport,
  textOf,
} from '@loyal-hinge/core';
import type { AccessToken, ComRight, DcomApplication, DcomSettings } from '@loyal-hinge/core';
import { levels } from '@loyal-hinge/classic';
import type { Level } from '@loyal-hinge/classic';

/** What a machine’s settings let somebody do: it keeps to them as COM does. */
export class EnforcedSettings {
  constructor(readonly settings: DcomSettings) {}

  /** What several exports say, all taken together. */
  static of(exports: readonly string[]): EnforcedSettings {
    const registry = new Registry();
    for (const text of exports) readRegistryExport(text, registry);
    return new EnforcedSettings(dcomSettings(registry));
  }

  get isOn(): boolean {
    return this.settings.isOn !== false;
  }

  applicationOf(appId: string): DcomApplication | null {
    return this.settings.applications.find((one) => one.appId.toLowerCase() === `{${appId}}`) ?? null;
  }

  /** The class that goes by a name, with its application. */
  classOf(
    clsid: string,
  ): { readonly appId: string | null; readonly progIds: readonly string[]; readonly name: string } | null {
    return this.settings.classes.find((one) => one.clsid.toLowerCase() === `{${clsid}}`) ?? null;
  }

  /** The account that an application runs as; null: it says none. */
  runAsOf(appId: string): string | null {
    return this.applicationOf(appId.replace(/[{}]/g, '').toLowerCase())?.runAs ?? null;
  }

  /** Where the export says nothing of a permission, nobody has it. */
  allows(appId: string | null, token: AccessToken, right: ComRight): boolean {
    const application = appId === null ? null : this.applicationOf(appId.replace(/[{}]/g, '').toLowerCase());
    const { settings } = this;
    const isAccess = right === 'access near' || right === 'access far';
    const limits = isAccess
      ? {
          own: application?.access?.descriptor ?? null,
          byDefault: settings.defaultAccess?.descriptor ?? null,
          restriction: settings.accessRestriction?.descriptor ?? null,
          policy: settings.accessPolicy?.descriptor ?? null,
        }
      : {
          own: application?.launch?.descriptor ?? null,
          byDefault: settings.defaultLaunch?.descriptor ?? null,
          restriction: settings.launchRestriction?.descriptor ?? null,
          policy: settings.launchPolicy?.descriptor ?? null,
        };
    const { isAllowed, entry } = checkComRight(limits, token, right);
    return isAllowed ?? entry !== null;
  }

  /** The least level at which objects of an application may be called. */
  leastLevel(appId: string | null): number {
    const application = appId === null ? null : this.applicationOf(appId.replace(/[{}]/g, '').toLowerCase());
    const level = application?.authenticationLevel ?? this.settings.authenticationLevel ?? 'connect';
    return Math.max(levels.none, authenticationLevels.indexOf(level));
  }

  /** Whether somebody may activate at a level at all: hardened machines want packet integrity. */
  takesActivationAt(level: Level): boolean {
    return !this.settings.refusesLowActivation || levels[level] >= levels.integrity;
  }
}

/** The settings of a folder of exports, all taken together in the order of their names: read again when one has changed. */
export class FolderOfSettings {
  private stamp = '';
  private read = EnforcedSettings.of([]);

  constructor(private readonly folder: string) {}

  now(): EnforcedSettings {
    const files = readdirSync(this.folder)
      .filter((name) => name.toLowerCase().endsWith('.reg'))
      .sort();
    const stamp = files.map((name) => `${name} ${statSync(join(this.folder, name)).mtimeMs}`).join('\n');
    if (stamp !== this.stamp) {
      this.read = EnforcedSettings.of(files.map((name) => textOf(readFileSync(join(this.folder, name)))));
      this.stamp = stamp;
    }
    return this.read;
  }
}
