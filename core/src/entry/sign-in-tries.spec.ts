import { mostRefusals, mostWithSamePassword, pausedUntil } from './sign-in-tries.js';
import type { SignInTries } from './sign-in-tries.js';

const at = '2026-03-01T02:10:00.000Z';
const tries = (refusals: number, withSamePassword: number): SignInTries => ({
  refusals,
  withSamePassword,
  refusedAt: at,
  code: 'BadUserAccessDenied',
});

describe('a password that was refused', () => {
  it('is sent once more, and then not for half an hour', () => {
    expect(pausedUntil(tries(mostWithSamePassword - 1, mostWithSamePassword - 1), at)).toBeNull();
    const paused = tries(mostWithSamePassword, mostWithSamePassword);
    expect(pausedUntil(paused, at)).toBe('2026-03-01T02:40:00.000Z');
    expect(pausedUntil(paused, '2026-03-01T02:39:59.000Z')).not.toBeNull();
    expect(pausedUntil(paused, '2026-03-01T02:40:00.000Z')).toBeNull();
  });

  it('stops the account whichever passwords were tried', () => {
    expect(pausedUntil(tries(mostRefusals - 1, 0), at)).toBeNull();
    expect(pausedUntil(tries(mostRefusals, 0), at)).toBe('2026-03-01T02:40:00.000Z');
  });

  it('says nothing of an account that was never refused', () => {
    expect(pausedUntil({ ...tries(0, 0), refusedAt: null }, at)).toBeNull();
  });
});
