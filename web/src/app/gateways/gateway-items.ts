import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { GatewayItemsView, GatewaySource } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Pager } from '../shell/pager';
import { Waiting } from '../shell/waiting';
import { itemsAtOnce } from './effects';
import { ageText, statusText, statusTone, valueText } from './gateway-words';
import { gatewayActions, gatewaysFeature } from './state';

type Item = GatewayItemsView['items'][number];

/** The items of a gateway as it has them now: what their server says beside what is shown. */
@Component({
  selector: 'hinge-gateway-items',
  imports: [Ledger, LedgerCell, Pager, ProblemNotice, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem(); as told) {
      <hinge-problem [problem]="told" />
    }
    @if (items(); as known) {
      <hinge-ledger
        [columns]="columns()"
        [rows]="known.items"
        [total]="known.total"
        [idOf]="idOf"
        [find]="find()"
        (findChange)="wished.emit({ find: $event, at: '' })"
        what="any item"
        fileName="gateway-items"
      >
        <span empty>{{
          find() === '' ? 'It has no items yet: add a link from it to a server, with what it needs.' : 'No item fits.'
        }}</span>
        <ng-template hingeCell="path" [hingeCellOf]="known.items" let-row>
          {{ row.path }}<br /><a class="faint" [routerLink]="['/links', row.linkId]">{{ serverOf(row) }}</a>
        </ng-template>
        <ng-template hingeCell="shown" [hingeCellOf]="known.items" let-row>
          <strong>{{ value(row.shown) }}</strong>
          @if (status(row.shown); as says) {
            <br /><span [class]="tone(row.shown)">{{ says }}</span>
          }
        </ng-template>
      </hinge-ledger>
      <hinge-pager
        what="Items"
        [from]="from()"
        [shown]="known.items.length"
        [fitting]="known.total"
        [size]="size"
        (go)="wished.emit({ find: find(), at: $event })"
      />
    } @else if (!problem()) {
      <hinge-waiting />
    }
  `,
})
export class GatewayItems {
  private readonly store = inject(Store);
  readonly gatewayId = input.required<string>();
  readonly sources = input.required<readonly GatewaySource[]>();
  readonly find = input.required<string>();
  readonly from = input.required<number>();
  readonly wished = output<{ readonly find: string; readonly at: string }>();
  readonly items = this.store.selectSignal(gatewaysFeature.selectItemsShown);
  readonly problem = this.store.selectSignal(gatewaysFeature.selectItemsProblem);
  /** When what is shown came: ages are those of then. */
  private readonly at = signal(Date.now());
  readonly size = itemsAtOnce;
  readonly value = valueText;
  readonly status = statusText;
  readonly tone = statusTone;
  readonly idOf = ({ linkId, path }: Item): string => `${linkId} ${path}`;
  readonly serverOf = ({ linkId }: Item): string =>
    this.sources().find((source) => source.linkId === linkId)?.server ?? linkId;
  readonly columns = computed<readonly Column<Item>[]>(() => {
    const at = this.at();
    return [
      { key: 'path', title: 'Item at its server', text: ({ path }) => path },
      { key: 'place', title: 'Shown as', text: ({ place }) => place ?? 'only for relays' },
      { key: 'atSource', title: 'Its server says', text: ({ atSource }) => valueText(atSource) },
      { key: 'shown', title: 'Shown', text: ({ shown }) => valueText(shown) },
      {
        key: 'age',
        title: 'Age',
        text: ({ shown }) => ageText(shown, at),
        order: ({ shown }) => at - (shown.sourceTime ?? 0),
        short: true,
      },
      { key: 'writes', title: 'Written through it', text: ({ isWritable }) => (isWritable ? 'allowed' : 'no') },
    ];
  });

  constructor() {
    effect(() => {
      const wish = { find: this.find(), from: this.from() };
      this.gatewayId();
      untracked(() => this.store.dispatch(gatewayActions.lookAtItems({ wish })));
    });
    effect(() => {
      this.items();
      this.at.set(Date.now());
    });
  }
}
