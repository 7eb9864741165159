/**
 * Whoever reads what this process says may go, and the disk to which it is written may be full: the process goes on without a log.
 */
export function outliveLog(): void {
  for (const out of [process.stdout, process.stderr])
    if (out.listenerCount('error') === 0) out.on('error', () => undefined);
}
