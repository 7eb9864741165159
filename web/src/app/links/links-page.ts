import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  untracked,
  viewChild,
} from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted, linkKindIds, linkKinds } from '@loyal-hinge/core';
import type { LinkOrder, LinkRow } from '@loyal-hinge/contract';
import { saveFrom } from '../files/save-from';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { Keys } from '../shell/keys';
import { addressWriter, fromAddress } from '../shell/page-address';
import type { RowRange } from '../shell/row-window';
import { urlOf } from '../http/server';
import { BoardTable } from './board-table';
import { fittingOf, linkActions, linksFeature } from './state';
import type { BoardWish } from './state';
import { Waiting } from '../shell/waiting';

const orders: Readonly<Record<LinkOrder, string>> = {
  place: 'where it fails',
  name: 'link',
  server: 'server',
  checked: 'last check',
};
const states = ['Parted', 'Strained', 'Untried', 'Sound'] as const;

/** All links: the finding, what is looked for, and the step board. */
@Component({
  selector: 'hinge-links-page',
  imports: [Waiting, BoardTable, ProblemNotice, FilterLine, ChoiceField, FirstSteps],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        <div class="actions">
          @if (underWay() > 0) {
            <span class="faint" role="status">{{ underWayWords() }}</span>
            <button type="button" class="act" (click)="cancelAll()">Cancel them</button>
          }
          <button type="button" class="act main" [disabled]="!mayCheck() || fitting() === 0" (click)="checkAll()">
            Check {{ filtered() ? 'these ' + fitting() : 'all' }}
          </button>
        </div>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (loaded() && !filtered()) {
        <hinge-first-steps [whole]="fitting() === 0" />
      }
      @if (all() > 0 || !loaded()) {
        <hinge-filter-line
          [find]="find()"
          what="any link, machine or cause"
          (findChange)="go({ find: $event })"
          (save)="exportCsv()"
        >
          <hinge-choice
            word="that is"
            label="State"
            [choices]="states"
            [chosen]="state()"
            (chose)="go({ state: $event })"
          />
          @if (choosesKind()) {
            <hinge-choice
              word="over"
              label="Kind"
              [choices]="kindChoices"
              [chosen]="chosenKind()"
              (chose)="go({ kind: $event })"
            />
          }
          <hinge-choice
            word="sorted by"
            label="Sorted by"
            [choices]="orderChoices"
            [chosen]="order()"
            (chose)="go({ by: $event })"
          />
        </hinge-filter-line>
      }
      @if (!loaded()) {
        <hinge-waiting />
      } @else if (fitting() === 0) {
        <p class="empty">
          {{
            filtered()
              ? 'No link fits these words.'
              : 'This page shows the client-server pairs that must be able to talk, and where in the chain they stop.'
          }}
          @if (filtered()) {
            <button type="button" class="act" (click)="go({ find: '', state: '', kind: '' })">Show all</button>
          }
        </p>
      } @else {
        <hinge-board-table
          [count]="fitting()"
          [kinds]="board().kinds"
          [rows]="rows()"
          [working]="working()"
          [opened]="opened()"
          [at]="at()"
          [mayCheck]="mayCheck()"
          (reached)="reach($event)"
          (chose)="toggle($event)"
          (moved)="at.set($event)"
          (check)="check($event)"
        />
      }
    </div>
  `,
})
export class LinksPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  private readonly router = inject(Router);

  /** From the address. */
  readonly find = input('', { transform: fromAddress });
  readonly state = input('', { transform: fromAddress });
  readonly kind = input('', { transform: fromAddress });
  readonly by = input('', { transform: fromAddress });
  readonly open = input('', { transform: fromAddress });

  readonly states = [{ key: '', word: 'in any state' }, ...states.map((state) => ({ key: state, word: state }))];
  readonly kindChoices = [
    { key: '', word: 'any protocol' },
    ...linkKindIds.map((kind) => ({ key: kind, word: linkKinds[kind].title })),
  ];
  readonly orderChoices = Object.entries(orders).map(([key, word]) => ({ key, word }));

  private readonly table = viewChild(BoardTable);
  readonly board = this.store.selectSignal(linksFeature.selectBoard);
  readonly rows = this.store.selectSignal(linksFeature.selectPlaces);
  readonly headline = this.store.selectSignal(linksFeature.selectHeadline);
  readonly loaded = this.store.selectSignal(linksFeature.selectLoaded);
  readonly problem = this.store.selectSignal(linksFeature.selectProblem);
  readonly working = this.store.selectSignal(linksFeature.selectWorking);
  readonly mayCheck = may('engineer');
  readonly fitting = computed(() => this.board().fitting);
  readonly all = computed(() => Object.values(this.board().states).reduce((sum, links) => sum + links, 0));
  readonly underWay = computed(() => this.board().underWay);
  readonly underWayWords = computed(() => `${counted(this.underWay(), 'check')} under way`);
  readonly order = computed<LinkOrder>(() => (this.by() in orders ? (this.by() as LinkOrder) : 'place'));
  readonly chosenState = computed(() => states.find((state) => state === this.state()) ?? '');
  readonly chosenKind = computed(() => linkKindIds.find((kind) => kind === this.kind()) ?? '');
  /** Where there is one kind alone, there is nothing to choose. */
  readonly choosesKind = computed(() => this.chosenKind() !== '' || this.board().kinds.length > 1);
  readonly wish = computed<BoardWish>(() => ({
    find: this.find(),
    state: this.chosenState(),
    kind: this.chosenKind(),
    by: this.order(),
  }));
  readonly filtered = computed(() => this.find() !== '' || this.chosenState() !== '' || this.chosenKind() !== '');
  readonly opened = computed(() => this.open());
  private readonly placeOfOpened = computed(() => {
    const found = Object.entries(this.rows()).find(([, { id }]) => id === this.open());
    return found ? Number(found[0]) : -1;
  });
  readonly at = linkedSignal(() => Math.max(0, this.placeOfOpened()));

  constructor() {
    effect(() => {
      const wish = this.wish();
      untracked(() => this.store.dispatch(linkActions.look({ wish })));
    });
    const remove = inject(Keys).add({
      j: { does: 'move down', run: () => this.move(1) },
      k: { does: 'move up', run: () => this.move(-1) },
      Enter: { does: 'open the link', run: () => this.goTo() },
      x: { does: 'explain', run: () => this.toggle(this.at()) },
      c: { does: 'check the link now', run: () => this.checkAt() },
    });
    inject(DestroyRef).onDestroy(() => {
      remove();
      this.store.dispatch(linkActions.lookAway());
    });
  }

  reach({ from, to }: RowRange): void {
    this.store.dispatch(linkActions.reach({ from, to }));
  }

  toggle(place: number): void {
    const row = this.rows()[place];
    if (!row) return;
    this.at.set(place);
    this.go({ open: this.open() === row.id ? '' : row.id });
  }

  check(row: LinkRow): void {
    this.store.dispatch(linkActions.check({ linkIds: [row.id] }));
  }

  checkAll(): void {
    this.store.dispatch(
      linkActions.checkFitting({ find: this.find(), state: this.chosenState(), kind: this.chosenKind() }),
    );
  }

  cancelAll(): void {
    this.store.dispatch(linkActions.cancelAll());
  }

  exportCsv(): void {
    saveFrom(urlOf('exportLinks', { query: { ...fittingOf(this.wish()), by: this.order() } }));
  }

  private move(by: number): void {
    this.at.set(Math.min(this.fitting() - 1, Math.max(0, this.at() + by)));
    this.table()?.focus(this.at());
  }

  private goTo(): void {
    const row = this.rows()[this.at()];
    if (row) void this.router.navigate(['/links', row.id]);
  }

  private checkAt(): void {
    const row = this.rows()[this.at()];
    if (row && this.mayCheck() && row.checkId === null) this.check(row);
  }
}
