import { ChangeDetectionStrategy, Component, ElementRef, afterNextRender, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormGroup } from '@angular/forms';
import { isComplete } from '../forms/contract-form';
import { firstField } from '../forms/first-field';

/** A form that opens within a page, has the focus, and is scrolled to where it opens out of sight: its fields stand within it, beside each other. What is missing is told at its field. */
@Component({
  selector: 'hinge-form-sheet',
  imports: [ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form class="sheet" [formGroup]="form()" (ngSubmit)="send($event)">
      <h2>{{ heading() }}</h2>
      <ng-content select="p" />
      <!-- Also where there is none: it takes no field’s place. -->
      <ng-content select="hinge-problem" />
      <div class="fields"><ng-content /></div>
      <div class="actions">
        <button type="submit" class="act main" [disabled]="busy()">{{ busy() ? does() + ' …' : does() }}</button>
        <button type="button" class="act" (click)="left.emit()">Cancel</button>
      </div>
    </form>
  `,
  styles: `
    .sheet {
      background: var(--paper);
    }
    h2 {
      margin-bottom: 0.6rem;
    }
    .fields {
      display: grid;
      grid-template-columns: repeat(3, minmax(0, 1fr));
      gap: 0.2rem 1.2rem;
      align-items: start;
    }
  `,
})
export class FormSheet {
  readonly heading = input.required<string>();
  /** The words of the button. */
  readonly does = input.required<string>();
  readonly form = input.required<FormGroup>();
  /** What was sent is under way. */
  readonly busy = input(false);
  /** The form is complete, and to be sent. */
  readonly sent = output();
  readonly left = output();

  constructor() {
    const { nativeElement } = inject<ElementRef<Partial<HTMLElement>>>(ElementRef);
    afterNextRender(() => {
      // Who pressed a button to open it types next; where a page begins with it, the keys stay the page’s.
      if (document.activeElement !== document.body)
        nativeElement.querySelector?.<HTMLElement>(firstField)?.focus({ preventScroll: true });
      nativeElement.scrollIntoView?.({ block: 'nearest' });
    });
  }

  send(sent: Event): void {
    if (!this.busy() && isComplete(this.form(), sent)) this.sent.emit();
  }
}
