import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Actions } from '@ngrx/effects';
import type { Action } from '@ngrx/store';
import { MessageService } from 'primeng/api';
import { ConfirmDialog } from 'primeng/confirmdialog';
import { Toast } from 'primeng/toast';
import { filter } from 'rxjs';

const shownMs = 8000;
type Told = Action & { readonly says: string };

/** What is told in passing and asked before something is done. What came of a wish, in a sentence: whichever action says something (`says`) is told, wherever one is by then. */
@Component({
  selector: 'hinge-notices',
  imports: [ConfirmDialog, Toast],
  providers: [MessageService],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-toast position="bottom-right" />
    <p-confirmdialog [style]="{ width: '30rem' }" [breakpoints]="{ '700px': '96vw' }" />
  `,
})
export class Notices {
  constructor() {
    const messages = inject(MessageService);
    inject(Actions)
      .pipe(
        filter((action): action is Told => 'says' in action && typeof action.says === 'string'),
        takeUntilDestroyed(),
      )
      .subscribe(({ says }) => messages.add({ severity: 'success', detail: says, life: shownMs }));
  }
}
