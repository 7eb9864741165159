/** Resolves as soon as a signal is aborted. */
export const whenAborted = (signal: AbortSignal): Promise<void> =>
  new Promise((resolve) =>
    signal.aborted ? resolve() : signal.addEventListener('abort', () => resolve(), { once: true }),
  );
