import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { signOutpost, ticketWish } from '@loyal-hinge/contract';
import type { Outpost } from '@loyal-hinge/contract';
import { contractForm } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { FormSheet } from '../shell/form-sheet';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { outpostActions, outpostsFeature } from './state';

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
  readonly running = this.store.selectSignal(outpostsFeature.selectRunning);
  readonly form = contractForm(ticketWish.shape, {
    address: location.hostname.replace(/^\[|\]$/g, ''),
    validHours: 24,
  });

  make(): void {
    const wish = this.form.getRawValue();
    this.store.dispatch(outpostActions.command({ command: { does: 'make ticket', outpost: this.outpost(), wish } }));
  }

  leave(): void {
    this.store.dispatch(outpostActions.openForm({ endForm: null }));
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
  readonly running = this.store.selectSignal(outpostsFeature.selectRunning);
  readonly signer = this.store.selectSignal(outpostsFeature.selectSigner);
  private readonly authority = computed(() => this.signer()?.thumbprint ?? '');
  readonly form = contractForm(
    { passphrase: signOutpost.shape.passphrase, validDays: signOutpost.shape.validDays },
    { passphrase: '', validDays: 730 },
  );

  sign(): void {
    const wish = { authority: this.authority(), ...this.form.getRawValue() };
    this.store.dispatch(outpostActions.command({ command: { does: 'sign', outpost: this.outpost(), wish } }));
    this.form.controls.passphrase.reset('');
  }

  leave(): void {
    this.store.dispatch(outpostActions.openForm({ endForm: null }));
  }
}

/** Under which command the process of each kind is started on its machine. */
const starts: Readonly<Record<Outpost['kind'], (id: string) => string>> = {
  'tunnel-end': (id) => `node tunnel/bin/tunnel.mjs ${id} --ticket ticket.txt`,
  gateway: (id) => `node gateway/bin/gateway.mjs ${id} --ticket ticket.txt`,
  probe: (id) => `node cli/bin/hinge.mjs probe ${id} --ticket ticket.txt --may-dial 10.20.0.0/16`,
};

/** What is being done for one of some outposts: a ticket is created, or its request signed; and the ticket, once. */
@Component({
  selector: 'hinge-outpost-sheet',
  imports: [CopyText, Moment, SignForm, TicketForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (worked(); as outpost) {
      @if (endForm()?.form === 'ticket') {
        <hinge-ticket-form [outpost]="outpost" />
      } @else {
        <hinge-sign-form [outpost]="outpost" />
      }
    }
    @if (ticket(); as made) {
      <section>
        <h2>The ticket for {{ made.outpost.machine }}, shown only now</h2>
        <p><hinge-copy [text]="made.ticket" /></p>
        <p>
          Store it on {{ made.outpost.machine }} in a file that only the process can read, and start the process there:
        </p>
        <p><hinge-copy [text]="commandOf(made.outpost)" /></p>
        @if (made.outpost.ticketUntil; as until) {
          <p class="faint">Valid until <hinge-moment [at]="until" />, for one process.</p>
        }
        <div class="actions"><button type="button" class="act" (click)="close()">Close</button></div>
      </section>
    }
  `,
  styles: `
    section {
      background: var(--panel);
      border: 1px solid var(--line);
      border-left: 4px solid var(--weak);
      padding: 0.8rem 1rem;
      margin-bottom: 0.9rem;
    }
  `,
})
export class OutpostSheet {
  private readonly store = inject(Store);
  readonly outposts = input.required<readonly Outpost[]>();
  readonly endForm = this.store.selectSignal(outpostsFeature.selectEndForm);
  readonly ticket = this.store.selectSignal(outpostsFeature.selectTicket);
  readonly worked = computed(() => this.outposts().find(({ id }) => id === this.endForm()?.outpostId) ?? null);
  readonly commandOf = ({ kind, id }: Outpost): string => starts[kind](id);

  close(): void {
    this.store.dispatch(outpostActions.ticketTaken());
  }
}
