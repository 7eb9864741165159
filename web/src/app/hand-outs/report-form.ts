import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { OnInit } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import type { HandOutQuery } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import type { Choice } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { urlOf } from '../http/server';
import { FormSheet } from '../shell/form-sheet';

const readers: readonly Choice<HandOutQuery['reader']>[] = [
  { key: 'manager', word: 'a manager: one page' },
  { key: 'technician', word: 'a technician: what to do' },
  { key: 'auditor', word: 'an auditor: everything' },
];
const forms: readonly Choice<HandOutQuery['form']>[] = [
  { key: 'pdf', word: 'a PDF file' },
  { key: 'html', word: 'a page for the browser' },
  { key: 'csv', word: 'its tables as CSV' },
];
const periods: readonly Choice[] = [
  { key: '1', word: 'the last day' },
  { key: '7', word: 'the last 7 days' },
  { key: '30', word: 'the last 30 days' },
  { key: '90', word: 'the last 3 months' },
  { key: '366', word: 'the last year' },
];

/** A report on the plant, a zone, a link or a case: for whom, and as what; the server writes it, and the browser saves it. */
@Component({
  selector: 'hinge-report-form',
  imports: [Choose, FormSheet, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Write a report"
      does="Save the report"
      [form]="form"
      (sent)="save()"
      (left)="left.emit()"
    >
      @if (zones().length > 0) {
        <hinge-choose label="On" [formControl]="form.controls.scope" [choices]="scopes()" />
      }
      <hinge-choose label="For" [formControl]="form.controls.reader" [choices]="readers" />
      <hinge-choose label="As" [formControl]="form.controls.form" [choices]="forms" />
      @if (about() !== 'case') {
        <hinge-choose label="Over" [formControl]="form.controls.days" [choices]="periods" />
      }
    </hinge-form-sheet>
  `,
})
export class ReportForm implements OnInit {
  readonly about = input.required<HandOutQuery['about']>();
  /** Of the link or the case. */
  readonly id = input('');
  /** The period that is looked at, in days. */
  readonly days = input('7');
  /** Which the report may be on instead of the whole plant. */
  readonly zones = input<readonly { readonly id: string; readonly name: string }[]>([]);
  readonly left = output();
  readonly readers = readers;
  readonly forms = forms;
  readonly periods = periods;
  readonly scopes = computed(() => [
    { key: '', word: 'the whole plant' },
    ...this.zones().map(({ id, name }) => ({ key: id, word: `the zone ${name}` })),
  ]);
  readonly form = contractForm(
    {},
    { scope: '', reader: 'manager' as HandOutQuery['reader'], form: 'pdf' as HandOutQuery['form'], days: '7' },
  );

  ngOnInit(): void {
    this.form.patchValue({ days: this.days() });
  }

  save(): void {
    const { scope, days, ...rest } = this.form.getRawValue();
    const on = scope === '' ? { about: this.about(), id: this.id() } : { about: 'zone' as const, id: scope };
    const link = document.createElement('a');
    link.href = urlOf('handOut', { query: { ...rest, ...on, days: Number(days) } });
    link.download = '';
    link.click();
    this.left.emit();
  }
}
