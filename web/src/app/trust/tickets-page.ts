import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { counted } from '@loyal-hinge/core';
import type { PullTicket } from '@loyal-hinge/contract';
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
  imports: [FormsModule, WhichApplication, TrustHead, Ledger, LedgerCell, CopyText, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()" />
      @if (made(); as fresh) {
        <section>
          <h2>The token for {{ fresh.ticket.application }}, shown this once</h2>
          <p><hinge-copy [text]="fresh.token" /></p>
          <p class="faint">
            The application sends its request to <code>POST /api/pull/request</code> as
            <code>{{ '{' }} token, requestPem {{ '}' }}</code
            >, and asks <code>POST /api/pull/result</code> with <code>{{ '{' }} token {{ '}' }}</code> until its
            certificate and trust list are there. Good until <hinge-moment [at]="fresh.ticket.expiresAt" />.
          </p>
        </section>
      }
      <form (ngSubmit)="make()">
        <hinge-which-application [parties]="parties()" [(chosen)]="applicationId" />
        <label class="field"
          >Good for (hours)<input type="number" name="hours" min="1" max="720" [(ngModel)]="hours"
        /></label>
        <button type="submit" class="act main" [disabled]="!mayAct() || busy() || applicationId() === ''">
          Make a ticket
        </button>
      </form>
      <hinge-ledger
        [columns]="columns"
        [rows]="tickets() ?? []"
        [open]="signing()"
        [(find)]="find"
        fileName="tickets"
        empty="No ticket was made yet. One lets an application outside, or one without push management, fetch its certificate and its trust list by itself, once."
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
              Have it signed …
            </button>
          }
        </ng-template>
        <ng-template hingeCell="below" [hingeCellOf]="tickets() ?? []" let-ticket>
          <form (ngSubmit)="sign(ticket.id)">
            <label class="field"
              >Passphrase of {{ authority()?.name
              }}<input type="password" autocomplete="off" name="passphrase" [(ngModel)]="passphrase"
            /></label>
            <label class="field">Valid for (days)<input type="number" name="days" [(ngModel)]="days" /></label>
            <span class="actions">
              <button type="submit" class="act main" [disabled]="busy() || passphrase() === ''">Sign</button>
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
      margin-bottom: 0.8rem;
    }
    form .field {
      margin-bottom: 0;
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
  readonly busy = this.store.selectSignal(isRunning('make ticket', 'sign ticket'));
  private readonly known = this.store.selectSignal(trustFeature.selectParties);
  private readonly authorities = this.store.selectSignal(trustFeature.selectAuthorities);
  readonly mayAct = may('engineer');
  /** The product renews those itself whose keys it holds. */
  readonly parties = computed(() => (this.known() ?? []).filter(({ way }) => way !== 'held'));
  readonly authority = computed(
    () => this.authorities()?.find(({ isCurrent, keyKept }) => isCurrent && keyKept) ?? null,
  );
  readonly applicationId = signal('');
  readonly hours = signal(24);
  readonly days = signal(730);
  readonly signing = signal('');
  readonly passphrase = signal('');
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
      : `${counted(waiting, 'request')} ${waiting === 1 ? 'waits' : 'wait'} to be signed.`;
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'tickets' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'parties' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'authorities' } }));
  }

  make(): void {
    const body = { applicationId: this.applicationId(), validHours: this.hours() };
    this.store.dispatch(trustActions.command({ command: { does: 'make ticket', body } }));
  }

  sign(id: string): void {
    const body = {
      authority: this.authority()?.thumbprint ?? '',
      validDays: this.days(),
      passphrase: this.passphrase(),
    };
    this.store.dispatch(trustActions.command({ command: { does: 'sign ticket', id, body } }));
    this.passphrase.set('');
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
  { key: 'made', title: 'Made', text: ({ madeBy, madeAt }) => `${madeBy}, ${madeAt}`, order: ({ madeAt }) => madeAt },
  { key: 'expires', title: 'Good until', text: ({ expiresAt }) => expiresAt },
];
