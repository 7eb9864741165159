import { sayCode } from '@loyal-hinge/core';
import { ComFailure, RpcFault, RpcProblem, problemOf } from '@loyal-hinge/classic';
import { conflict } from '../../http/problems.js';

/** Whether it is what a server answered, or a line that ended, and no mistake of ours. */
export const isOfPeer = (error: unknown): boolean =>
  error instanceof ComFailure || error instanceof RpcFault || error instanceof RpcProblem;

/** What a server answers with, or a lost line, in words. */
export async function told<Result>(call: () => Promise<Result>): Promise<Result> {
  try {
    return await call();
  } catch (error) {
    if (!isOfPeer(error)) throw error;
    const problem = problemOf(error);
    throw problem.by === 'way'
      ? conflict(problem.says, 'Where the session is lost, it is taken up again by itself.')
      : conflict(
          `The server answered: ${sayCode(problem.code)}.`,
          'Where the session is lost, it is taken up again by itself.',
        );
  }
}
