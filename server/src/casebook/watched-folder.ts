import { lstat, mkdir, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { RegularLook } from '../processes/regular-look.js';
import type { EvidenceKeeping } from './evidence-keeping.js';

const lookEveryMs = 5_000;
/** By whom files are brought that somebody put into the folder. */
export const byFolder = 'the watched folder';
/** What could not be taken in is put aside here, for a person. */
const asideFolder = 'not-taken';

/**
 * Takes in captures and logs that are put into a folder, such as by another program every night. A file is taken in once it
 * has not grown between two looks, and is gone from the folder then.
 */
export class WatchedFolder {
  private readonly seen = new Map<string, string>();
  private looks: RegularLook | null = null;

  constructor(
    private readonly folder: string,
    private readonly keeping: Pick<EvidenceKeeping, 'takeIn'>,
    private readonly logger: Logger,
  ) {}

  async start(): Promise<void> {
    await mkdir(this.folder, { recursive: true, mode: 0o700 }).catch((error: unknown) => this.warn(error));
    this.looks = new RegularLook(
      lookEveryMs,
      () => this.look(),
      (reason) => this.warn(reason),
    );
  }

  async stop(): Promise<void> {
    await this.looks?.stop();
  }

  private async look(): Promise<void> {
    const names = (await readdir(this.folder)).filter((name) => !name.startsWith('.') && name !== asideFolder);
    for (const name of this.seen.keys()) if (!names.includes(name)) this.seen.delete(name);
    for (const name of names.sort()) {
      const path = join(this.folder, name);
      const there = await lstat(path).catch(() => null);
      if (!there?.isFile()) continue;
      const mark = `${there.size} ${there.mtimeMs}`;
      if (this.seen.get(name) === mark) await this.take(path, name);
      else this.seen.set(name, mark);
    }
  }

  private async take(path: string, name: string): Promise<void> {
    this.seen.delete(name);
    try {
      await this.keeping.takeIn(path, name.slice(0, 200), byFolder);
      await rm(path);
    } catch (error) {
      this.warn(error, name);
      await mkdir(join(this.folder, asideFolder), { recursive: true, mode: 0o700 });
      await rename(path, join(this.folder, asideFolder, name));
    }
  }

  private warn(error: unknown, name?: string): void {
    const reason = error instanceof Error ? error.message : String(error);
    this.logger.warn({ reason, ...(name === undefined ? {} : { name }) }, 'the watched folder could not be looked at');
  }
}
