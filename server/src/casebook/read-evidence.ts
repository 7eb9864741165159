import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { heardRpc } from '@loyal-hinge/classic';
import {
  attemptOfConversation,
  attemptOfEvent,
  attemptOfLine,
  beginsAsCapture,
  CaptureReading,
  happeningOfEvent,
  LogReading,
  tls,
  uaTcp,
  zoneOf,
} from '@loyal-hinge/core/casebook';
import type { Attempt, Happening } from '@loyal-hinge/core/casebook';
import type { EvidenceRow } from '@loyal-hinge/contract';
import type { RuleInUse } from './reading-rules.js';
import type { Told as ToldOf } from './store.js';

const partBytes = 1 << 20;
const keptAtOnce = 5000;

/** What a file came to. */
export interface ReadEvidence {
  readonly sha256: string;
  readonly form: NonNullable<EvidenceRow['form']>;
  /** How many there are, and from when to when. */
  readonly attempts: number;
  readonly firstAt: string | null;
  readonly lastAt: string | null;
  readonly items: number;
  readonly notUnderstood: number;
  readonly gaps: EvidenceRow['gaps'];
  readonly passedOver: EvidenceRow['passedOver'];
  readonly fault: string | null;
}

type Told = Omit<ReadEvidence, 'sha256' | 'attempts' | 'firstAt' | 'lastAt'>;
interface Reader {
  take(part: Uint8Array): void;
  end(): Told;
}

/**
 * Reads a file once, from its first byte to its last: what is in it, and its check sum.
 * @param rule reads lines of a form that is not known; null: there is none
 * @param note is told how many bytes were read, part by part
 * @param keep takes what it tells, some at a time: a file may tell of more than fit into memory
 */
export async function readEvidence(
  path: string,
  row: Pick<EvidenceRow, 'id' | 'clock' | 'broughtAt'>,
  rule: RuleInUse,
  keep: (told: ToldOf) => Promise<void>,
  note: (bytes: number) => void = () => undefined,
): Promise<ReadEvidence> {
  const hash = createHash('sha256');
  const found = new Found();
  let bytes = 0;
  let reader: Reader | null = null;
  /* What was found is written while more is read: the database and this worker both have something to do. */
  let writing: Promise<void> = Promise.resolve();
  const write = async (): Promise<void> => {
    await writing;
    writing = keep(found.takeAll());
    /* Why it failed is told where it is waited for. */
    writing.catch(() => undefined);
  };
  for await (const part of createReadStream(path, { highWaterMark: partBytes }) as AsyncIterable<Buffer>) {
    hash.update(part);
    bytes += part.length;
    note(bytes);
    reader ??= readerOf(part, row, rule, found);
    reader.take(part);
    if (found.waiting >= keptAtOnce) await write();
  }
  const told = (reader ?? readerOf(new Uint8Array(), row, rule, found)).end();
  await write();
  await writing;
  return { ...told, ...found.told, sha256: hash.digest('hex') };
}

/** What was found: what waits to be kept, and what is known of all. */
class Found {
  private attempts: Attempt[] = [];
  private happenings: Happening[] = [];
  private count = 0;
  private first = Number.POSITIVE_INFINITY;
  private last = Number.NEGATIVE_INFINITY;

  get waiting(): number {
    return this.attempts.length + this.happenings.length;
  }

  happened(happening: Happening): void {
    this.happenings.push(happening);
  }

  add(attempt: Attempt): void {
    this.attempts.push(attempt);
    this.count += 1;
    this.first = Math.min(this.first, attempt.start);
    this.last = Math.max(this.last, attempt.end);
  }

  takeAll(): ToldOf {
    const { attempts, happenings } = this;
    [this.attempts, this.happenings] = [[], []];
    return { attempts, happenings };
  }

  get told(): Pick<ReadEvidence, 'attempts' | 'firstAt' | 'lastAt'> {
    const iso = (at: number): string | null => (Number.isFinite(at) ? new Date(at).toISOString() : null);
    return { attempts: this.count, firstAt: iso(this.first), lastAt: iso(this.last) };
  }
}

function readerOf(
  head: Uint8Array,
  { id, clock, broughtAt }: Pick<EvidenceRow, 'id' | 'clock' | 'broughtAt'>,
  rule: RuleInUse,
  found: Found,
): Reader {
  const source = { fileId: id, clockAheadMs: clock.aheadSeconds * 1000 };
  if (beginsAsCapture(head)) {
    const reading = new CaptureReading([uaTcp, heardRpc, tls], (conversation) =>
      found.add(attemptOfConversation(conversation, source)),
    );
    return {
      take: (part) => reading.take(part),
      end: () => {
        const { packets, fault, passedOver } = reading.end();
        const gaps = fault ? [{ position: fault.position, says: fault.message }] : [];
        const says = fault ? `It was read up to byte ${fault.position}: ${fault.message}` : null;
        return {
          form: 'capture',
          items: packets,
          notUnderstood: gaps.length,
          gaps,
          passedOver: [...passedOver],
          fault: says,
        };
      },
    };
  }
  const zone = zoneOf(clock.zone) ?? 0;
  const reading = new LogReading({ zone, latest: Date.parse(broughtAt) }, rule?.reader ?? null, (event) => {
    const isOfRule = rule !== null && (event.kind === 'text' || event.kind === 'record');
    const attempt = isOfRule ? attemptOfLine(event, rule.meaning, source) : attemptOfEvent(event, source);
    if (attempt) found.add(attempt);
    const happening = happeningOfEvent(event, source);
    if (happening) found.happened(happening);
  });
  return {
    take: (part) => reading.take(part),
    end: () => {
      const { events, notUnderstood, gaps } = reading.end();
      const fault = events === 0 ? (gaps[0]?.says ?? 'There is nothing in it.') : null;
      return { form: 'log', items: events, notUnderstood, gaps: [...gaps], passedOver: [], fault };
    },
  };
}
