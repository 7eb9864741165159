import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { waivableSteps } from '@loyal-hinge/core';
import type { WaivableStep } from '@loyal-hinge/core';
import { giveWaiver } from '@loyal-hinge/contract';
import type { CertificatePage } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { FormSheet } from '../shell/form-sheet';
import { Moment } from '../signs/moment';
import { isRunning, trustActions } from './state';
import { Choose, asChoices } from '../forms/choose';
import { chosenOne } from '../forms/chosen-one';
import { contractForm } from '../forms/contract-form';
import { DateField } from '../forms/date-field';
import { aDay, dayIn, startOfDay } from '../forms/days';
import { TextField } from '../forms/text-field';

/** Steps that applications skip when they meet a certificate: who granted that, until when, and why. */
@Component({
  selector: 'hinge-waivers',
  imports: [Choose, DateField, FormSheet, Moment, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul>
      @for (waiver of page().waivers; track waiver.id) {
        <li>
          {{ waiver.holder }} skips <strong [class]="waiver.ended ? 'unknown' : 'weak'">{{ waiver.step }}</strong>
          @if (waiver.ended; as ended) {
            <span class="faint"
              >: ended <hinge-moment [at]="ended.at" /> ({{ ended.by === 'its date' ? 'by itself' : ended.by }})</span
            >
          } @else {
            until <hinge-moment [at]="waiver.until" show="day" />
            <button type="button" class="plain" [disabled]="!mayWaive() || busy()" (click)="takeBack(waiver.id)">
              Withdraw
            </button>
          }
          <span class="why faint"
            >{{ waiver.why }} {{ waiver.givenBy }}, <hinge-moment [at]="waiver.givenAt" show="day"
          /></span>
        </li>
      } @empty {
        <li class="faint">No step is waived for it.</li>
      }
    </ul>
    @if (open()) {
      <hinge-form-sheet
        heading="Waive a step"
        does="Grant waiver"
        [form]="form"
        [busy]="busy()"
        (sent)="give()"
        (left)="open.set(false)"
      >
        <p class="faint">
          For a limited time, and only for steps that the standard lets an administrator waive (Part 4 §6.1.3). Until
          then the links are strained, not sound; they are checked again at once. A waiver here changes no server: if a
          server must skip the step, set that on the server as well.
        </p>
        <hinge-choose label="Application" [formControl]="form.controls.holderId" [choices]="holderChoices()" />
        <hinge-choose label="Step" [formControl]="form.controls.step" [choices]="steps" />
        <hinge-date label="Until" [control]="form.controls.until" [least]="tomorrow" [most]="inAYear" />
        <hinge-text
          class="why"
          label="Reason"
          placeholder="what is done about it, and by whom"
          [control]="form.controls.why"
        />
      </hinge-form-sheet>
    } @else if (page().meets.length > 0) {
      <button type="button" class="act" [disabled]="!mayWaive()" (click)="open.set(true)">Waive a step …</button>
      @if (!mayWaive()) {
        <small class="faint"> Only approvers can grant a waiver.</small>
      }
    }
  `,
  styles: `
    ul {
      list-style: none;
      padding: 0;
      margin: 0 0 0.5rem;
    }
    li {
      padding: 0.15rem 0;
    }
    li .why {
      display: block;
      font-size: 0.9rem;
    }
    hinge-text.why {
      grid-column: 1 / -1;
    }
  `,
})
export class WaiversView {
  private readonly store = inject(Store);
  readonly page = input.required<CertificatePage>();
  readonly busy = this.store.selectSignal(isRunning('waive', 'take waiver back'));
  readonly mayWaive = may('approver');
  readonly steps = asChoices(waivableSteps);
  readonly holderChoices = computed(() =>
    this.page().meets.map(({ applicationId, name }) => ({ key: applicationId, word: name })),
  );
  readonly tomorrow = dayIn(1);
  readonly inAYear = dayIn(365);
  readonly open = signal(false);
  readonly form = contractForm(
    { ...giveWaiver.shape, holderId: chosenOne, until: aDay },
    { holderId: '', step: 'validity period' as WaivableStep, until: '', why: '' },
  );

  constructor() {
    effect(() => {
      const ids = this.page().meets.map(({ applicationId }) => applicationId);
      const { holderId } = this.form.controls;
      if (!ids.includes(holderId.value)) holderId.setValue(ids[0] ?? '');
    });
  }

  give(): void {
    const { until, ...typed } = this.form.getRawValue();
    const { thumbprint } = this.page().certificate;
    const body = { ...typed, thumbprint, until: startOfDay(until) };
    this.store.dispatch(trustActions.command({ command: { does: 'waive', body } }));
    this.open.set(false);
  }

  takeBack(id: number): void {
    this.store.dispatch(trustActions.command({ command: { does: 'take waiver back', id } }));
  }
}
