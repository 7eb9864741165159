import { FormControl, FormGroup } from '@angular/forms';
import type { ShownProblem } from '../http/problem';
import { fits } from './fits';
import type { Schema } from './fits';

type Controls<Values> = { [Key in keyof Values]: FormControl<Values[Key]> };

/**
 * A form whose fields are validated by the contract’s own schemas.
 * @param shape schemas by the names of the fields, such as the `shape` of an object of the contract; a field without one
 *   is not validated
 * @param values what the fields begin with, and go back to by `reset`
 */
export function contractForm<Values extends object>(
  shape: { readonly [Key in keyof Values]?: Schema },
  values: Values,
): FormGroup<Controls<Values>> {
  const controls = Object.entries(values).map(([key, value]) => {
    const schema = shape[key as keyof Values];
    const options = { nonNullable: true, ...(schema ? { validators: fits(schema) } : {}) };
    return [key, new FormControl<unknown>(value, options)];
  });
  return new FormGroup(Object.fromEntries(controls) as Controls<Values>);
}

/**
 * Whether a form may be sent; where not, its fields say what is wrong with them from now on, and the first of them has the focus.
 * @param sent by which it was to be sent: of the form itself, or of a button within it
 */
export function isComplete(form: FormGroup, { target }: Event): boolean {
  if (form.valid) return true;
  form.markAllAsTouched();
  if (target instanceof Element) target.closest('form')?.querySelector<HTMLElement>(faultyField)?.focus();
  return false;
}

const faultyField = 'input.ng-invalid, textarea.ng-invalid, .ng-invalid input, .ng-invalid [role=combobox]';

/** Puts what the server found wrong at the fields of the same names, until they are changed. */
export function tellFaults(form: FormGroup, problem: ShownProblem | null): void {
  for (const { place, says } of problem?.faults ?? []) {
    const control = form.get(place.split('.')[0] ?? '');
    control?.setErrors({ server: says });
    control?.markAsTouched();
  }
}
