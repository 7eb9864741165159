/** Where checks wait that any process may carry out. */
export const checksQueue = 'checks';
/** Checks that a probe walks which is connected to another process than the one that took them. */
export const probesQueue = 'checks-of-probes';
/** Where a check that waits has its job. */
export const checkQueues = [checksQueue, probesQueue] as const;
