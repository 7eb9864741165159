import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { heardRpc } from '@loyal-hinge/classic';
import {
  attemptOfConversation,
  attemptOfEvent,
  beginsAsCapture,
  CaptureReading,
  LogReading,
  tls,
  uaTcp,
  zoneOf,
} from '@loyal-hinge/core/casebook';
import type { Attempt } from '@loyal-hinge/core/casebook';
import type { EvidenceRow } from '@loyal-hinge/contract';

const partBytes = 1 << 20;

/** What a file came to. */
export interface ReadEvidence {
  readonly sha256: string;
  readonly form: NonNullable<EvidenceRow['form']>;
  readonly attempts: readonly Attempt[];
  readonly items: number;
  readonly notUnderstood: number;
  readonly gaps: EvidenceRow['gaps'];
  readonly passedOver: EvidenceRow['passedOver'];
  readonly fault: string | null;
}

type Told = Omit<ReadEvidence, 'sha256' | 'attempts'>;
interface Reader {
  take(part: Uint8Array): void;
  end(): Told;
}

/** Reads a file once, from its first byte to its last: what is in it, and its check sum. */
export async function readEvidence(
  path: string,
  row: Pick<EvidenceRow, 'id' | 'clock' | 'broughtAt'>,
): Promise<ReadEvidence> {
  const hash = createHash('sha256');
  const attempts: Attempt[] = [];
  let reader: Reader | null = null;
  for await (const part of createReadStream(path, { highWaterMark: partBytes }) as AsyncIterable<Buffer>) {
    hash.update(part);
    reader ??= readerOf(part, row, (attempt) => attempts.push(attempt));
    reader.take(part);
  }
  const told = (reader ?? readerOf(new Uint8Array(), row, () => undefined)).end();
  return { ...told, sha256: hash.digest('hex'), attempts };
}

function readerOf(
  head: Uint8Array,
  { id, clock, broughtAt }: Pick<EvidenceRow, 'id' | 'clock' | 'broughtAt'>,
  tell: (attempt: Attempt) => void,
): Reader {
  const source = { fileId: id, clockAheadMs: clock.aheadSeconds * 1000 };
  if (beginsAsCapture(head)) {
    const reading = new CaptureReading([uaTcp, heardRpc, tls], (conversation) =>
      tell(attemptOfConversation(conversation, source)),
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
  const reading = new LogReading({ zone, latest: Date.parse(broughtAt) }, null, (event) => {
    const attempt = attemptOfEvent(event, source);
    if (attempt) tell(attempt);
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
