import type { Problem } from '@loyal-hinge/contract';

/** An error that a user can meet: it says what happened and what to do. */
export class ProblemError extends Error {
  constructor(
    readonly problem: Problem,
    /** After how many seconds it may be tried again; null: that is not known. */
    readonly retryAfterSeconds: number | null = null,
  ) {
    super(problem.detail);
  }
}

/** What is wrong with something that was sent, place by place. */
export type Faults = NonNullable<Problem['faults']>;

type Told = Omit<Problem, 'type'>;

const make = (told: Told, retryAfterSeconds: number | null = null): ProblemError =>
  new ProblemError({ type: `urn:loyal-hinge:problem:${told.code}`, ...told }, retryAfterSeconds);

export const notFound = (what: string, id: string): ProblemError =>
  make({
    title: 'Not found',
    status: 404,
    code: 'not-found',
    detail: `There is no ${what} “${id}”.`,
    remedy: 'Look at the list: it may have been removed or renamed.',
  });

export const invalid = (detail: string, faults: Problem['faults'] = undefined): ProblemError =>
  make({
    title: 'Not valid',
    status: 400,
    code: 'not-valid',
    detail,
    remedy: 'Correct the places named, and send it again. Nothing was changed.',
    ...(faults ? { faults } : {}),
  });

export const conflict = (detail: string, remedy: string): ProblemError =>
  make({ title: 'Can’t be done now', status: 409, code: 'conflict', detail, remedy });

/** Somebody else was asked to do something, and did not. */
export const notTaken = (detail: string, remedy: string): ProblemError =>
  make({ title: 'Not taken', status: 502, code: 'not-taken', detail, remedy });

export const notSignedIn = (): ProblemError =>
  make({
    title: 'Not signed in',
    status: 401,
    code: 'not-signed-in',
    detail: 'Nobody is signed in, or the sign-in has ended.',
    remedy: 'Sign in.',
  });

export const wrongSignIn = (): ProblemError =>
  make({
    title: 'Sign-in refused',
    status: 401,
    code: 'sign-in-refused',
    detail: 'Name and password do not match.',
    remedy: 'Type both again; ask an administrator if the password is lost.',
  });

/** The password was right. */
export const codeNeeded = (): ProblemError =>
  make({
    title: 'A code is needed',
    status: 401,
    code: 'code-needed',
    detail: 'Name and password match; this person signs in with a code as well.',
    remedy: 'Type the code that your authenticator application shows now, or one of your recovery codes.',
  });

export const wrongCode = (): ProblemError =>
  make({
    title: 'Sign-in refused',
    status: 401,
    code: 'code-refused',
    detail: 'The code does not fit, or was used before.',
    remedy:
      'Type the next code that is shown, or one of your recovery codes; ask an administrator if the device is lost.',
  });

/** Somebody who is signed in did not say their own password. */
export const wrongPassword = (): ProblemError =>
  make({
    title: 'Not your password',
    status: 403,
    code: 'wrong-password',
    detail: 'This is not the present password. Nothing was changed.',
    remedy: 'Type it again; ask an administrator if it is lost.',
  });

export const passwordFirst = (): ProblemError =>
  make({
    title: 'Change your password first',
    status: 403,
    code: 'password-first',
    detail: 'Your password was given by somebody else, who may still know it.',
    remedy: 'Change it on your own page; then everything else is available.',
  });

export const mayNot = (needed: string): ProblemError =>
  make({
    title: 'Not allowed',
    status: 403,
    code: 'not-allowed',
    detail: `This needs the role ${needed}.`,
    remedy: 'Ask somebody who has it.',
  });

export const tokenMissing = (): ProblemError =>
  make({
    title: 'Not allowed',
    status: 403,
    code: 'token-missing',
    detail: 'The call did not carry the token of this sign-in.',
    remedy: 'Reload the page and try again.',
  });

export const foreignOrigin = (): ProblemError =>
  make({
    title: 'Not allowed',
    status: 403,
    code: 'foreign-origin',
    detail: 'The call came from a page of another address than this server’s.',
    remedy: 'Open Loyal Hinge itself, under the address that it is reached at, and try again.',
  });

/** @param seconds after which it may be tried again */
export const tooMany = (seconds: number): ProblemError =>
  make(
    {
      title: 'Too many attempts',
      status: 429,
      code: 'too-many-attempts',
      detail: 'There were too many wrong attempts to sign in.',
      remedy: `Try again in ${seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`}.`,
    },
    seconds,
  );

export const tooLarge = (): ProblemError =>
  make({
    title: 'Too large',
    status: 413,
    code: 'too-large',
    detail: 'What was sent is larger than allowed.',
    remedy: 'Send less at once. Nothing was changed.',
  });

export const notJson = (): ProblemError =>
  make({
    title: 'Not valid',
    status: 400,
    code: 'not-json',
    detail: 'What was sent is not well-formed JSON.',
    remedy: 'Correct it and send it again. Nothing was changed.',
  });

export const busy = (): ProblemError =>
  make({
    title: 'Too much at once',
    status: 503,
    code: 'busy',
    detail: 'The server has more to compute than it can at the moment. What was asked for was not begun, or was ended.',
    remedy: 'Wait a moment and try again.',
  });

export const tooSlow = (): ProblemError =>
  make({
    title: 'It took too long',
    status: 408,
    code: 'too-slow',
    detail: 'What was sent came in too slowly, and was not waited for any longer.',
    remedy: 'Send it again over a better connection, or less at once. Nothing was changed.',
  });

export const tookTooLong = (): ProblemError =>
  make({
    title: 'It took too long',
    status: 503,
    code: 'took-too-long',
    detail: 'The computation took longer than is allowed, and was ended.',
    remedy: 'Ask for less at once; if it comes back, check the server’s log.',
  });

export const diskFull = (): ProblemError =>
  make({
    title: 'The disk is full',
    status: 507,
    code: 'disk-full',
    detail: 'The database’s disk is full, so nothing can be written. Nothing was changed. Reading goes on.',
    remedy: 'Free some space on the disk; the server goes on by itself.',
  });

export const databaseAway = (): ProblemError =>
  make({
    title: 'The database can’t be reached',
    status: 503,
    code: 'database-away',
    detail:
      'The database can’t be reached at the moment. If something was to be changed, it is not certain whether it was.',
    remedy: 'Wait a moment, check the present state, and try again; the server connects again by itself.',
  });

export const gaveWay = (): ProblemError =>
  make({
    title: 'Changed by somebody else',
    status: 503,
    code: 'gave-way',
    detail: 'Somebody else changed the same at the same moment, so this change was not made.',
    remedy: 'Check the present state, and try again.',
  });

export const unexpected = (): ProblemError =>
  make({
    title: 'Unexpected error',
    status: 500,
    code: 'unexpected',
    detail: 'The server met an error that it did not expect. It is not certain whether anything was changed.',
    remedy: 'Check the present state before you try again; if it comes back, check the server’s log.',
  });
