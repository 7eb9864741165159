import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import type { OnInit } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import {
  addressConventions,
  conventionWords,
  orderWords,
  tableShapes,
  typeWords,
  valueOrders,
  valueTypes,
  wordsOf,
} from '@loyal-hinge/core/field';
import type { AddressConvention, ItemOrigin, ModbusTable, ValueOrder, ValueType } from '@loyal-hinge/core/field';
import { originWish, usualOrigin } from '@loyal-hinge/contract';
import type { LinkDetail } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm, tellFaults } from '../forms/contract-form';
import { chosenOne } from '../forms/chosen-one';
import type { Schema } from '../forms/fits';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import { FormSheet } from '../shell/form-sheet';
import { DeviceFields } from './device-fields';
import { fieldActions, fieldFeature } from './state';

/** A number that may have a fraction, as it is typed. */
const aNumber: Schema = {
  safeParse: (value) =>
    /^\s*[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?\s*$/i.test(String(value))
      ? {}
      : { error: { issues: [{ message: 'This must be a number, such as 0.1.' }] } },
};
const aNumberOrNothing: Schema = {
  safeParse: (value, params) => (value === '' ? {} : aNumber.safeParse(value, params)),
};
const someBits: Schema = {
  safeParse: (value) =>
    /^(\d{1,2}(-\d{1,2})?)?$/.test(String(value).trim())
      ? {}
      : { error: { issues: [{ message: 'Write one bit such as 3, or several such as 4-7.' }] } },
};

/** Where the value of an item comes from: which register of which device, and how the value lies in it. */
@Component({
  selector: 'hinge-origin-form',
  imports: [Choose, DeviceFields, FormSheet, NumberField, ProblemNotice, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Where ' + path() + ' comes from'"
      does="Save"
      [form]="form"
      [busy]="busy()"
      (sent)="save()"
      (left)="leave()"
    >
      <p class="faint">
        As the device’s papers have it. A check then reads the register, and compares it with what the server gives.
      </p>
      <hinge-problem [problem]="problem()" />
      <hinge-device-fields [controls]="form.controls" [known]="known()" />
      <hinge-text label="Address" kind="technical" [control]="form.controls.address" />
      <hinge-choose label="Addresses are" [formControl]="form.controls.convention" [choices]="conventions" />
      <hinge-choose label="Type" [formControl]="form.controls.type" [choices]="types()" />
      @if (hasOrder()) {
        <hinge-choose label="Order" [formControl]="form.controls.order" [choices]="orders" />
      }
      @if (isText()) {
        <hinge-number label="Registers" [control]="form.controls.registers" />
      } @else if (isNumber()) {
        <hinge-text label="Scale" kind="technical" [control]="form.controls.scale"
          >The value is raw × scale + offset.</hinge-text
        >
        <hinge-text label="Offset" kind="technical" [control]="form.controls.offset" />
      }
      @if (hasBits()) {
        <hinge-text label="Bits" kind="technical" placeholder="all" [control]="form.controls.bits" />
      }
      <hinge-text
        label="May differ by"
        kind="technical"
        placeholder="rounding alone"
        [control]="form.controls.within"
      />
    </hinge-form-sheet>
  `,
})
export class OriginForm implements OnInit {
  private readonly store = inject(Store);
  readonly told = input.required<LinkDetail>();
  readonly path = input.required<string>();
  readonly busy = this.store.selectSignal(fieldFeature.selectBusy);
  readonly problem = this.store.selectSignal(fieldFeature.selectProblem);
  readonly known = computed(() => this.told().behind.find(({ path }) => path === this.path()) ?? null);
  readonly conventions = addressConventions.map((key) => ({ key, word: conventionWords[key] }));
  readonly orders = valueOrders.map((key) => ({ key, word: orderWords[key] }));
  readonly form = contractForm(
    {
      deviceId: chosenOne,
      scale: aNumber,
      offset: aNumber,
      bits: someBits,
      within: aNumberOrNothing,
    },
    {
      deviceId: '',
      port: 502,
      unit: 1,
      table: 'holding' as ModbusTable,
      address: '',
      convention: 'from-1-with-digit' as AddressConvention,
      type: 'uint16' as ValueType,
      order: 'high-first' as ValueOrder,
      registers: 8,
      scale: '1',
      offset: '0',
      bits: '',
      within: '',
    },
  );
  private readonly typed = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  private readonly isBits = computed(() => tableShapes[this.typed().table ?? 'holding'].holds === 'bits');
  readonly types = computed(() =>
    valueTypes.filter((type) => !this.isBits() || type === 'bool').map((key) => ({ key, word: typeWords[key] })),
  );
  readonly isText = computed(() => this.typed().type === 'text');
  readonly isNumber = computed(() => !this.isText() && this.typed().type !== 'bool');
  readonly hasOrder = computed(() => !this.isBits() && this.typed().type !== 'bool');
  readonly hasBits = computed(() => !this.isBits() && /int|bool/.test(this.typed().type ?? ''));

  constructor() {
    effect(() => {
      // A bit is no number.
      if (this.isBits() && this.form.controls.type.value !== 'bool') this.form.controls.type.setValue('bool');
    });
    effect(() => tellFaults(this.form, this.atFields()));
  }

  ngOnInit(): void {
    const { form, ...origin } = this.known()?.origin ?? usualOrigin('');
    const { bits } = form;
    this.form.patchValue({
      ...origin,
      type: form.type,
      order: form.order,
      registers: form.registers ?? wordsOf({ type: 'text', registers: 8 }),
      scale: String(form.scale),
      offset: String(form.offset),
      bits: bits ? (bits.count === 1 ? String(bits.from) : `${bits.from}-${bits.from + bits.count - 1}`) : '',
      within: origin.within === null ? '' : String(origin.within),
    });
  }

  save(): void {
    const wish = { path: this.path(), origin: this.origin() };
    const [issue] = originWish.safeParse(wish).error?.issues ?? [];
    if (issue) {
      const name = String(issue.path.at(-1) ?? 'address');
      const control = this.form.get(name === 'from' || name === 'count' ? 'bits' : name) ?? this.form.controls.address;
      control.setErrors({ fits: issue.message });
      control.markAsTouched();
      return;
    }
    const { link } = this.told();
    this.store.dispatch(fieldActions.save({ linkId: link.id, serverId: link.serverId, wish }));
  }

  leave(): void {
    this.store.dispatch(fieldActions.editNoMore());
  }

  private origin(): ItemOrigin {
    const { type, order, registers, scale, offset, bits, within, ...origin } = this.form.getRawValue();
    const chosen = /^(\d+)(?:-(\d+))?$/.exec(this.hasBits() ? bits.trim() : '');
    const from = Number(chosen?.[1] ?? 0);
    return {
      ...origin,
      address: origin.address.trim(),
      form: {
        type,
        order: this.hasOrder() ? order : 'high-first',
        scale: this.isNumber() ? Number(scale) : 1,
        offset: this.isNumber() ? Number(offset) : 0,
        bits: chosen ? { from, count: Number(chosen[2] ?? from) - from + 1 } : null,
        ...(type === 'text' ? { registers } : {}),
      },
      within: within.trim() === '' ? null : Number(within),
    };
  }

  /** What the server found wrong, by the fields’ own names. */
  private readonly atFields = computed(() => {
    const problem = this.problem();
    return (
      problem && {
        ...problem,
        faults: problem.faults?.map(({ place, says }) => ({ place: place.split('.').at(-1) ?? '', says })),
      }
    );
  });
}
