import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import type { Caller } from '../testing/calls.js';
import { signIn } from '../testing/calls.js';
import { oneTimeCode } from '../testing/one-time.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('accounts');
const changed = 'another long password';
let base: string;
let administrator: Caller;
beforeAll(async () => {
  await own.setUp();
  base = (await own.serve()).url;
  administrator = await signIn('administrator', base, ownPassword);
});
afterAll(() => own.remove());

const enter = (name: string, password: string, code?: string): Promise<Response> =>
  fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, password, ...(code === undefined ? {} : { code }) }),
  });
const codeOf = async (answer: Response): Promise<string> => ((await answer.json()) as { code: string }).code;

/** A person who has changed their first password. */
async function added(name: string, role: 'viewer' | 'engineer' | 'administrator' = 'engineer'): Promise<Caller> {
  await administrator.call('addPerson', {}, { name, role, password: ownPassword });
  const person = await signIn(name, base, ownPassword);
  await person.call('changePassword', {}, { current: ownPassword, next: changed });
  return person;
}

/** Resolves when a stream that is open to somebody ends. */
async function streamOf({ headers }: Caller): Promise<{ ended: Promise<void> }> {
  const answer = await fetch(`${base}/api/events`, { headers });
  expect(answer.status).toBe(200);
  const reader = answer.body?.getReader();
  await reader?.read();
  const toItsEnd = async (): Promise<void> => {
    while (!(await reader?.read())?.done);
  };
  return { ended: toItsEnd() };
}

describe('a person who was added', () => {
  it('can do nothing before the first password is changed, and everything of the role afterwards', async () => {
    await administrator.call('addPerson', {}, { name: 'Night shift', role: 'engineer', password: ownPassword });
    const person = await signIn('Night shift', base, ownPassword);
    expect(await person.call('whoAmI')).toMatchObject({ mustChangePassword: true });
    expect(await person.refused('links')).toMatchObject({ status: 403, code: 'password-first' });
    expect(await person.refused('changePassword', {}, { current: 'a wrong one', next: changed })).toMatchObject({
      code: 'wrong-password',
    });
    expect(await person.refused('changePassword', {}, { current: ownPassword, next: ownPassword })).toMatchObject({
      code: 'not-valid',
    });
    await person.call('changePassword', {}, { current: ownPassword, next: changed });
    await person.call('links');
    expect((await enter('Night shift', ownPassword)).status).toBe(401);
    expect((await enter('Night shift', changed)).status).toBe(200);
  });

  it('is not mistaken for another one', async () => {
    const wish = { name: 'ENGINEER', role: 'viewer', password: ownPassword } as const;
    expect(await administrator.refused('addPerson', {}, wish)).toMatchObject({ code: 'conflict' });
  });
});

describe('sessions', () => {
  it('are seen with their browsers, and end one by one with their streams', async () => {
    const person = await added('two places');
    const other = await signIn('two places', base, changed);
    const { sessions } = await person.call('ownAccount');
    expect(sessions.map(({ isOwn }) => isOwn).sort()).toEqual([false, true]);
    expect(sessions.every(({ browser, address }) => browser !== '' && address.includes('127.0.0.1'))).toBe(true);
    const stream = await streamOf(other);
    await person.call('endOwnSession', { id: sessions.find(({ isOwn }) => !isOwn)?.id ?? '' });
    await stream.ended;
    expect(await other.refused('whoAmI')).toMatchObject({ status: 401 });
    await person.call('whoAmI');
  });

  it('are ended by an administrator, and by nobody for somebody else', async () => {
    const person = await added('watched');
    const [session] = (await administrator.call('sessionsOf', { name: 'watched' })).sessions;
    const stranger = await added('stranger');
    expect(await stranger.refused('endOwnSession', { id: session?.id ?? '' })).toMatchObject({ code: 'not-found' });
    await administrator.call('endSession', { name: 'watched', id: session?.id ?? '' });
    expect(await person.refused('whoAmI')).toMatchObject({ status: 401 });
  });

  it('end with their streams when the password is changed, but for the one that changed it', async () => {
    const person = await added('careful');
    const other = await signIn('careful', base, changed);
    const stream = await streamOf(other);
    await person.call('changePassword', {}, { current: changed, next: 'yet another password' });
    await stream.ended;
    expect(await other.refused('whoAmI')).toMatchObject({ status: 401 });
    await person.call('whoAmI');
  });

  it('end when somebody is disabled, who stays outside with the right password', async () => {
    const person = await added('gone');
    const stream = await streamOf(person);
    await administrator.call('changePerson', { name: 'gone' }, { role: 'engineer', isDisabled: true });
    await stream.ended;
    expect(await person.refused('whoAmI')).toMatchObject({ status: 401 });
    expect(await codeOf(await enter('gone', changed))).toBe('sign-in-refused');
  });

  it('end when the password is given anew, which must be changed again', async () => {
    const person = await added('forgetful');
    await administrator.call('resetPerson', { name: 'forgetful' }, { password: ownPassword, endSecondFactor: false });
    expect(await person.refused('whoAmI')).toMatchObject({ status: 401 });
    expect(await (await signIn('forgetful', base, ownPassword)).call('whoAmI')).toMatchObject({
      mustChangePassword: true,
    });
  });
});

