import type { Problem } from '@loyal-hinge/contract';

/** An error that a user can meet: it says what happened and what to do. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

type Told = Omit<Problem, 'type'>;

const make = (told: Told): ProblemError => new ProblemError({ type: `urn:loyal-hinge:problem:${told.code}`, ...told });

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
    detail: 'Name and password do not belong together.',
    remedy: 'Type both anew; ask an administrator if the password is lost.',
  });

export const mayNot = (needed: string): ProblemError =>
  make({
    title: 'Not allowed',
    status: 403,
    code: 'not-allowed',
    detail: `This takes the role ${needed}.`,
    remedy: 'Ask somebody who has it.',
  });

export const tokenMissing = (): ProblemError =>
  make({
    title: 'Not allowed',
    status: 403,
    code: 'token-missing',
    detail: 'The call did not carry the token of this sign-in.',
    remedy: 'Load the page anew and try again.',
  });

export const tooMany = (): ProblemError =>
  make({
    title: 'Too many attempts',
    status: 429,
    code: 'too-many-attempts',
    detail: 'There were too many attempts to sign in from this place.',
    remedy: 'Wait a few minutes.',
  });

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

export const databaseAway = (): ProblemError =>
  make({
    title: 'The database is away',
    status: 503,
    code: 'database-away',
    detail: 'The database can’t be reached at the moment. What was asked for was not accepted.',
    remedy: 'Wait a moment and try again; the server connects again by itself.',
  });

export const unexpected = (): ProblemError =>
  make({
    title: 'Unexpected error',
    status: 500,
    code: 'unexpected',
    detail: 'The server met an error that it did not expect. Nothing was changed.',
    remedy: 'Try again; if it comes back, look into the server’s log.',
  });
