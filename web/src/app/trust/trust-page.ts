import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  untracked,
} from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import type { TrustChange } from '@loyal-hinge/core';
import { saveFrom } from '../files/save-from';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { Keys } from '../shell/keys';
import { CellDrawer } from './cell-drawer';
import { shownGrid } from './grid-view';
import type { GridChoice } from '@loyal-hinge/contract';
import { urlOf } from '../http/server';
import { gridQuery, trustActions, trustFeature } from './state';
import type { GridWish } from './state';
import { Pager } from '../shell/pager';
import { TrustGridView } from './trust-grid';
import { TrustMark } from './trust-mark';
import { TrustHead } from './trust-head';
import { Waiting } from '../shell/waiting';

/** The trust grid of the whole plant. */
@Component({
  selector: 'hinge-trust-page',
  imports: [Pager, Waiting, TrustHead, FilterLine, ChoiceField, TrustGridView, CellDrawer, TrustMark],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="finding()?.headline ?? 'Trust'">
        @if (reading() > 0) {
          <span class="faint" role="status">{{ reading() }} lists being read</span>
        }
        <button type="button" class="act main" [disabled]="!mayAct() || reading() > 0" (click)="readAll()">
          Read all lists
        </button>
      </hinge-trust-head>
      <hinge-filter-line
        [find]="find()"
        what="any application or certificate"
        (findChange)="go({ find: $event, from: '' })"
        (save)="save()"
      >
        <hinge-choice
          word="with"
          label="Which trust"
          [choices]="choices"
          [chosen]="choiceKey()"
          (chose)="go({ only: $event === 'all' ? '' : $event, from: '' })"
        />
      </hinge-filter-line>
      @if (grid(); as shown) {
        @if (shown.columns.length > 0 && shown.zones.length > 0) {
          <p class="key faint">
            @for (entry of legend; track entry.word) {
              <span><hinge-trust-mark [cell]="entry.cell" /> {{ entry.word }}</span>
            }
            @if (hasUsers()) {
              <span>User certificates stand at the right end.</span>
            }
          </p>
          <hinge-trust-grid
            [grid]="shown"
            [chosen]="cell()"
            [folded]="foldedZones()"
            (fold)="toggle($event)"
            (pick)="pick($event)"
          />
          @if (overview(); as known) {
            <hinge-pager
              what="Applications"
              [from]="known.from"
              [shown]="known.parties.length"
              [fitting]="known.fitting"
              [size]="pageRows"
              (go)="go({ from: $event })"
            />
          }
        } @else {
          <p class="empty">
            {{
              find() === '' && choiceKey() === 'all'
                ? 'This page shows who trusts whose certificate. It fills as soon as there are applications and links.'
                : 'Nothing matches.'
            }}
            @if (find() !== '' || choiceKey() !== 'all') {
              <button type="button" class="act" (click)="go({ find: '', only: '', from: '' })">Show all</button>
            }
          </p>
        }
      } @else {
        <hinge-waiting />
      }
      <hinge-cell-drawer
        [party]="chosenParty()"
        [column]="chosenColumn()"
        [cell]="chosenCell()"
        [linkNames]="overview()?.links ?? {}"
        [mayPropose]="mayAct()"
        (closed)="go({ cell: '' })"
        (propose)="propose($event)"
      />
    </div>
  `,
  styles: `
    .key {
      display: flex;
      flex-wrap: wrap;
      gap: 0.3rem 1.3rem;
      margin: 0 0 0.5rem;
      font-size: 0.86rem;
    }
    .key span {
      display: inline-flex;
      gap: 0.35rem;
      align-items: center;
    }
  `,
})
export class TrustPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly only = input('', { transform: fromAddress });
  /** The place of the first application that is shown. */
  readonly from = input('', { transform: fromAddress });
  /** Holder and thumbprint of the cell that is explained. */
  readonly cell = input('', { transform: fromAddress });
  /** Zones whose rows are folded away, with commas between them. */
  readonly folded = input('', { transform: fromAddress });
  readonly foldedZones = computed(() => this.folded().split(',').filter(Boolean));
  readonly overview = this.store.selectSignal(trustFeature.selectOverview);
  private readonly users = this.store.selectSignal(trustFeature.selectUsers);
  readonly finding = this.store.selectSignal(trustFeature.selectFinding);
  readonly wish = computed<GridWish>(() => ({
    find: this.find(),
    only: this.choiceKey(),
    from: Math.max(0, Math.floor(Number(this.from())) || 0),
  }));
  readonly pageRows = pageRows;
  readonly reading = this.store.selectSignal(trustFeature.selectReadingCount);
  readonly mayAct = may('engineer');
  readonly choices = [
    { key: 'all', word: 'everything' },
    { key: 'needed', word: 'what links need' },
    { key: 'refused', word: 'what is needed and refused' },
    { key: 'idle', word: 'what is trusted and no link needs' },
  ] as const;
  readonly legend = [
    { word: 'trusted directly', cell: { standing: 'directly', status: 'Good', linkIds: ['x'] } },
    { word: 'through an issuer', cell: { standing: 'through an issuer', status: 'Good', linkIds: ['x'] } },
    { word: 'trusted, but refused', cell: { standing: 'directly', status: 'Bad', linkIds: ['x'] } },
    { word: 'set aside', cell: { standing: 'set aside', status: 'Bad', linkIds: ['x'] } },
    { word: 'needed, not trusted', cell: { standing: 'not at all', status: 'Bad', linkIds: ['x'] } },
    { word: 'trusted, no link needs it', cell: { standing: 'directly', status: 'Good', linkIds: [] } },
    { word: 'lists not read', cell: { standing: 'not known', status: '', linkIds: ['x'] } },
  ] as const;
  readonly choiceKey = computed<GridChoice>(() => this.choices.find(({ key }) => key === this.only())?.key ?? 'all');
  readonly grid = computed(() => {
    const overview = this.overview();
    return overview ? shownGrid(overview, this.users(), { find: this.find(), only: this.choiceKey() }) : null;
  });
  readonly hasUsers = computed(() => this.grid()?.columns.some(({ isUser }) => isUser) ?? false);
  private readonly at = computed(() => this.cell().split(' '));
  readonly chosenParty = computed(
    () => this.overview()?.parties.find(({ applicationId }) => applicationId === this.at()[0]) ?? null,
  );
  readonly chosenColumn = computed(
    () => this.overview()?.columns.find(({ thumbprint }) => thumbprint === this.at()[1]) ?? null,
  );
  readonly chosenCell = computed(
    () =>
      this.overview()?.cells.find(
        ({ holderId, thumbprint }) => holderId === this.at()[0] && thumbprint === this.at()[1],
      ) ?? null,
  );

  constructor() {
    effect(() => {
      const wish = this.wish();
      untracked(() => this.store.dispatch(trustActions.show({ request: { view: 'overview', wish } })));
    });
    this.store.dispatch(trustActions.load({ request: { view: 'finding' } }));
    this.store.dispatch(trustActions.load({ request: { view: 'users' } }));
    const remove = inject(Keys).add({
      r: { does: 'read all lists', run: () => this.mayAct() && this.readAll() },
      x: { does: 'close the explanation', run: () => this.go({ cell: '' }) },
    });
    inject(DestroyRef).onDestroy(remove);
  }

  pick({ holderId, thumbprint }: { holderId: string; thumbprint: string }): void {
    const column = this.grid()?.columns.find((one) => one.thumbprint === thumbprint);
    // Whom a server lets in is read and changed with its roles and users.
    if (column?.isUser) void this.router.navigate(['/entry/identities', holderId]);
    else this.go({ cell: `${holderId} ${thumbprint}` });
  }

  toggle(zone: string): void {
    const folded = this.foldedZones();
    const next = folded.includes(zone) ? folded.filter((other) => other !== zone) : [...folded, zone];
    this.go({ folded: next.join(',') });
  }

  readAll(): void {
    this.store.dispatch(trustActions.command({ command: { does: 'read all' } }));
  }

  propose(change: TrustChange): void {
    const [party, column] = [this.chosenParty()?.name ?? '', this.chosenColumn()?.name ?? ''];
    const gives = change.kind === 'list-certificate';
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: gives ? `Let ${party} trust ${column}` : `End the trust of ${party} in ${column}`,
          lines: [
            {
              change,
              why: gives ? 'Asked for from the trust grid.' : 'Removed from the trust grid.',
              linkIds: this.chosenCell()?.linkIds ?? [],
            },
          ],
        },
      }),
    );
  }

  save(): void {
    saveFrom(urlOf('exportTrust', { query: gridQuery({ ...this.wish(), from: 0 }) }));
  }
}

/** Which applications are shown, of how many; null where all are. */
const pageRows = 40;
