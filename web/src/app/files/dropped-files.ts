import { Injectable, signal } from '@angular/core';
import { base64Of } from './base64';

export interface DroppedFile {
  readonly name: string;
  readonly base64: string;
  /** When the file was last changed, as the computer that it comes from says. */
  readonly changedAt: string;
}

const mostBytes = 20_000_000;
/** Whether a file of this name is most likely a capture or a log. */
export const isRecorded = (name: string): boolean => /\.(pcap|pcapng|cap|evtx|log|jsonl)$/i.test(name);

/** Files that somebody let fall onto the window, until a page takes them. */
@Injectable({ providedIn: 'root' })
export class DroppedFiles {
  readonly files = signal<readonly DroppedFile[]>([]);
  /** Captures and logs: they may be large, and are read only when they are sent. */
  readonly recorded = signal<readonly File[]>([]);
  /** Why some of them were not taken. */
  readonly refused = signal<string | null>(null);
  /** A request (PKCS#10, PEM) that is on its way to an authority. */
  readonly request = signal<{ readonly pem: string; readonly applicationId: string | null } | null>(null);
  /** A certificate with its key (PKCS#12) that is on its way to a client; it stays in this window until it is given. */
  readonly identity = signal<Pick<DroppedFile, 'name' | 'base64'> | null>(null);

  async take(list: Iterable<File>): Promise<void> {
    const all = [...list];
    const small = all.filter(({ size }) => size <= mostBytes);
    this.refused.set(
      small.length === all.length
        ? null
        : `Larger than ${mostBytes / 1_000_000} MB, and not taken: ${all
            .filter(({ size }) => size > mostBytes)
            .map(({ name }) => name)
            .join(', ')}.`,
    );
    this.files.set(
      await Promise.all(
        small.map(async (file) => ({
          name: file.name,
          base64: await base64Of(file),
          changedAt: new Date(file.lastModified).toISOString(),
        })),
      ),
    );
  }
}
