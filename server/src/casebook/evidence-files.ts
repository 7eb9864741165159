import { chmod, copyFile, mkdir, open, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { conflict } from '../http/problems.js';

/** The files that were brought, one for each, beside the database. */
export class EvidenceFiles {
  constructor(private readonly folder: string) {}

  pathOf(evidenceId: string): string {
    return join(this.folder, evidenceId);
  }

  /** Writes a part at its place; written twice, it is the same. */
  async write(evidenceId: string, content: Uint8Array, from: number): Promise<void> {
    try {
      await mkdir(this.folder, { recursive: true, mode: 0o700 });
      const file = await open(this.pathOf(evidenceId), from === 0 ? 'w' : 'r+', 0o600);
      try {
        await file.write(content, 0, content.length, from);
      } finally {
        await file.close();
      }
    } catch (error) {
      const code = typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : '';
      if (code === 'ENOSPC')
        throw conflict('The disk is full: this part was not kept.', 'Free some space; the file goes on from here.');
      if (code === 'ENOENT')
        throw conflict('What came before of this file is no longer there.', 'Remove it here, and bring it again.');
      throw error;
    }
  }

  /** So many bytes from a place on; fewer where the file ends before. null: it is not there. */
  async read(evidenceId: string, from: number, bytes: number): Promise<Uint8Array | null> {
    const file = await open(this.pathOf(evidenceId), 'r').catch(() => null);
    if (!file) return null;
    try {
      const { buffer, bytesRead } = await file.read(new Uint8Array(bytes), 0, bytes, from);
      return buffer.subarray(0, bytesRead);
    } finally {
      await file.close();
    }
  }

  /** Takes a file in as it lies somewhere. @returns its bytes */
  async takeIn(evidenceId: string, path: string): Promise<number> {
    await mkdir(this.folder, { recursive: true, mode: 0o700 });
    await copyFile(path, this.pathOf(evidenceId));
    await chmod(this.pathOf(evidenceId), 0o600);
    return (await stat(this.pathOf(evidenceId))).size;
  }

  async has(evidenceId: string): Promise<boolean> {
    return (await stat(this.pathOf(evidenceId)).catch(() => null)) !== null;
  }

  async remove(evidenceId: string): Promise<void> {
    await rm(this.pathOf(evidenceId), { force: true });
  }
}
