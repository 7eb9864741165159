import { createHash } from 'node:crypto';
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import {
  Registry,
  readCertificate,
  readCrl,
  readDescriptorBytes,
  readPem,
  readPkcs7,
  readRegistryExport,
  readRuleSet,
  readSddl,
  textOf,
} from '@loyal-hinge/core';
import { ComFailure, heardRpc, WireFault, wireReaders } from '@loyal-hinge/classic';
import type { ReadPart } from '@loyal-hinge/core';
import { CaptureReading, LogReading, tls, uaTcp } from '@loyal-hinge/core/casebook';
import { readPkiFolder } from '@loyal-hinge/core/bundles';
import { readSigningRequest } from '@loyal-hinge/core/issuing';
import { readPkcs12 } from '@loyal-hinge/core/pkcs12';

type Outcome = { readonly ok: true } | { readonly ok: false; readonly says: string };

/** Every reader of what people bring along, and of what peers of classic OPC send, by the name of its folder in the corpus. */
const readers: Readonly<Record<string, (bytes: Uint8Array) => Outcome | Promise<Outcome>>> = {
  certificate: readCertificate,
  crl: readCrl,
  pem: (bytes) => {
    const read = readPem(textOf(bytes));
    return read.ok ? { ok: true } : { ok: false, says: `line ${read.fault.line}: ${read.fault.says}` };
  },
  pkcs7: readPkcs7,
  pkcs12: (bytes) => readPkcs12(bytes, 'open it'),
  'pki-folder': readPkiFolder,
  request: readSigningRequest,
  descriptor: (bytes) => said(readDescriptorBytes(bytes), 'byte'),
  sddl: (bytes) => said(readSddl(textOf(bytes)), 'character'),
  registry: (bytes) => {
    const faults = readRegistryExport(textOf(bytes), new Registry());
    if (faults === null) return { ok: false, says: 'This is no export.' };
    const [first] = faults;
    return first ? { ok: false, says: `line ${first.line}: ${first.says}` } : { ok: true };
  },
  'rule-set': (bytes) => {
    const read = readRuleSet(textOf(bytes), 'auto');
    return read.ok ? { ok: true } : { ok: false, says: `line ${read.line}: ${read.says}` };
  },
  capture: (bytes) => {
    const reading = new CaptureReading([uaTcp, heardRpc, tls], () => undefined);
    reading.take(bytes);
    const { fault } = reading.end();
    return fault ? { ok: false, says: `byte ${fault.position}: ${fault.message}` } : { ok: true };
  },
  log: (bytes) => {
    const reading = new LogReading({ zone: 'Europe/Berlin', latest: 1_795_176_000_000 }, null, () => undefined);
    reading.take(bytes);
    const [gap] = reading.end().gaps;
    return gap ? { ok: false, says: `byte ${gap.position}: ${gap.says}` } : { ok: true };
  },
  ...Object.fromEntries(Object.entries(wireReaders).map(([name, read]) => [name, (bytes) => heard(read, bytes)])),
};

/** What comes over a line is read, or refused by a fault of its own; all else is a mistake of the reader. */
function heard(read: (octets: Uint8Array) => unknown, bytes: Uint8Array): Outcome {
  try {
    read(bytes);
    return { ok: true };
  } catch (error) {
    if (error instanceof WireFault)
      return { ok: false, says: error.at === null ? error.message : `octet ${error.at}: ${error.message}` };
    // An answer that says itself that the call has failed.
    if (error instanceof ComFailure) return { ok: false, says: error.message };
    throw error;
  }
}

const said = (read: ReadPart<unknown>, unit: string): Outcome =>
  read.ok ? { ok: true } : { ok: false, says: `${unit} ${read.fault.at}: ${read.fault.says}` };

const corpus = join(__dirname, '../corpus');
const secondsOfFuzz = Number(process.env['HINGE_FUZZ_SECONDS'] ?? 0);

interface Seed {
  readonly name: string;
  readonly says: string | null;
  readonly bytes: Uint8Array;
}

/** Lines that begin with # tell what a file is, and what is said of it; the rest is Base64. */
function seedsOf(reader: string): readonly Seed[] {
  return readdirSync(join(corpus, reader)).map((file) => {
    const lines = readFileSync(join(corpus, reader, file), 'utf8').split('\n');
    const body = lines.filter((line) => !line.startsWith('#')).join('');
    const says = lines.find((line) => line.startsWith('# says: '))?.slice('# says: '.length) ?? null;
    return { name: file.replace(/\.txt$/, ''), says, bytes: Uint8Array.from(Buffer.from(body, 'base64')) };
  });
}

