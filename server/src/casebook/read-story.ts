import { open } from 'node:fs/promises';
import { heardRpc } from '@loyal-hinge/classic';
import { beginsAsCapture, StoryReading, tls, uaTcp } from '@loyal-hinge/core/casebook';
import type { Story } from '@loyal-hinge/core/casebook';

const partBytes = 1 << 20;
/** The header of a file in the older form: its records can be read from any of them on (pcap). */
const headBytes = 24;
const sectionBegins = 0x0a0d0d0a;
/** A conversation that goes on for longer in the file is told up to there. */
const mostRead = 1 << 30;

/**
 * Reads one conversation of a capture closely.
 * @param position where its first packet begins, in bytes
 * @param bytesOf the message whose bytes are wanted; null: of none
 * @returns null: the file is no capture, or no conversation begins there
 */
export async function readStory(path: string, position: number, bytesOf: number | null): Promise<Story | null> {
  const file = await open(path, 'r');
  try {
    const head = Buffer.alloc(headBytes);
    const { bytesRead } = await file.read(head, 0, headBytes, 0);
    if (bytesRead < headBytes || !beginsAsCapture(head)) return null;
    const mayBegin = head.readUInt32BE(0) !== sectionBegins && position >= headBytes;
    const reading = new StoryReading([uaTcp, heardRpc, tls], mayBegin ? headBytes : position, bytesOf);
    if (mayBegin) reading.take(head);
    const from = mayBegin ? position : 0;
    const part = Buffer.alloc(partBytes);
    for (let at = from; at < Math.max(from, position) + mostRead && !reading.isOver;) {
      const { bytesRead: count } = await file.read(part, 0, partBytes, at);
      if (count === 0) break;
      reading.take(part.subarray(0, count));
      at += count;
    }
    return reading.end();
  } finally {
    await file.close();
  }
}
