import { ChangeDetectionStrategy, Component, effect, input, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { DatePicker } from 'primeng/datepicker';
import { FieldFault } from './field-fault';

let fields = 0;

/** A day with its label above it: typed as 2030-12-31, or chosen from a calendar. The form holds it as `YYYY-MM-DD`; empty: none. */
@Component({
  selector: 'hinge-date',
  imports: [DatePicker, FieldFault, FormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[class.inline]': 'inline()' },
  template: `
    <div class="field">
      <label [for]="fieldId">{{ label() }}</label>
      <p-datepicker
        [inputId]="fieldId"
        [ngModel]="day()"
        (ngModelChange)="choose($event)"
        (onBlur)="control().markAsTouched()"
        [ngModelOptions]="{ standalone: true }"
        [minDate]="dayOf(least())"
        [maxDate]="dayOf(most())"
        dateFormat="yy-mm-dd"
        placeholder="YYYY-MM-DD"
        [showIcon]="true"
        [showClear]="clears()"
        [firstDayOfWeek]="1"
        [size]="inline() ? 'small' : undefined"
        [fluid]="!inline()"
        appendTo="body"
      />
      <div class="told"><hinge-field-fault [of]="control()" /><ng-content /></div>
    </div>
  `,
  styles: `
    :host(.inline) .field {
      display: inline-flex;
      align-items: center;
      gap: 0.4rem;
      margin: 0;
    }
    :host(.inline) .field > label {
      font-weight: 400;
    }
    :host(.inline) p-datepicker {
      width: 9.5rem;
    }
  `,
})
export class DateField {
  readonly label = input.required<string>();
  readonly control = input.required<FormControl<string>>();
  /** The first and the last day that can be chosen; empty: any. */
  readonly least = input('');
  readonly most = input('');
  /** Within a sentence, such as the filter line. */
  readonly inline = input(false);
  /** None can be chosen, too. */
  readonly clears = input(false);
  readonly fieldId = `date-${(fields += 1)}`;
  readonly day = signal<Date | null>(null);
  readonly dayOf = dayOf;

  constructor() {
    effect((onCleanup) => {
      const control = this.control();
      untracked(() => this.day.set(dayOf(control.value)));
      const heard = control.valueChanges.subscribe((value) => this.day.set(dayOf(value)));
      onCleanup(() => heard.unsubscribe());
    });
  }

  /** While somebody types, what stands there is no day yet. */
  choose(day: Date | string | null): void {
    const value = day instanceof Date ? textOf(day) : '';
    this.control().markAsDirty();
    if (value !== this.control().value) this.control().setValue(value);
  }
}

/** Midnight of a day, in the time of the browser; null where it is none. */
function dayOf(text: string): Date | null {
  const [year, month, day] = text.split('-').map(Number);
  return year && month && day ? new Date(year, month - 1, day) : null;
}

const textOf = (day: Date): string =>
  [day.getFullYear(), day.getMonth() + 1, day.getDate()].map((part) => String(part).padStart(2, '0')).join('-');
