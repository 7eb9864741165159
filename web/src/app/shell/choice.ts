import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Select } from 'primeng/select';
import { few } from '../forms/choose';
import type { Choice } from '../forms/choose';

/** A choice within a sentence, such as the filter line. */
@Component({
  selector: 'hinge-choice',
  imports: [FormsModule, Select],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span aria-hidden="true">{{ word() }}</span>
    <p-select
      [options]="$any(choices())"
      optionLabel="word"
      optionValue="key"
      [ngModel]="chosen()"
      (ngModelChange)="chose.emit($event)"
      [filter]="choices().length > few"
      filterBy="word"
      [ariaLabel]="label()"
      size="small"
      appendTo="body"
    />
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 0.4rem;
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
  readonly few = few;
}
