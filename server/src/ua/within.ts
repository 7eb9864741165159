import { whenSilent } from '@loyal-hinge/field';

/** Runs a call for at most `ms` milliseconds, or until it is cancelled; the call itself is not stopped by this. */
export async function within<Result>(ms: number, signal: AbortSignal, call: Promise<Result>): Promise<Result> {
  let callOff: (() => void) | undefined;
  let cancel: (() => void) | undefined;
  const limit = new Promise<never>((_, reject) => {
    callOff = whenSilent(ms, () => reject(new Error(`timed out after ${ms} ms`)));
    cancel = () => reject(signal.reason instanceof Error ? signal.reason : new Error('cancelled'));
    if (signal.aborted) cancel();
    else signal.addEventListener('abort', cancel, { once: true });
  });
  try {
    return await Promise.race([call, limit]);
  } finally {
    callOff?.();
    if (cancel) signal.removeEventListener('abort', cancel);
  }
}
