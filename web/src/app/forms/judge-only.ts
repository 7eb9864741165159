import type { AbstractControl } from '@angular/forms';

/** Of fields that belong to one of several ways, those of the chosen way are judged and sent; a field may belong to several. */
export function judgeOnly<Way extends string>(
  fields: Readonly<Record<Way, readonly AbstractControl[]>>,
  chosen: Way,
): void {
  const judged = new Set(fields[chosen]);
  for (const control of new Set(Object.values<readonly AbstractControl[]>(fields).flat())) {
    if (judged.has(control)) control.enable();
    else control.disable();
  }
}
