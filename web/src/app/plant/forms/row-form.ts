import { Directive, input, output } from '@angular/core';
import type { Signal } from '@angular/core';
import type { FormControl, FormGroup } from '@angular/forms';
import type { ShownProblem } from '../../http/problem';

/** What every form of a row of the plant takes and tells; `PartSheet` draws what they share. */
@Directive()
export abstract class RowForm<Row> {
  /** null: a new one. */
  readonly row = input.required<Row | null>();
  readonly isSaving = input.required<boolean>();
  /** Why it could not be saved. */
  readonly problem = input.required<ShownProblem | null>();
  readonly left = output();
  readonly saved = output<Row>();
  abstract readonly form: FormGroup & {
    readonly controls: { readonly name: FormControl<string>; readonly id: FormControl<string> };
  };
}

/** A form of a row of whichever kind. */
export type SomeRowForm = Omit<RowForm<object>, 'row' | 'saved'> & { readonly row: Signal<object | null> };
