import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { originPattern } from '@loyal-hinge/contract';
import type { LinkDetail } from '@loyal-hinge/contract';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { fieldActions, fieldFeature } from './state';

/** States the origins of many items alike: a number in their paths, and as many places further for each. */
@Component({
  selector: 'hinge-pattern-form',
  imports: [FormSheet, NumberField, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="State many alike"
      does="Save"
      [form]="form"
      [busy]="busy()"
      (sent)="save()"
      (left)="left.emit()"
    >
      <p class="faint">
        As <code>{{ like().path }}</code> is stated. Write {{ '{n}' }} where the number is, as in Lehr/Zone
        {{ '{n}' }}/Temperature; the first number has the address that is stated, each next one is so many places
        further.
      </p>
      <hinge-text label="Items" kind="technical" [control]="form.controls.path" />
      <hinge-number label="From number" [control]="form.controls.from" />
      <hinge-number label="To number" [control]="form.controls.to" />
      <hinge-number label="Places from one to the next" [control]="form.controls.step" />
    </hinge-form-sheet>
  `,
})
export class PatternForm {
  private readonly store = inject(Store);
  readonly told = input.required<LinkDetail>();
  /** The item whose origin the first number gets. */
  readonly like = input.required<LinkDetail['behind'][number]>();
  readonly left = output();
  readonly busy = this.store.selectSignal(fieldFeature.selectBusy);
  readonly form = contractForm(
    {
      path: originPattern.shape.path,
      from: originPattern.shape.from,
      to: originPattern.shape.to,
      step: originPattern.shape.step,
    },
    { path: '', from: 1, to: 2, step: 1 },
  );

  save(): void {
    const { origin } = this.like();
    if (!origin) return;
    const wish = { ...this.form.getRawValue(), origin };
    const [issue] = originPattern.safeParse(wish).error?.issues ?? [];
    if (issue) {
      const control = this.form.get(String(issue.path[0] ?? 'path')) ?? this.form.controls.path;
      control.setErrors({ fits: issue.message });
      return control.markAsTouched();
    }
    const { link } = this.told();
    const says = byNumber(
      wish.to - wish.from + 1,
      'The origin of 1 item is saved.',
      'The origins of # items are saved.',
    );
    this.store.dispatch(fieldActions.saveMany({ linkId: link.id, serverId: link.serverId, wish, says }));
    this.left.emit();
  }
}
