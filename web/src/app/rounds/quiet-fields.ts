import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { FormControl } from '@angular/forms';
import { quietHours } from '@loyal-hinge/contract';
import type { QuietHoursWish } from '@loyal-hinge/contract';
import { ChooseSome } from '../forms/choose-some';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { dayChoices } from './rounds-words';

/** Quiet hours as a form holds them. */
export interface QuietValues {
  readonly isQuiet: boolean;
  readonly quietFrom: string;
  readonly quietTo: string;
  readonly quietDays: string[];
}
export const quietShape = { quietFrom: quietHours.shape.from, quietTo: quietHours.shape.to };

/** What a form begins with: none, and these hours where some are wanted. */
export const noQuiet = (quietFrom: string, quietTo: string): QuietValues => ({
  isQuiet: false,
  quietFrom,
  quietTo,
  quietDays: dayChoices.map(({ key }) => key),
});

/** Fills a form with what is kept; nothing is filled where there are no quiet hours. */
export const quietValues = (quiet: QuietHoursWish | null): Partial<QuietValues> =>
  quiet
    ? { isQuiet: true, quietFrom: quiet.from, quietTo: quiet.to, quietDays: quiet.days.map(String) }
    : { isQuiet: false };

export const quietOf = ({ isQuiet, quietFrom, quietTo, quietDays }: QuietValues): QuietHoursWish | null =>
  isQuiet ? { from: quietFrom, to: quietTo, days: quietDays.map(Number).sort() } : null;

type Controls = { readonly [Key in keyof QuietValues]: FormControl<QuietValues[Key]> };

/** The fields of quiet hours within a form. */
@Component({
  selector: 'hinge-quiet-fields',
  imports: [ChooseSome, ReactiveFormsModule, SwitchField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-switch label="Quiet hours" [control]="controls().isQuiet">
      <small><ng-content /></small>
    </hinge-switch>
    @if (isQuiet()) {
      <hinge-text label="Quiet from" [control]="controls().quietFrom" />
      <hinge-text label="until" [control]="controls().quietTo"
        >Not later than the beginning: on the next day.</hinge-text
      >
      <hinge-choose-some label="On" placeholder="which days?" [control]="controls().quietDays" [choices]="days" />
    }
  `,
  // Its fields stand among those of the form.
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class QuietFields {
  readonly controls = input.required<Controls>();
  readonly isQuiet = input.required<boolean>();
  readonly days = dayChoices;
}
