import { Unzip, UnzipInflate, UnzipPassThrough } from 'fflate';

export interface ZippedFile {
  readonly path: string;
  readonly bytes: Uint8Array;
}

export interface ZipLimits {
  readonly mostFiles: number;
  readonly mostBytes: number;
  readonly mostBytesPerFile: number;
}

/** A PKI folder is small; what is larger is something else, or meant to fill the memory. */
export const usualZipLimits: ZipLimits = { mostFiles: 5000, mostBytes: 20_000_000, mostBytesPerFile: 2_000_000 };

export type UnzipResult =
  | {
      readonly ok: true;
      readonly files: readonly ZippedFile[];
      /** Folders that stand in the zip by themselves, each ending with a slash. */
      readonly folders: readonly string[];
    }
  | { readonly ok: false; readonly says: string };

class Refused extends Error {}

/**
 * Unpacks a zip in memory, counting while it inflates, so that sizes that the zip claims are not believed.
 * A path that leads out of the zip, too many files and too many bytes refuse the whole of it; nothing is thrown.
 */
export function unzip(zip: Uint8Array, limits: ZipLimits = usualZipLimits): UnzipResult {
  if (zip[0] !== 0x50 || zip[1] !== 0x4b) return { ok: false, says: 'This is not a zip file.' };
  const files: ZippedFile[] = [];
  const folders: string[] = [];
  const open = new Set<string>();
  let total = 0;
  const unpacker = new Unzip((entry) => {
    if (leadsOut(entry.name))
      throw new Refused(`The path “${entry.name}” leads out of the zip. Nothing of it was used.`);
    if (files.length + open.size >= limits.mostFiles)
      throw new Refused(`It holds more than ${limits.mostFiles} files. Nothing of it was used.`);
    if (entry.name.endsWith('/')) {
      folders.push(entry.name);
      return;
    }
    const chunks: Uint8Array[] = [];
    let size = 0;
    open.add(entry.name);
    entry.ondata = (error, chunk, final) => {
      if (error) throw error;
      size += chunk.length;
      total += chunk.length;
      if (size > limits.mostBytesPerFile || total > limits.mostBytes)
        throw new Refused(
          `“${entry.name}” unpacks to more than belongs into a PKI folder. Nothing of the zip was used.`,
        );
      chunks.push(chunk);
      if (!final) return;
      open.delete(entry.name);
      files.push({ path: entry.name, bytes: joined(chunks, size) });
    };
    entry.start();
  });
  unpacker.register(UnzipInflate);
  unpacker.register(UnzipPassThrough);
  try {
    // In small steps, so that the count is looked at before much is inflated.
    for (let from = 0; from < zip.length; from += stepBytes)
      unpacker.push(zip.subarray(from, from + stepBytes), from + stepBytes >= zip.length);
  } catch (error) {
    return {
      ok: false,
      says: error instanceof Refused ? error.message : 'The zip is damaged or cut off. Nothing of it was used.',
    };
  }
  // Whoever cuts a zip off between two files takes the directory at its end away.
  return open.size > 0 || entriesOf(zip) !== files.length + folders.length
    ? { ok: false, says: 'The zip is damaged or cut off. Nothing of it was used.' }
    : { ok: true, files, folders };
}

const endOfDirectory = [0x50, 0x4b, 0x05, 0x06];
/** The record at the end of a zip takes 22 bytes, and a comment of at most 65,535 may follow. */
const endBytes = 22;
const mostCommentBytes = 65_535;

/** How many files and folders the directory of a zip tells of (the record at its end); null where there is none. */
function entriesOf(zip: Uint8Array): number | null {
  const last = zip.length - endBytes;
  for (let at = last; at >= Math.max(0, last - mostCommentBytes); at--)
    if (endOfDirectory.every((byte, index) => zip[at + index] === byte))
      return (zip[at + 10] ?? 0) + 256 * (zip[at + 11] ?? 0);
  return null;
}

const stepBytes = 4096;

const leadsOut = (path: string): boolean =>
  path.startsWith('/') || path.includes('\\') || /^[a-z]:/i.test(path) || path.split('/').includes('..');

function joined(chunks: readonly Uint8Array[], size: number): Uint8Array {
  const all = new Uint8Array(size);
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}
