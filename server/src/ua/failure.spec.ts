import { failureOf } from './failure.js';
import { within } from './within.js';

const never = new AbortController().signal;

describe('a failure', () => {
  it.each([
    ['ServiceFault: serviceResult = BadUserAccessDenied (0x801f0000)', 'BadUserAccessDenied', false],
    ['something 0x80130000 happened', 'BadSecurityChecksFailed', false],
    ['Transaction has timed out ( timeout = 8000 ms)', 'BadTimeout', false],
    ['socket has been disconnected by third party', 'BadConnectionClosed', true],
    ['read ECONNRESET', 'BadConnectionClosed', true],
    ['nobody knows', 'BadUnexpectedError', false],
  ])('%j becomes a code', (text, code, closed) => {
    expect(failureOf(new Error(text))).toMatchObject({ code, closed });
  });

  it('is made of anything that is thrown, and never long', () => {
    expect(failureOf('x'.repeat(5000)).reason.length).toBeLessThanOrEqual(200);
    expect(failureOf(null).code).toBe('BadUnexpectedError');
  });
});

describe('within', () => {
  it('gives the result that comes in time', async () => {
    await expect(within(500, never, Promise.resolve(7))).resolves.toBe(7);
  });

  it('gives up when the time is over, or when it is cancelled', async () => {
    const waiting = new Promise<never>(() => undefined);
    await expect(within(20, never, waiting)).rejects.toThrow('timed out after 20 ms');
    const controller = new AbortController();
    setTimeout(() => controller.abort(new Error('it was cancelled.')), 10);
    await expect(within(5000, controller.signal, waiting)).rejects.toThrow('it was cancelled.');
    await expect(within(5000, controller.signal, waiting)).rejects.toThrow('it was cancelled.');
  });
});
