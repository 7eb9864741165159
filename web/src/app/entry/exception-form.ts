import { ChangeDetectionStrategy, Component, effect, inject, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { giveException } from '@loyal-hinge/contract';
import type { GiveException } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { DateField } from '../forms/date-field';
import { aDay, dayIn, startOfDay } from '../forms/days';
import { FieldFault } from '../forms/field-fault';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { FloorFields, floorBeginning, floorShape } from './floor-fields';
import { entryActions, entryFeature, isRunning } from './state';

/** Lets something else hold for one server or link, until a day. */
@Component({
  selector: 'hinge-exception-form',
  imports: [Choose, DateField, FieldFault, FloorFields, FormSheet, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      heading="Add an exception"
      does="Add exception"
      [form]="form"
      [busy]="busy()"
      (sent)="send()"
      (left)="left.emit()"
    >
      <p class="faint">
        What is named here is accepted instead of what the plant accepts, until the day named. Its links are checked at
        once; those that use the exception are strained, not sound.
      </p>
      <hinge-choose label="For" [formControl]="form.controls.of" [choices]="kinds" />
      <hinge-choose
        [label]="of() === 'server' ? 'Server' : 'Link'"
        [formControl]="form.controls.subjectId"
        [choices]="subjects()"
        [looksElsewhere]="true"
        (looked)="look($event)"
      >
        <hinge-field-fault [of]="form.controls.subjectId" />
      </hinge-choose>
      <hinge-date label="Until" [control]="form.controls.until" [least]="tomorrow" [most]="inAYear" />
      <hinge-floor-fields [controls]="form.controls" />
      <hinge-text
        class="why"
        label="Reason"
        placeholder="what is done about it, and by whom"
        [control]="form.controls.reason"
      />
    </hinge-form-sheet>
  `,
  styles: `
    hinge-text.why {
      grid-column: 1 / -1;
    }
  `,
})
export class ExceptionForm {
  private readonly store = inject(Store);
  readonly left = output();
  readonly busy = this.store.selectSignal(isRunning('add exception'));
  readonly subjects = this.store.selectSignal(entryFeature.selectSubjects);
  readonly kinds = [
    { key: 'server', word: 'a server and all its links' },
    { key: 'link', word: 'one link' },
  ] as const;
  readonly tomorrow = dayIn(1);
  readonly inAYear = dayIn(365);
  readonly form = contractForm(
    { ...floorShape, subjectId: chosenOne, until: aDay, reason: giveException.shape.reason },
    { of: 'server' as GiveException['of'], subjectId: '', until: '', reason: '', ...floorBeginning },
  );
  readonly of = toSignal(this.form.controls.of.valueChanges, { initialValue: 'server' as const });

  constructor() {
    effect(() => {
      this.of();
      this.form.controls.subjectId.reset();
      this.look('');
    });
  }

  look(find: string): void {
    this.store.dispatch(entryActions.lookForSubjects({ of: this.form.controls.of.value, find }));
  }

  send(): void {
    const { of, subjectId, until, reason, ...floor } = this.form.getRawValue();
    this.store.dispatch(
      entryActions.addException({ wish: { of, subjectId, reason, until: startOfDay(until), floor } }),
    );
  }
}
