import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { ToggleSwitch } from 'primeng/toggleswitch';

let fields = 0;

/** Something that is so or not, with its label beside it. */
@Component({
  selector: 'hinge-switch',
  imports: [ReactiveFormsModule, ToggleSwitch],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-toggleswitch [inputId]="fieldId" [formControl]="control()" />
    <label [for]="fieldId">{{ label() }} <ng-content /></label>
  `,
  styles: `
    :host {
      display: flex;
      align-items: flex-start;
      gap: 0.6rem;
      margin-bottom: 0.8rem;
    }
    label ::ng-deep small {
      display: block;
    }
    p-toggleswitch {
      flex-shrink: 0;
      margin-top: 0.1rem;
    }
  `,
})
export class SwitchField {
  readonly label = input.required<string>();
  readonly control = input.required<FormControl<boolean>>();
  readonly fieldId = `switch-${(fields += 1)}`;
}
