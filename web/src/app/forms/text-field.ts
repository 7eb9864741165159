import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { InputText } from 'primeng/inputtext';
import { Textarea } from 'primeng/textarea';
import { FieldFault } from './field-fault';

/** What a text is: it says how it looks, and what a browser may fill in. */
export type TextKind = 'words' | 'technical' | 'lines' | 'password' | 'new password' | 'code';

let fields = 0;

const ownFill = {
  words: 'off',
  technical: 'off',
  lines: 'off',
  password: 'off',
  'new password': 'new-password',
  code: 'one-time-code',
} as const;

/** A text with its label above it, what is wrong with it, and a hint below. */
@Component({
  selector: 'hinge-text',
  imports: [FieldFault, InputText, ReactiveFormsModule, Textarea],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="field">
      <label [for]="fieldId">{{ label() }}</label>
      @if (kind() === 'lines') {
        <textarea
          pTextarea
          class="mono"
          [id]="fieldId"
          [attr.aria-describedby]="fieldId + '-told'"
          [rows]="rows()"
          [formControl]="control()"
          [placeholder]="placeholder()"
          [readOnly]="fixed()"
        ></textarea>
      } @else {
        <input
          pInputText
          [id]="fieldId"
          [attr.aria-describedby]="fieldId + '-told'"
          [type]="kind() === 'password' || kind() === 'new password' ? 'password' : 'text'"
          [class.mono]="kind() === 'technical' || kind() === 'code'"
          [attr.inputmode]="kind() === 'code' ? 'numeric' : null"
          [autocomplete]="fill() ?? ownFill[kind()]"
          [placeholder]="placeholder()"
          [readOnly]="fixed()"
          [formControl]="control()"
        />
      }
      <div class="told" [id]="fieldId + '-told'"><hinge-field-fault [of]="control()" /><ng-content /></div>
    </div>
  `,
  styles: `
    input,
    textarea {
      width: 100%;
    }
    .mono {
      font-family: var(--mono);
      font-size: 0.9rem;
    }
    input[readonly] {
      background: var(--wash);
    }
  `,
})
export class TextField {
  readonly label = input.required<string>();
  readonly control = input.required<FormControl<string>>();
  readonly kind = input<TextKind>('words');
  /** What a browser fills in (HTML §4.10.18.7), where that is not what its kind says. */
  readonly fill = input<AutoFill | null>(null);
  readonly placeholder = input('');
  /** Of several lines. */
  readonly rows = input(3);
  /** It can be read and copied, not changed. */
  readonly fixed = input(false);
  readonly ownFill = ownFill;
  readonly fieldId = `text-${(fields += 1)}`;
}
