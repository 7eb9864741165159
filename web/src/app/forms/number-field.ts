import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { InputNumber } from 'primeng/inputnumber';
import { FieldFault } from './field-fault';

let fields = 0;

/** A whole number with its label above it, what is wrong with it, and a hint below. */
@Component({
  selector: 'hinge-number',
  imports: [FieldFault, InputNumber, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field">
      <label [for]="fieldId">{{ label() }}</label>
      <p-inputnumber
        [inputId]="fieldId"
        [formControl]="control()"
        [suffix]="unit() && ' ' + unit()"
        [useGrouping]="false"
        [maxFractionDigits]="0"
        [showButtons]="true"
        [step]="step()"
        [fluid]="true"
      />
      <div class="told"><hinge-field-fault [of]="control()" /><ng-content /></div>
    </div>
  `,
})
export class NumberField {
  readonly label = input.required<string>();
  readonly control = input.required<FormControl<number>>();
  /** Stands behind the number, such as “days”. */
  readonly unit = input('');
  readonly step = input(1);
  readonly fieldId = `number-${(fields += 1)}`;
}
