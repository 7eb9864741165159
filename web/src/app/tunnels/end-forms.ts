import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { signOutpost, ticketWish } from '@loyal-hinge/contract';
import type { Outpost } from '@loyal-hinge/contract';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { tunnelActions, tunnelsFeature } from './state';

/** How long its machine may take until the ticket is used. */
@Component({
  selector: 'hinge-ticket-form',
  imports: [FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Create a ticket for ' + outpost().machine"
      does="Create"
      [form]="form"
      [busy]="running().includes('make ticket')"
      (sent)="make()"
      (left)="leave()"
    >
      <p class="faint">
        The process on {{ outpost().machine }} asks with it for a certificate, once. A ticket that was created before
        can’t be used any more.
      </p>
      <hinge-text label="This server, as reached from there" [control]="form.controls.address" />
      <hinge-number label="Valid for" unit="hours" [control]="form.controls.validHours" />
    </hinge-form-sheet>
  `,
})
export class TicketForm {
  private readonly store = inject(Store);
  readonly outpost = input.required<Outpost>();
  readonly running = this.store.selectSignal(tunnelsFeature.selectRunning);
  readonly form = contractForm(ticketWish.shape, {
    address: location.hostname.replace(/^\[|\]$/g, ''),
    validHours: 24,
  });

  make(): void {
    const wish = this.form.getRawValue();
    this.store.dispatch(tunnelActions.command({ command: { does: 'make ticket', outpost: this.outpost(), wish } }));
  }

  leave(): void {
    this.store.dispatch(tunnelActions.openForm({ endForm: null }));
  }
}

/** Signs the request of an end, with the passphrase of the plant’s authority. */
@Component({
  selector: 'hinge-sign-form',
  imports: [FormSheet, NumberField, ReactiveFormsModule, TextField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-form-sheet
      [heading]="'Sign for ' + outpost().machine"
      does="Sign"
      [form]="form"
      [busy]="running().includes('sign')"
      (sent)="sign()"
      (left)="leave()"
    >
      <hinge-text
        [label]="'Passphrase of ' + (signer()?.name ?? '')"
        kind="password"
        [control]="form.controls.passphrase"
      />
      <hinge-number label="Valid for" unit="days" [step]="365" [control]="form.controls.validDays" />
    </hinge-form-sheet>
  `,
})
export class SignForm {
  private readonly store = inject(Store);
  readonly outpost = input.required<Outpost>();
  readonly running = this.store.selectSignal(tunnelsFeature.selectRunning);
  readonly signer = this.store.selectSignal(tunnelsFeature.selectSigner);
  private readonly authority = computed(() => this.signer()?.thumbprint ?? '');
  readonly form = contractForm(
    { passphrase: signOutpost.shape.passphrase, validDays: signOutpost.shape.validDays },
    { passphrase: '', validDays: 730 },
  );

  sign(): void {
    const wish = { authority: this.authority(), ...this.form.getRawValue() };
    this.store.dispatch(tunnelActions.command({ command: { does: 'sign', outpost: this.outpost(), wish } }));
    this.form.controls.passphrase.reset('');
  }

  leave(): void {
    this.store.dispatch(tunnelActions.openForm({ endForm: null }));
  }
}
