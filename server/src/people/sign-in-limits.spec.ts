import { wrongSignIn } from '../http/problems.js';
import { SignInLimits } from './sign-in-limits.js';

let time = 0;
let limits: SignInLimits;
beforeEach(() => {
  time = 0;
  limits = new SignInLimits(() => time);
});

const attempt = (name: string, address: string, isRight: boolean) =>
  limits
    .attempt(name, address, () => (isRight ? Promise.resolve('in') : Promise.reject(wrongSignIn())))
    .catch((error: { problem: { status: number; remedy: string } }) => error.problem.status);
const wrong = (times: number, name: (index: number) => string, address: (index: number) => string = () => 'here') =>
  Promise.all(Array.from({ length: times }, (_, index) => attempt(name(index), address(index), false)));

describe('limits of signing in', () => {
  it('close a name for an address after five wrong passwords, also where all are sent at once, and say for how long', async () => {
    expect(await wrong(7, () => 'engineer')).toEqual([401, 401, 401, 401, 401, 429, 429]);
    expect(await attempt('engineer', 'here', true)).toBe(429);
    time = 9 * 60_000;
    await expect(limits.attempt('engineer', 'here', () => Promise.resolve('in'))).rejects.toMatchObject({
      problem: { code: 'too-many-attempts', remedy: 'Try again in 60 seconds.' },
    });
    time = 10 * 60_000;
    expect(await attempt('engineer', 'here', true)).toBe('in');
  });

  it('lock nobody else out behind the same address, nor the same name elsewhere', async () => {
    await wrong(5, () => 'engineer');
    expect(await attempt('viewer', 'here', true)).toBe('in');
    expect(await attempt('engineer', 'elsewhere', true)).toBe('in');
  });

  it('slow down who tries many names from one address, or one name from many, and let the right password in', async () => {
    await wrong(40, (index) => `guess ${index}`);
    expect(await attempt('guess 1', 'here', true)).toBe(429);
    expect(await attempt('approver', 'here', true)).toBe('in');
    await wrong(
      30,
      () => 'viewer',
      (index) => `place ${index}`,
    );
    expect(await attempt('viewer', 'place 1', true)).toBe(429);
    expect(await attempt('viewer', 'home', true)).toBe('in');
  });

  it('count nothing against those who are right, however many at once', async () => {
    const all = await Promise.all(Array.from({ length: 20 }, () => attempt('engineer', 'here', true)));
    expect(new Set(all)).toEqual(new Set(['in']));
  });
});
