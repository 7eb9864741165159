import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { AbstractControl } from '@angular/forms';
import { map, startWith, switchMap } from 'rxjs';

/** What is wrong with a field, once somebody has been there. */
@Component({
  selector: 'hinge-field-fault',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (fault(); as says) {
      <small class="fails" role="alert">{{ says }}</small>
    }
  `,
})
export class FieldFault {
  readonly of = input.required<AbstractControl>();
  readonly fault = toSignal(
    toObservable(this.of).pipe(
      switchMap((control) =>
        control.events.pipe(
          startWith(null),
          map(() => (control.touched ? firstOf(control) : null)),
        ),
      ),
    ),
    { initialValue: null },
  );
}

function firstOf({ errors }: AbstractControl): string | null {
  const [first] = Object.values(errors ?? {});
  return first === undefined ? null : String(first);
}
