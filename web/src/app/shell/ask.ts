import { Injectable, signal } from '@angular/core';

/** What is asked before something is done. */
export interface Question {
  readonly title: string;
  /** What would be done, where, and how to go back. */
  readonly says: string;
  /** The words of the button that does it. */
  readonly does: string;
  readonly run: () => void;
}

/** Asks before something is done; `Notices` shows the question. */
@Injectable({ providedIn: 'root' })
export class Ask {
  readonly question = signal<Question | null>(null);

  first(question: Question): void {
    this.question.set(question);
  }
}
