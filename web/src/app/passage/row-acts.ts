import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { may } from '../session/may';

/** What an engineer does with a row of a table: edit it, or remove it. */
@Component({
  selector: 'hinge-row-acts',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button
      type="button"
      class="act"
      [disabled]="!mayChange()"
      (click)="edited.emit()"
      [attr.aria-label]="'Change ' + name()"
    >
      Change
    </button>
    <button
      type="button"
      class="act"
      [disabled]="!mayChange()"
      (click)="removed.emit()"
      [attr.aria-label]="'Remove ' + name()"
    >
      Remove
    </button>
  `,
  styles: `
    :host {
      display: inline-flex;
      gap: 0.9rem;
    }
    :host(:not(:first-child)) {
      margin-left: 0.9rem;
    }
  `,
})
export class RowActs {
  readonly name = input.required<string>();
  readonly edited = output();
  readonly removed = output();
  readonly mayChange = may('engineer');
}
