import { Directive, ElementRef, afterNextRender, inject } from '@angular/core';

const fields = 'input:enabled, select:enabled, textarea:enabled';

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
        around.querySelector<HTMLElement>(fields) ?? around.querySelector<HTMLElement>('.actions button:last-of-type')
      )?.focus(),
    );
  }
}
