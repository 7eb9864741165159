import { ChangeDetectionStrategy, Component, computed, effect, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { typedValue } from '@loyal-hinge/core';
import { benchWrite } from '@loyal-hinge/contract';
import type { BenchTyped, BenchWritten } from '@loyal-hinge/contract';
import { Choose, asChoices } from '../forms/choose';
import { contractForm, tellFaults } from '../forms/contract-form';
import { FieldFault } from '../forms/field-fault';
import { TextField } from '../forms/text-field';
import type { ShownProblem } from '../http/problem';
import { FormSheet } from '../shell/form-sheet';

/** Without the last digits, which come of counting in twos. */
const tidy = (number: number): number => Number(number.toPrecision(12));

/** Writes a value by hand: it is held to type, range and names before it is sent, and read back afterwards. */
@Component({
  selector: 'hinge-write-value',
  imports: [Choose, FieldFault, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Write ' + name()"
      does="Write"
      [form]="form"
      [busy]="busy()"
      (sent)="send()"
      (left)="left.emit()"
    >
      <p class="faint">{{ heldTo() }}</p>
      @if (node().canBeTyped) {
        @if (choices(); as some) {
          <hinge-choose label="New value" [formControl]="form.controls.typed" [choices]="some">
            <hinge-field-fault [of]="form.controls.typed" />
          </hinge-choose>
        } @else {
          <hinge-text
            label="New value"
            [kind]="node().isArray ? 'lines' : 'technical'"
            [control]="form.controls.typed"
          />
        }
        <hinge-text class="why" label="Why" placeholder="permit number, what for" [control]="form.controls.why" />
      }
    </hinge-form-sheet>
    @if (written(); as told) {
      <p role="status">
        <strong [class]="told.stays ? 'holds' : 'weak'">{{ told.says }}</strong>
        @if (node().undo !== null) {
          <button type="button" class="act" [disabled]="busy()" (click)="undo.emit()">
            Undo: write {{ node().undo }} again
          </button>
        }
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
      margin-bottom: 1rem;
    }
    .why {
      grid-column: span 2;
    }
    p[role='status'] {
      display: flex;
      gap: 1rem;
      align-items: center;
      margin: 0.6rem 0 0;
    }
  `,
})
export class WriteValue {
  readonly node = input.required<BenchTyped>();
  readonly name = input.required<string>();
  readonly busy = input(false);
  readonly written = input<BenchWritten | null>(null);
  readonly problem = input<ShownProblem | null>(null);
  readonly write = output<{ typed: string; why: string }>();
  readonly undo = output();
  readonly left = output();
  readonly form = contractForm({ why: benchWrite.shape.why }, { typed: '', why: '' });
  /** What can be chosen, where it is one of few. */
  readonly choices = computed(() => {
    const { dataType, isArray, names } = this.node();
    if (isArray) return null;
    return dataType === 'Boolean' ? asChoices(['true', 'false']) : names.length > 0 ? asChoices(names) : null;
  });
  readonly heldTo = computed(() => {
    const { dataType, isArray, range, value, canBeTyped } = this.node();
    if (!canBeTyped) return `Values of the type ${dataType} can’t be typed here.`;
    const list = isArray ? `a list of ${dataType}, an element a line` : dataType;
    const within = range ? `, from ${tidy(range.low)} to ${tidy(range.high)}` : '';
    return `It is ${value ?? 'empty'} now. A new value is ${list}${within}. It is written to the running server at once, and stands in the audit trail.`;
  });

  constructor() {
    effect(() => {
      const { value } = this.node();
      if (this.form.controls.typed.pristine) this.form.controls.typed.setValue(value ?? '');
    });
    effect(() => {
      if (this.written()) this.form.controls.typed.markAsPristine();
    });
    effect(() => tellFaults(this.form, this.problem()));
  }

  send(): void {
    const { dataType, isArray, range, names } = this.node();
    const { typed, why } = this.form.getRawValue();
    const named = names.length === 0 ? null : new Map(names.map((name, index) => [index, name]));
    // Of an enumeration the server alone knows the numbers; what is chosen is one of its names.
    const value =
      named && names.includes(typed)
        ? { ok: true as const }
        : typedValue(typed, { dataType, isArray, range, names: named });
    if (!value.ok) {
      this.form.controls.typed.setErrors({ server: value.says });
      this.form.controls.typed.markAsTouched();
      return;
    }
    this.write.emit({ typed, why });
  }
}
