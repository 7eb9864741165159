import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';

/** A form that opens within a page: its fields stand within it, beside each other. */
@Component({
  selector: 'hinge-form-sheet',
  imports: [FormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form class="sheet" (ngSubmit)="ready() && kept.emit()">
      <h2>{{ heading() }}</h2>
      <ng-content select="p" />
      <div class="fields"><ng-content /></div>
      <div class="actions">
        <button type="submit" class="act main" [disabled]="!ready()">{{ does() }}</button>
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
    }
  `,
})
export class FormSheet {
  readonly heading = input.required<string>();
  /** The words of the button. */
  readonly does = input.required<string>();
  /** False while something is missing, or the last wish is under way. */
  readonly ready = input(true);
  readonly kept = output();
  readonly left = output();
}
