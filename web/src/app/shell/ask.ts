import { Injectable, inject } from '@angular/core';
import { ConfirmationService } from 'primeng/api';

/** What is asked before something is done. */
export interface Question {
  readonly title: string;
  /** What would be done, where, and how to go back. */
  readonly says: string;
  /** The words of the button that does it. */
  readonly does: string;
  readonly run: () => void;
}

/** Asks before something is done; a key that is held too long does nothing. */
@Injectable({ providedIn: 'root' })
export class Ask {
  private readonly confirmation = inject(ConfirmationService);

  first({ title, says, does, run }: Question): void {
    this.confirmation.confirm({
      header: title,
      message: says,
      acceptLabel: does,
      rejectLabel: 'Cancel',
      acceptButtonStyleClass: 'act main',
      rejectButtonStyleClass: 'act',
      defaultFocus: 'reject',
      accept: run,
    });
  }
}
