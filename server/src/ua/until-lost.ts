import { whenAborted } from '../processes/when-aborted.js';

/** Nothing may come for long over a session: its server’s clock is read so often. */
export const usualPingMs = 10_000;

/** Resolves when a session is gone, no longer answers, or is not wanted any more. */
export async function untilLost(
  session: { readonly ended: Promise<void>; serverTime(): Promise<string | null> },
  signal: AbortSignal,
  pingMs = usualPingMs,
): Promise<void> {
  let ping: NodeJS.Timeout | undefined;
  const silent = new Promise<void>((resolve) => {
    ping = setInterval(() => void session.serverTime().catch(() => resolve()), pingMs);
  });
  await Promise.race([session.ended, silent, whenAborted(signal)]);
  clearInterval(ping);
}