type Bytes = Uint8Array;
const place = fc.double({ min: 0, max: 1, noNaN: true, maxExcluded: true });
const at = (bytes: Bytes, share: number): number => Math.floor(bytes.length * share);
const joined = (...parts: readonly Bytes[]): Bytes => Uint8Array.from(Buffer.concat(parts));

/** What breaks on the way: a byte, a piece too few or too many, or the end of another file. */
const breakage = (seeds: readonly Seed[]): fc.Arbitrary<(bytes: Bytes) => Bytes> =>
  fc.oneof(
    fc.tuple(place, fc.integer({ min: 1, max: 255 })).map(([share, change]) => (bytes: Bytes) => {
      const broken = Uint8Array.from(bytes);
      const index = at(bytes, share);
      if (bytes.length > 0) broken[index] = (broken[index] ?? 0) ^ change;
      return broken;
    }),
    fc.tuple(place, place).map(([from, to]) => (bytes: Bytes) => {
      const [start, end] = [at(bytes, Math.min(from, to)), at(bytes, Math.max(from, to))];
      return joined(bytes.subarray(0, start), bytes.subarray(end));
    }),
    fc.tuple(place, place).map(([from, to]) => (bytes: Bytes) => {
      const [start, end] = [at(bytes, Math.min(from, to)), at(bytes, Math.max(from, to))];
      return joined(bytes.subarray(0, end), bytes.subarray(start));
    }),
    fc.tuple(place, fc.uint8Array({ minLength: 1, maxLength: 12 })).map(([share, more]) => (bytes: Bytes) => {
      const index = at(bytes, share);
      return joined(bytes.subarray(0, index), more, bytes.subarray(index));
    }),
    fc.tuple(place, fc.constantFrom(...seeds), place).map(([share, other, from]) => (bytes: Bytes) => {
      return joined(bytes.subarray(0, at(bytes, share)), other.bytes.subarray(at(other.bytes, from)));
    }),
  );

/** Keeps what a reader stumbled over, so that it is tried from then on. */
function keepFound(reader: string, bytes: Bytes): void {
  const name = `found-${createHash('sha256').update(bytes).digest('hex').slice(0, 12)}.txt`;
  const body = Buffer.from(bytes)
    .toString('base64')
    .replace(/(.{100})/g, '$1\n')
    .trim();
  writeFileSync(join(corpus, reader, name), `# Found by breaking others: say here what it is.\n${body}\n`);
}

const isTold = (outcome: Outcome): boolean => outcome.ok || outcome.says.length > 10;

describe.each(Object.keys(readers))('the reader of %s', (reader) => {
  const seeds = seedsOf(reader);
  const readWith = async (bytes: Bytes): Promise<Outcome> =>
    (await readers[reader]?.(bytes)) ?? { ok: false, says: '' };

  it.each(seeds.map(({ name }) => name))('says what is the matter: %s', async (name) => {
    const seed = seeds.find((one) => one.name === name);
    const outcome = await readWith(seed?.bytes ?? new Uint8Array());
    expect(outcome.ok ? null : outcome.says).toBe(seed?.says);
    expect(outcome.ok).toBe(name.startsWith('reads'));
  });

  it(
    'never throws, whatever is broken about them, and always says something',
    async () => {
      await fc.assert(
        fc.asyncProperty(
          fc.constantFrom(...seeds),
          fc.array(breakage(seeds), { minLength: 1, maxLength: 4 }),
          async ({ bytes }, breakages) => {
            const broken = breakages.reduce((before, change) => change(before), bytes);
            try {
              expect(isTold(await readWith(broken))).toBe(true);
            } catch (error) {
              if (secondsOfFuzz > 0) keepFound(reader, broken);
              throw error;
            }
          },
        ),
        secondsOfFuzz > 0
          ? { numRuns: 100_000_000, interruptAfterTimeLimit: secondsOfFuzz * 1000, endOnFailure: true }
          : { numRuns: 300 },
      );
    },
    (secondsOfFuzz + 120) * 1000,
  );
});