describe('the last administrator', () => {
  it('can be neither disabled nor given another role, even by two at once', async () => {
    const second = await added('deputy', 'administrator');
    const disabled = { role: 'administrator', isDisabled: true } as const;
    const outcomes = await Promise.allSettled([
      administrator.call('changePerson', { name: 'deputy' }, disabled),
      second.call('changePerson', { name: 'administrator' }, disabled),
    ]);
    expect(outcomes.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    // The slower one is refused in words, or is not signed in any more.
    for (const outcome of outcomes)
      if (outcome.status === 'rejected') expect(String(outcome.reason)).toMatch(/changePerson: (409|401)/);
    await own.read('update people set disabled_at = null');
    administrator = await signIn('administrator', base, ownPassword);
    await administrator.call('changePerson', { name: 'deputy' }, { role: 'viewer', isDisabled: false });
    expect(
      await administrator.refused('changePerson', { name: 'administrator' }, { role: 'viewer', isDisabled: false }),
    ).toMatchObject({ code: 'conflict' });
  });
});

describe('the second factor', () => {
  let person: Caller;
  let letters: string;
  let codes: readonly string[];
  beforeAll(async () => {
    person = await added('doubly sure');
    ({ letters } = await person.call('beginSecondFactor', {}, { current: changed }));
  });

  it('counts once a code of it was given back', async () => {
    expect((await enter('doubly sure', changed)).status).toBe(200);
    expect(await person.refused('confirmSecondFactor', {}, { code: '000000' })).toMatchObject({ code: 'conflict' });
    ({ recoveryCodes: codes } = await person.call('confirmSecondFactor', {}, { code: oneTimeCode(letters) }));
    expect(new Set(codes).size).toBe(10);
    expect(await codeOf(await enter('doubly sure', changed))).toBe('code-needed');
  });

  it('is asked for after the password alone was right, and takes no code twice', async () => {
    expect(await codeOf(await enter('doubly sure', 'a wrong one', oneTimeCode(letters)))).toBe('sign-in-refused');
    const next = oneTimeCode(letters, 1);
    const answers = await Promise.all([next, next].map((code) => enter('doubly sure', changed, code)));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 401]);
    expect(await codeOf(await enter('doubly sure', changed, oneTimeCode(letters)))).toBe('code-refused');
  });

  it('gives way to a recovery code once, however it is typed', async () => {
    const [code = ''] = codes;
    const answers = await Promise.all(
      [code, code.replaceAll('-', ' ').toUpperCase()].map((given) => enter('doubly sure', changed, given)),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 401]);
    expect(await person.call('ownAccount')).toMatchObject({ hasSecondFactor: true, recoveryCodesLeft: 9 });
  });

  it('is kept sealed, and its recovery codes as hashes', async () => {
    const rows = await own.read<{ kept: string }>(
      `select sealed as kept from secrets where name like '%second factor of doubly sure'
       union all select code_hash from recovery_codes where person = 'doubly sure'`,
    );
    expect(rows).toHaveLength(10);
    for (const { kept } of rows) for (const secret of [letters, ...codes]) expect(kept).not.toContain(secret);
  });

  it('ends with a password that is set from the server’s machine, and all sessions with it', async () => {
    const lost = await added('lost it all', 'administrator');
    const begun = await lost.call('beginSecondFactor', {}, { current: changed });
    await lost.call('confirmSecondFactor', {}, { code: oneTimeCode(begun.letters) });
    await promisify(execFile)(
      'sh',
      [
        '-c',
        `printf %s "$0" | "$1" "$2" "lost it all" administrator`,
        ownPassword,
        process.execPath,
        'server/dist/programs/put-person.js',
      ],
      {
        env: { ...process.env, HINGE_DATABASE_URL: own.serverDatabaseUrl, HINGE_DATA: own.folder },
      },
    );
    expect(await lost.refused('whoAmI')).toMatchObject({ status: 401 });
    expect((await enter('lost it all', ownPassword)).status).toBe(200);
  });

  it('ends by the password alone, or by an administrator', async () => {
    expect(await person.refused('endSecondFactor', {}, { current: 'a wrong one' })).toMatchObject({ status: 403 });
    await administrator.call('resetPerson', { name: 'doubly sure' }, { password: ownPassword, endSecondFactor: true });
    expect((await enter('doubly sure', ownPassword)).status).toBe(200);
  });
});
