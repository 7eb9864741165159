import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { MultiSelect } from 'primeng/multiselect';
import { few } from './choose';
import type { Choice } from './choose';
import { FieldFault } from './field-fault';

let fields = 0;

/** A field that lets several of a few be chosen, with its label above it. */
@Component({
  selector: 'hinge-choose-some',
  imports: [FieldFault, MultiSelect, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field">
      <span class="label" [id]="labelId">{{ label() }}</span>
      <p-multiselect
        [formControl]="control()"
        [options]="choices()"
        optionLabel="word"
        optionValue="key"
        [placeholder]="placeholder()"
        [ariaLabelledBy]="labelId"
        [maxSelectedLabels]="20"
        [filter]="choices().length > few"
        filterPlaceHolder="Words of its name"
        [showToggleAll]="false"
        [fluid]="true"
        appendTo="body"
      />
      <div class="told"><hinge-field-fault [of]="control()" /><ng-content /></div>
    </div>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    p-multiselect {
      min-width: 0;
      max-width: 100%;
    }
  `,
})
export class ChooseSome<Key extends string = string> {
  readonly few = few;
  readonly label = input.required<string>();
  readonly choices = input.required<Choice<Key>[]>();
  readonly control = input.required<FormControl<Key[]>>();
  /** Shown while nothing is chosen. */
  readonly placeholder = input('');
  readonly labelId = `choose-some-${(fields += 1)}`;
}
