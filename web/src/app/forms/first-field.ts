import { Directive, ElementRef, afterNextRender, inject } from '@angular/core';

/** Where one can type or choose; the choosing of a file is no field of that kind. */
export const firstField =
  'input:enabled:not([type=file]), select:enabled, textarea:enabled, [role=combobox]:not([aria-disabled=true])';

/**
 * Around what stands in a dialog: its first field is where one types, as soon as it is there; without a field, the
 * button that does nothing: a key held too long carries nothing out. The dialog’s own way waits for its animation, and takes the typing away from whoever was quicker: it is
 * switched off beside this (`focusOnShow`).
 */
@Directive({ selector: '[hingeFirstField]' })
export class FirstField {
  constructor() {
    const around = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    afterNextRender(() =>
      (
        around.querySelector<HTMLElement>(firstField) ??
        around.querySelector<HTMLElement>('.actions button:last-of-type')
      )?.focus(),
    );
  }
}
