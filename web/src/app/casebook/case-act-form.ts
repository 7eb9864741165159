import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { caseActWish } from '@loyal-hinge/contract';
import type { CaseActWish, CaseView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { actWords } from './casebook-words';
import { casebookActions, casebookFeature } from './state';

const nobody = 'nobody';
const reason = {
  safeParse: (value: unknown) =>
    typeof value === 'string' && value.trim() === '' ? { error: { issues: [{ message: 'Write a sentence.' }] } } : {},
};

/** What somebody does about a case: a note, whom it is given to, or why it is closed or opened again. */
@Component({
  selector: 'hinge-case-act-form',
  imports: [Choose, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="words().heading"
      [does]="words().does"
      [form]="form()"
      [busy]="running().includes('act')"
      (sent)="save()"
      (left)="left.emit()"
    >
      @if (kind() === 'assign') {
        <hinge-choose label="To whom" [formControl]="assigning.controls.to" [choices]="people()" />
        <hinge-text label="What they should know" [control]="assigning.controls.text" />
      } @else {
        <hinge-text kind="lines" [rows]="3" [label]="words().field" [control]="saying.controls.text" />
      }
    </hinge-form-sheet>
  `,
})
export class CaseActForm {
  private readonly store = inject(Store);
  readonly one = input.required<CaseView>();
  readonly kind = input.required<CaseActWish['kind']>();
  readonly left = output();
  readonly running = this.store.selectSignal(casebookFeature.selectRunning);
  readonly words = computed(() => actWords[this.kind()]);
  readonly people = computed(() => [
    { key: nobody, word: 'nobody' },
    ...this.one().people.map((name) => ({ key: name, word: name })),
  ]);
  readonly saying = contractForm({ text: reason }, { text: '' });
  readonly assigning = contractForm({ text: caseActWish.shape.text }, { to: nobody, text: '' });
  readonly form = computed(() => (this.kind() === 'assign' ? this.assigning : this.saying));

  save(): void {
    const kind = this.kind();
    const { to, text } = this.assigning.getRawValue();
    const wish: CaseActWish =
      kind === 'assign'
        ? { kind, text, to: to === nobody ? null : to }
        : { kind, text: this.saying.getRawValue().text, to: null };
    this.store.dispatch(casebookActions.act({ caseId: this.one().id, wish }));
    this.left.emit();
  }
}
