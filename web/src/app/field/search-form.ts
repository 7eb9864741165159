import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl } from '@angular/forms';
import { Store } from '@ngrx/store';
import { placeOf } from '@loyal-hinge/core/field';
import type { ModbusTable } from '@loyal-hinge/core/field';
import { registerSearchWish } from '@loyal-hinge/contract';
import type { LinkDetail, RegisterSearchWish } from '@loyal-hinge/contract';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, tellFaults } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { FormSheet } from '../shell/form-sheet';
import { DeviceFields } from './device-fields';
import { ReadBy, readBy, theServer } from './read-by';
import { fieldFeature } from './state';

/** So many places on each side of the stated one are looked at first. */
const around = 20;

/** Which range of a device is sampled beside an item’s value, and for how long. */
@Component({
  selector: 'hinge-search-form',
  imports: [DeviceFields, FormSheet, NumberField, ReadBy],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="What to look at"
      does="Begin"
      [form]="form"
      [busy]="busy()"
      (sent)="begin()"
      (left)="left.emit()"
    >
      <p class="faint">
        The value is read at the server and the registers at the device, side by side and again and again. Nothing is
        written. The more the value changes meanwhile, the surer the finding.
      </p>
      <hinge-device-fields [controls]="form.controls" [known]="known()" />
      <hinge-read-by [deviceId]="deviceId()" [control]="reader" />
      <hinge-number label="From place" [control]="form.controls.first">Counted from 0, as on the wire.</hinge-number>
      <hinge-number label="Places" [control]="form.controls.count" />
      <hinge-number label="Samples" [control]="form.controls.samples" />
      <hinge-number label="One every" unit="ms" [step]="250" [control]="form.controls.everyMs" />
    </hinge-form-sheet>
  `,
})
export class SearchForm implements OnInit {
  private readonly store = inject(Store);
  readonly told = input.required<LinkDetail>();
  readonly path = input.required<string>();
  readonly left = output();
  readonly begun = output<RegisterSearchWish>();
  readonly busy = this.store.selectSignal(fieldFeature.selectBusy);
  private readonly problem = this.store.selectSignal(fieldFeature.selectProblem);
  readonly known = computed(() => this.told().behind.find(({ path }) => path === this.path()) ?? null);
  readonly form = contractForm(
    { ...registerSearchWish.shape, deviceId: chosenOne },
    {
      deviceId: '',
      port: 502,
      unit: 1,
      table: 'holding' as ModbusTable,
      first: 0,
      count: 100,
      samples: 120,
      everyMs: 500,
    },
  );

  readonly deviceId = toSignal(this.form.controls.deviceId.valueChanges, { initialValue: '' });
  readonly reader = new FormControl<string>(theServer, { nonNullable: true });

  constructor() {
    effect(() => tellFaults(this.form, this.problem()));
  }

  ngOnInit(): void {
    const origin = this.known()?.origin;
    if (!origin) return;
    const first = Math.max(0, placeOf(origin) - around);
    const { deviceId, port, unit, table } = origin;
    this.form.patchValue({ deviceId, port, unit, table, first, count: 2 * around });
  }

  begin(): void {
    const wish = { path: this.path(), ...this.form.getRawValue(), ...readBy(this.reader.value) };
    const [issue] = registerSearchWish.safeParse(wish).error?.issues ?? [];
    if (issue) {
      const control = this.form.get(String(issue.path[0] ?? 'count')) ?? this.form.controls.count;
      control.setErrors({ fits: issue.message });
      return control.markAsTouched();
    }
    this.begun.emit(wish);
  }
}
