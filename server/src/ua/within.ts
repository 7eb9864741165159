/** Runs a call for at most `ms` milliseconds, or until it is cancelled; the call itself is not stopped by this. */
export async function within<Result>(ms: number, signal: AbortSignal, call: Promise<Result>): Promise<Result> {
  let timer: NodeJS.Timeout | undefined;
  let cancel: (() => void) | undefined;
  const limit = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error(`timed out after ${ms} ms`)), ms);
    cancel = () => reject(signal.reason instanceof Error ? signal.reason : new Error('cancelled'));
    if (signal.aborted) cancel();
    else signal.addEventListener('abort', cancel, { once: true });
  });
  try {
    return await Promise.race([call, limit]);
  } finally {
    clearTimeout(timer);
    if (cancel) signal.removeEventListener('abort', cancel);
  }
}
