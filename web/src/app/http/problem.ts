import { HttpErrorResponse } from '@angular/common/http';
import type { Problem } from '@loyal-hinge/contract';
import { parsedJson } from './parsed-json';

/** What went wrong, as the pages show it. */
export interface ShownProblem {
  readonly title: string;
  /** Tells kinds of problems apart; it is not shown. */
  readonly code?: string;
  readonly detail: string;
  readonly remedy: string;
  readonly faults: readonly { readonly place: string; readonly says: string }[];
}

/** Makes something to show out of whatever a call threw. */
export function shownProblem(error: unknown): ShownProblem {
  if (error instanceof HttpErrorResponse) {
    const body: unknown = typeof error.error === 'string' ? parsedJson(error.error) : error.error;
    if (isProblem(body))
      return {
        title: body.title,
        code: body.code,
        detail: body.detail,
        remedy: body.remedy,
        faults: body.faults ?? [],
      };
    return {
      title: 'The server can’t be reached',
      detail:
        error.status === 0
          ? 'Nothing answered. What you entered is still here.'
          : `The server answered ${error.status}.`,
      remedy: 'Wait a moment and try again.',
      faults: [],
    };
  }
  return {
    title: 'Unexpected error',
    detail: error instanceof Error ? error.message : 'Something failed.',
    remedy: 'Reload the page.',
    faults: [],
  };
}

const isProblem = (body: unknown): body is Problem =>
  typeof body === 'object' && body !== null && 'detail' in body && 'remedy' in body;
