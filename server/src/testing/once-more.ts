/**
 * These tests dial real servers with real time-outs: where the machine stands still for a while, a dial fails that would
 * not fail otherwise. Each gets one more try, and the failure of the first is shown.
 */
jest.retryTimes(1, { logErrorsBeforeRetry: true });
