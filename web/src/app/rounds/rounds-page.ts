import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { RoundRow } from '@loyal-hinge/contract';
import { CasebookHead } from '../casebook/casebook-head';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { RecipientLedger } from './recipient-ledger';
import { RoundForm } from './round-form';
import { everyWords, quietWords, scopeWords } from './rounds-words';
import { roundsActions, roundsFeature } from './state';

/** Rounds: which links are checked by themselves, how often, when not, and how the last one went. */
@Component({
  selector: 'hinge-rounds-page',
  imports: [CasebookHead, Ledger, LedgerCell, Moment, RecipientLedger, RoundForm, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-casebook-head [headline]="headline()" [refused]="problem()">
        @if (mayAct()) {
          <button type="button" class="act main" (click)="edit('new')">Add a round</button>
        }
      </hinge-casebook-head>
      @if (view(); as known) {
        @if (editing() === 'new') {
          <hinge-round-form [view]="known" />
        } @else if (edited(); as row) {
          <hinge-round-form [view]="known" [row]="row" />
        }
        <hinge-ledger [columns]="columns()" [rows]="known.rounds" [idOf]="idOf" [plain]="true" fileName="rounds">
          <span empty>
            No link is checked by itself yet. A round checks links at its times, so that what falls at night is seen at
            night.
          </span>
          <ng-template hingeCell="last" [hingeCellOf]="known.rounds" let-row>
            @if (row.lastRun; as run) {
              <hinge-moment [at]="run.begunAt" />
              <div class="faint">{{ runWords(row) }}</div>
            } @else {
              <span class="faint">not yet</span>
            }
          </ng-template>
          <ng-template hingeCell="next" [hingeCellOf]="known.rounds" let-row>
            @if (row.nextAt) {
              <hinge-moment [at]="row.nextAt" />
            } @else {
              <span class="faint">paused</span>
            }
          </ng-template>
          @if (mayAct()) {
            <ng-template hingeCell="acts" [hingeCellOf]="known.rounds" let-row>
              <button
                type="button"
                class="act"
                [disabled]="running().includes('run')"
                [attr.aria-label]="'Begin ' + row.name + ' now'"
                (click)="run(row)"
              >
                Begin now
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
        <hinge-recipient-ledger />
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
})
export class RoundsPage {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly mayAct = may('engineer');
  readonly view = this.store.selectSignal(roundsFeature.selectShown);
  readonly problem = this.store.selectSignal(roundsFeature.selectProblem);
  readonly editing = this.store.selectSignal(roundsFeature.selectEditing);
  readonly running = this.store.selectSignal(roundsFeature.selectRunning);
  readonly edited = computed(() => this.view()?.rounds.find(({ id }) => id === this.editing()) ?? null);
  readonly headline = computed(() => {
    const rounds = this.view()?.rounds.filter(({ isPaused }) => !isPaused);
    if (!rounds) return 'Rounds';
    return rounds.length === 0
      ? 'No link is checked by itself.'
      : byNumber(rounds.length, 'One round checks links by itself.', '# rounds check links by themselves.');
  });
  readonly columns = computed((): readonly Column<RoundRow>[] => [
    { key: 'name', title: 'Round', text: ({ name }) => name },
    {
      key: 'scope',
      title: 'Checks',
      text: (row) => scopeWords(row, this.view() ?? { zones: [] }),
    },
    { key: 'every', title: 'How often', text: everyWords },
    { key: 'quiet', title: 'Quiet', text: (row) => quietWords(row) || 'never' },
    { key: 'last', title: 'Last begun', text: ({ lastRun }) => lastRun?.begunAt ?? '' },
    { key: 'next', title: 'Next', text: ({ nextAt }) => nextAt ?? '' },
  ]);
  readonly idOf = ({ id }: RoundRow): string => id;

  constructor() {
    this.store.dispatch(roundsActions.show());
  }

  /** “21 links asked for by engineer”, “9 of 21 links still wait”. */
  runWords({ name, lastRun }: RoundRow): string {
    if (!lastRun) return '';
    const { pending, links, askedBy } = lastRun;
    if (links === 0) return 'The plant had no link for it.';
    if (pending > 0) return `${pending} of ${byNumber(links, '1 link', '# links')} still wait`;
    return `${byNumber(links, '1 link', '# links')} asked for${askedBy === name ? '' : ` by ${askedBy}`}`;
  }

  edit(id: string): void {
    this.store.dispatch(roundsActions.edit({ id }));
  }
  run({ id, name }: RoundRow): void {
    this.store.dispatch(roundsActions.run({ id, name }));
  }
  remove({ id, name }: RoundRow): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'Its links are no longer checked by themselves. What was seen of them stays.',
      does: 'Remove',
      run: () => this.store.dispatch(roundsActions.remove({ id, name })),
    });
  }
}
