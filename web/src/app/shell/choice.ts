import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { valueOf } from './page-address';

/** One of several: a key for the address, a word for the eye. */
export interface Choice {
  readonly key: string;
  readonly word: string;
}

/** A choice within a sentence, such as the filter line. */
@Component({
  selector: 'hinge-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <label
      >{{ word() }}
      <select [attr.aria-label]="label()" (change)="chose.emit(valueOf($event))">
        @for (choice of choices(); track choice.key) {
          <option [value]="choice.key" [selected]="choice.key === chosen()">{{ choice.word }}</option>
        }
      </select></label
    >
  `,
  styles: `
    label {
      white-space: nowrap;
    }
  `,
})
export class ChoiceField {
  /** The words of the sentence before it. */
  readonly word = input.required<string>();
  /** What is chosen here, for those who don’t see the sentence. */
  readonly label = input.required<string>();
  readonly choices = input.required<readonly Choice[]>();
  readonly chosen = input.required<string>();
  readonly chose = output<string>();
  readonly valueOf = valueOf;
}
