import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import type { RecipientRow } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { RecipientForm } from './recipient-form';
import { quietWords } from './rounds-words';
import { roundsActions, roundsFeature } from './state';

const columns: readonly Column<RecipientRow>[] = [
  { key: 'name', title: 'Who', text: ({ name }) => name },
  {
    key: 'way',
    title: 'By which way',
    text: ({ way }) => (way.kind === 'mail' ? `mail to ${way.to.join(', ')} by ${way.host}:${way.port}` : way.url),
  },
  {
    key: 'group',
    title: 'Gathered for',
    text: ({ groupMinutes }) => (groupMinutes === 0 ? 'told at once' : `${groupMinutes} min`),
    order: ({ groupMinutes }) => groupMinutes,
  },
  { key: 'quiet', title: 'Quiet', text: (row) => quietWords(row) || 'never' },
  { key: 'last', title: 'Told last', text: ({ lastToldAt }) => lastToldAt ?? '' },
];

/** Who is told when links fall and work again, and whether that works. */
@Component({
  selector: 'hinge-recipient-ledger',
  imports: [Ledger, LedgerCell, Moment, RecipientForm],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (shown(); as rows) {
      <header>
        <h2>Who is told when a link falls</h2>
        @if (mayAct()) {
          <button type="button" class="act" (click)="edit('new')">Tell somebody</button>
        }
      </header>
      @if (editing() === 'new') {
        <hinge-recipient-form />
      } @else if (edited(); as row) {
        <hinge-recipient-form [row]="row" />
      }
      <hinge-ledger [columns]="columns" [rows]="rows" [idOf]="idOf" [plain]="true" fileName="recipients">
        <span empty>Nobody: what falls at night is seen when somebody looks.</span>
        <ng-template hingeCell="last" [hingeCellOf]="rows" let-row>
          @if (row.lastToldAt) {
            <hinge-moment [at]="row.lastToldAt" />
          } @else {
            <span class="faint">{{ row.isPaused ? 'paused' : 'not yet' }}</span>
          }
          @if (row.fault) {
            <div class="fault">
              Not sent: {{ row.fault }}.
              @if (row.nextTryAt) {
                Tried again <hinge-moment [at]="row.nextTryAt" show="near" />.
              }
            </div>
          }
        </ng-template>
        @if (mayAct()) {
          <ng-template hingeCell="acts" [hingeCellOf]="rows" let-row>
            <button
              type="button"
              class="act"
              [disabled]="running().includes('try')"
              [attr.aria-label]="'Send a test to ' + row.name"
              (click)="attempt(row)"
            >
              {{ running().includes('try') ? 'Sending …' : 'Send a test' }}
            </button>
            <button type="button" class="act" [attr.aria-label]="'Change ' + row.name" (click)="edit(row.id)">
              Change
            </button>
            <button type="button" class="act" [attr.aria-label]="'Remove ' + row.name" (click)="remove(row)">
              Remove …
            </button>
          </ng-template>
        }
      </hinge-ledger>
    }
  `,
  styles: `
    header {
      display: flex;
      gap: 1rem;
      align-items: baseline;
      justify-content: space-between;
      margin: 1.8rem 0 0.6rem;
    }
    h2 {
      margin: 0;
    }
    .fault {
      color: var(--fails);
      max-width: 26rem;
    }
  `,
})
export class RecipientLedger {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly mayAct = may('administrator');
  private readonly mayLook = may('engineer');
  readonly shown = this.store.selectSignal(roundsFeature.selectShownRecipients);
  readonly editing = this.store.selectSignal(roundsFeature.selectEditingRecipient);
  readonly running = this.store.selectSignal(roundsFeature.selectRunning);
  readonly edited = computed(() => this.shown()?.find(({ id }) => id === this.editing()) ?? null);
  readonly columns = columns;
  readonly idOf = ({ id }: RecipientRow): string => id;

  constructor() {
    if (this.mayLook()) this.store.dispatch(roundsActions.showRecipients());
  }

  edit(id: string): void {
    this.store.dispatch(roundsActions.editRecipient({ id }));
  }
  attempt({ id, name }: RecipientRow): void {
    this.store.dispatch(roundsActions.tryRecipient({ id, name }));
  }
  remove({ id, name }: RecipientRow): void {
    this.ask.first({
      title: `Tell ${name} no more?`,
      says: 'The way and its secret are forgotten. What happens is still seen here.',
      does: 'Remove',
      run: () => this.store.dispatch(roundsActions.removeRecipient({ id, name })),
    });
  }
}
