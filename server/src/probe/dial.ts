import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { decodeHelloAnswer, encodeHello } from '@loyal-hinge/core';
import type { ConnectOutcome, HelloAnswer } from '@loyal-hinge/core';
import { whenSilent } from '@loyal-hinge/field';

/** `not bound`: this computer does not have the near address; `cancelled`: somebody ended it. Neither says anything about the far side. */
export type DialOutcome = ConnectOutcome | 'not bound' | 'cancelled';

export interface DialResult {
  readonly outcome: DialOutcome;
  readonly ms: number;
  /** Open; the caller closes it. */
  readonly socket: Socket | null;
}

/** Connects by TCP, from the client machine's own address where it can be had here. Never throws. */
export function dialTcp(
  address: string,
  port: number,
  from: string | null,
  timeoutMs: number,
  signal: AbortSignal,
): Promise<DialResult> {
  return new Promise((resolve) => {
    const begun = performance.now();
    const socket = connect({ host: address, port, ...(from ? { localAddress: from } : {}) });
    const end = (outcome: DialOutcome): void => {
      callOff();
      signal.removeEventListener('abort', cancel);
      socket.removeAllListeners();
      socket.on('error', () => undefined);
      if (outcome !== 'open') socket.destroy();
      resolve({ outcome, ms: elapsed(begun), socket: outcome === 'open' ? socket : null });
    };
    const cancel = (): void => end('cancelled');
    const callOff = whenSilent(timeoutMs, () => end('silent'));
    if (signal.aborted) return cancel();
    signal.addEventListener('abort', cancel, { once: true });
    socket.once('connect', () => end('open'));
    socket.once('error', (error: NodeJS.ErrnoException) =>
      end(error.syscall === 'bind' ? 'not bound' : (outcomes[error.code ?? ''] ?? 'unreachable')),
    );
  });
}

const outcomes: Readonly<Record<string, ConnectOutcome>> = {
  ECONNREFUSED: 'refused',
  ECONNRESET: 'reset',
  ETIMEDOUT: 'silent',
  EHOSTUNREACH: 'unreachable',
  ENETUNREACH: 'unreachable',
};

export type HelloResult = { readonly ms: number } & (
  | { readonly outcome: 'answered'; readonly answer: Exclude<HelloAnswer, { kind: 'incomplete' }> }
  | { readonly outcome: 'silent' }
  | { readonly outcome: 'closed' }
  /** Somebody ended it: that says nothing about the far side. */
  | { readonly outcome: 'cancelled' }
);

const ourLimits = {
  protocolVersion: 0,
  receiveBufferSize: 65_536,
  sendBufferSize: 65_536,
  maxMessageSize: 0,
  maxChunkCount: 0,
};
const mostBytes = 65_536;

/** Sends a Hello over an open connection and reads the answer; closes the connection. Never throws. */
export function sayHello(
  socket: Socket,
  endpointUrl: string,
  timeoutMs: number,
  signal: AbortSignal,
): Promise<HelloResult> {
  return new Promise((resolve) => {
    const begun = performance.now();
    let received = Buffer.alloc(0);
    const end = (
      result: { outcome: 'silent' | 'closed' | 'cancelled' } | { outcome: 'answered'; answer: HelloAnswer },
    ): void => {
      callOff();
      signal.removeEventListener('abort', cancel);
      socket.removeAllListeners();
      socket.on('error', () => undefined);
      socket.destroy();
      const ms = elapsed(begun);
      if (result.outcome === 'answered' && result.answer.kind === 'incomplete') resolve({ outcome: 'closed', ms });
      else resolve({ ...result, ms } as HelloResult);
    };
    const cancel = (): void => end({ outcome: 'cancelled' });
    const callOff = whenSilent(timeoutMs, () => end({ outcome: 'silent' }));
    if (signal.aborted) return cancel();
    signal.addEventListener('abort', cancel, { once: true });
    socket.on('data', (chunk: Buffer) => {
      received = Buffer.concat([received, chunk]);
      const answer = decodeHelloAnswer(received);
      if (answer.kind !== 'incomplete' || received.length > mostBytes) end({ outcome: 'answered', answer });
    });
    socket.once('close', () => end({ outcome: 'answered', answer: decodeHelloAnswer(received) }));
    socket.once('error', () => end({ outcome: 'closed' }));
    socket.write(encodeHello(endpointUrl, ourLimits));
  });
}

const elapsed = (begun: number): number => Math.round((performance.now() - begun) * 10) / 10;
