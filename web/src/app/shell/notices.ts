import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  InjectionToken,
  Injector,
  afterNextRender,
  effect,
  inject,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Actions } from '@ngrx/effects';
import type { Action } from '@ngrx/store';
import { ConfirmationService, MessageService } from 'primeng/api';
import { ConfirmDialog } from 'primeng/confirmdialog';
import { Toast } from 'primeng/toast';
import { filter } from 'rxjs';
import { Ask } from './ask';
import type { Question } from './ask';

/** How long something is told in passing. */
export const noticeMs = new InjectionToken<number>('noticeMs', { factory: () => 8000 });
type Told = Action & { readonly says: string };

/**
 * What is told in passing, and asked before something is done. What came of a wish, in a sentence: whichever action says
 * something (`says`) is told, wherever one is by then.
 */
@Component({
  selector: 'hinge-notices',
  imports: [ConfirmDialog, Toast],
  providers: [ConfirmationService, MessageService],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-toast position="bottom-right" />
    @if (ask.question() !== null) {
      <p-confirmdialog
        [style]="{ width: '30rem' }"
        [breakpoints]="{ '700px': '96vw' }"
        (onHide)="ask.question.set(null)"
      />
    }
  `,
})
export class Notices {
  readonly ask = inject(Ask);
  private readonly confirmation = inject(ConfirmationService);
  private readonly dialog = viewChild<ConfirmDialog, ElementRef<HTMLElement>>(ConfirmDialog, { read: ElementRef });

  constructor() {
    const [messages, injector, life] = [inject(MessageService), inject(Injector), inject(noticeMs)];
    inject(Actions)
      .pipe(
        filter((action): action is Told => 'says' in action && typeof action.says === 'string'),
        takeUntilDestroyed(),
      )
      .subscribe(({ says }) => messages.add({ severity: 'success', detail: says, life }));
    effect(() => {
      const question = this.ask.question();
      // The dialog is there once it is drawn.
      if (question) afterNextRender(() => this.open(question), { injector });
    });
  }

  /** The button that does nothing has the focus: a key that is held too long carries nothing out. */
  private open({ title, says, does, run }: Question): void {
    // The part gives its role to what is drawn, which has a name, and to the element around it, which has none.
    this.dialog()?.nativeElement.querySelector('p-dialog')?.removeAttribute('role');
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
