import express from 'express';
import type { Request, RequestHandler, Response } from 'express';
import { busy, tooSlow } from './problems.js';

const usualBytes = 1_000_000;
const largeBytes = 30_000_000;
/** So many large bodies are read at once, and so many wait for their turn. */
const largeAtOnce = 2;
const largeWaiting = 8;
const longestReadingMs = 120_000;

const json = express.json({ limit: usualBytes });
const text = express.text({ type: 'application/json', limit: largeBytes });

const read = (reader: RequestHandler, request: Request, response: Response): Promise<void> =>
  new Promise((resolve, reject) => {
    const gone = (): void => reject(Object.assign(new Error('the request was cut off'), { status: 400 }));
    if (request.destroyed && !request.complete) return gone();
    request.once('close', () => (request.complete ? undefined : gone()));
    void reader(request, response, (error?: unknown) => (error === undefined ? resolve() : reject(error as Error)));
  });

/** Reads a body of at most 1 MB: called once it is known that whoever sends it may. */
export const readJson = (request: Request, response: Response): Promise<void> => read(json, request, response);

let reading = 0;
const waiting: (() => void)[] = [];

/** Reads a large body as text, a few at a time: a worker takes it apart. */
export async function readLarge(request: Request, response: Response): Promise<string> {
  if (reading >= largeAtOnce) {
    if (waiting.length >= largeWaiting) throw busy();
    await new Promise<void>((resolve) => waiting.push(resolve));
  } else reading += 1;
  let timer: NodeJS.Timeout | undefined;
  try {
    const tooLong = new Promise<never>((_, reject) => {
      timer = setTimeout(() => reject(tooSlow()), longestReadingMs);
    });
    await Promise.race([read(text, request, response), tooLong]);
    return typeof request.body === 'string' ? request.body : '';
  } finally {
    clearTimeout(timer);
    // The turn goes on to the next, or is free again.
    const next = waiting.shift();
    if (next) next();
    else reading -= 1;
  }
}

/** Whether a request still sends a large body that nobody reads: its connection is not kept. */
export function isUnread({ complete, headers }: Request): boolean {
  const length = headers['transfer-encoding'] === undefined ? Number(headers['content-length'] ?? 0) : Infinity;
  return !complete && length > usualBytes;
}
