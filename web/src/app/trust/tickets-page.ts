import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { makeTicket, signTicket } from '@loyal-hinge/contract';
import type { PullTicket } from '@loyal-hinge/contract';
import { chosenOne } from '../forms/chosen-one';
import { contractForm, isComplete } from '../forms/contract-form';
import { NumberField } from '../forms/number-field';
import { TextField } from '../forms/text-field';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { isRunning, trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { WhichApplication } from './which-application';

/** Tickets with which applications fetch their certificate and trust list by themselves. */
@Component({
  selector: 'hinge-tickets-page',
  imports: [
    NumberField,
    ReactiveFormsModule,
    TextField,
    WhichApplication,
    TrustHead,
    Ledger,
    LedgerCell,
    CopyText,
    Moment,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()" />
      @if (made(); as fresh) {
        <section>
          <h2>The token for {{ fresh.ticket.application }}, shown only now</h2>
          <p><hinge-copy [text]="fresh.token" /></p>
          <p class="faint">
            The application sends its request to <code>POST /api/pull/request</code> as
            <code>{{ '{' }} token, requestPem {{ '}' }}</code
            >, and asks <code>POST /api/pull/result</code> with <code>{{ '{' }} token {{ '}' }}</code> until its
            certificate and trust list are there. Valid until <hinge-moment [at]="fresh.ticket.expiresAt" />.
          </p>
        </section>
      }
      <form [formGroup]="form" (ngSubmit)="make($event)">
        <hinge-which-application [parties]="parties()" [control]="form.controls.applicationId" />
        <hinge-number label="Valid for" unit="hours" [control]="form.controls.validHours" />
        <button type="submit" class="act main" [disabled]="!mayAct() || isMaking()">Create a ticket</button>
      </form>
      <hinge-ledger
        [columns]="columns"
        [rows]="tickets() ?? []"
        [open]="signing()"
        [(find)]="find"
        fileName="tickets"
        empty="There is no ticket yet. With a ticket, an application outside the network, or one without push management, fetches its certificate and its trust list by itself, once."
      >
        <ng-template hingeCell="state" [hingeCellOf]="tickets() ?? []" let-ticket>
          <strong [class]="tones[ticket.state]">{{ words[ticket.state] }}</strong>
        </ng-template>
        <ng-template hingeCell="made" [hingeCellOf]="tickets() ?? []" let-ticket>
          {{ ticket.madeBy }}, <hinge-moment [at]="ticket.madeAt" />
        </ng-template>
        <ng-template hingeCell="expires" [hingeCellOf]="tickets() ?? []" let-ticket>
          <hinge-moment [at]="ticket.expiresAt" />
        </ng-template>
        <ng-template hingeCell="acts" [hingeCellOf]="tickets() ?? []" let-ticket>
          @if (ticket.state === 'requested') {
            <button type="button" class="act" [disabled]="!mayAct() || !authority()" (click)="signing.set(ticket.id)">
              Sign …
            </button>
          }
        </ng-template>
        <ng-template hingeCell="below" [hingeCellOf]="tickets() ?? []" let-ticket>
          <form [formGroup]="signingForm" (ngSubmit)="sign(ticket.id, $event)">
            <hinge-text
              [label]="'Passphrase of ' + (authority()?.name ?? '')"
              kind="password"
              [control]="signingForm.controls.passphrase"
            />
            <hinge-number label="Valid for" unit="days" [step]="365" [control]="signingForm.controls.validDays" />
            <span class="actions">
              <button type="submit" class="act main" [disabled]="isSigning()">Sign</button>
              <button type="button" class="act" (click)="signing.set('')">Cancel</button>
            </span>
          </form>
        </ng-template>
      </hinge-ledger>
    </div>
  `,
  styles: `
    form {
      display: flex;
      gap: 1rem;
      align-items: end;
    }
    form hinge-which-application {
      min-width: 18rem;
    }
    form button {
      margin-bottom: 0.75rem;
    }
    section {
      background: var(--panel);
      border: 1px solid var(--line);
      border-left: 4px solid var(--weak);
      padding: 0.8rem 1rem;
      margin-bottom: 0.9rem;
    }
  `,
})
export class TicketsPage {
  private readonly store = inject(Store);
  readonly tickets = this.store.selectSignal(trustFeature.selectTickets);
  readonly made = this.store.selectSignal(trustFeature.selectMadeTicket);
  readonly isMaking = this.store.selectSignal(isRunning('make ticket'));
  readonly isSigning = this.store.selectSignal(isRunning('sign ticket'));
  private readonly known = this.store.selectSignal(trustFeature.selectParties);
  private readonly authorities = this.store.selectSignal(trustFeature.selectAuthorities);
  readonly mayAct = may('engineer');
  /** The product renews those itself whose keys it holds. */
  readonly parties = computed(() => (this.known() ?? []).filter(({ way }) => way !== 'held'));
  readonly authority = computed(
    () => this.authorities()?.find(({ isCurrent, keyKept }) => isCurrent && keyKept) ?? null,
  );
  readonly form = contractForm(
    { ...makeTicket.shape, applicationId: chosenOne },
    { applicationId: '', validHours: 24 },
  );
  readonly signing = signal('');
  readonly signingForm = contractForm(signTicket.shape, { passphrase: '', validDays: 730 });
  readonly find = signal('');
  readonly columns = columns;
  readonly words = words;
  readonly tones = {
    made: 'unknown',
    requested: 'weak',
    signed: 'weak',
    fetched: 'holds',
    expired: 'unknown',
  } as const;
  readonly headline = computed(() => {
    const waiting = (this.tickets() ?? []).filter(({ state }) => state === 'requested').length;
    return waiting === 0
      ? 'Certificates that applications fetch by themselves'
      : byNumber(waiting, '# request waits to be signed.', '# requests wait to be signed.');
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'tickets' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'parties' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'authorities' } }));
  }

  make(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const body = this.form.getRawValue();
    this.store.dispatch(trustActions.command({ command: { does: 'make ticket', body } }));
  }

  sign(id: string, sent: Event): void {
    if (!isComplete(this.signingForm, sent)) return;
    const body = { authority: this.authority()?.thumbprint ?? '', ...this.signingForm.getRawValue() };
    this.store.dispatch(trustActions.command({ command: { does: 'sign ticket', id, body } }));
    this.signingForm.reset();
    this.signing.set('');
  }
}

const words = {
  made: 'waits for its request',
  requested: 'waits to be signed',
  signed: 'waits to be fetched',
  fetched: 'fetched',
  expired: 'expired',
} as const;

const columns: readonly Column<PullTicket>[] = [
  { key: 'application', title: 'For', text: ({ application }) => application },
  { key: 'asks', title: 'Asks for', text: ({ asks }) => asks ?? '' },
  { key: 'state', title: 'State', text: ({ state }) => words[state] },
  {
    key: 'made',
    title: 'Created',
    text: ({ madeBy, madeAt }) => `${madeBy}, ${madeAt}`,
    order: ({ madeAt }) => madeAt,
  },
  { key: 'expires', title: 'Valid until', text: ({ expiresAt }) => expiresAt },
];
