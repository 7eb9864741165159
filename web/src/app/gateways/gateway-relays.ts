import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { GatewayView } from '@loyal-hinge/contract';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { onTheWay } from './gateway-words';
import { RelayForm } from './relay-form';
import { gatewayActions, gatewaysFeature } from './state';

type RelayOfView = GatewayView['relays'][number];

/** Items that get their values from others, and how that goes. */
@Component({
  selector: 'hinge-gateway-relays',
  imports: [FileButton, Ledger, LedgerCell, RelayForm, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header class="part-head">
      <h2>Items that get values from others</h2>
      <button type="button" class="act" [disabled]="!mayChange() || view().sources.length === 0" (click)="edit('new')">
        Give an item a value …
      </button>
      <hinge-file-button
        words="Import relays …"
        accept=".csv"
        [disabled]="!mayChange()"
        [mostBytes]="5000000"
        (taken)="take($event)"
      />
      <button type="button" class="act" [disabled]="view().relays.length === 0" (click)="save()">Export relays</button>
    </header>
    @if (editing() !== null) {
      <hinge-relay-form [gatewayId]="view().gateway.outpost.id" [sources]="view().sources" [row]="edited()" />
    }
    <hinge-ledger
      [columns]="columns"
      [rows]="view().relays"
      [idOf]="idOf"
      [plain]="view().relays.length < 12"
      what="any item"
      fileName="gateway-relays"
    >
      <span empty>No item gets its value from another one yet.</span>
      <ng-template hingeCell="to" [hingeCellOf]="view().relays" let-row>
        {{ row.to.path }}<br /><a class="faint" [routerLink]="['/links', row.to.linkId]">{{ serverOf(row.to) }}</a>
      </ng-template>
      <ng-template hingeCell="from" [hingeCellOf]="view().relays" let-row>
        {{ row.from.path }}<br /><a class="faint" [routerLink]="['/links', row.from.linkId]">{{
          serverOf(row.from)
        }}</a>
      </ng-template>
      <ng-template hingeCell="written" [hingeCellOf]="view().relays" let-row>
        {{ times(row) }}
        @if (row.says; as says) {
          <br /><span class="fails">{{ says }}</span>
        }
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="view().relays" let-row>
        <button type="button" class="act" [disabled]="!mayChange()" (click)="edit(row.id)">Change …</button>
        <button type="button" class="act" [disabled]="!mayChange()" (click)="remove(row)">Remove …</button>
      </ng-template>
    </hinge-ledger>
  `,
})
export class GatewayRelays {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly view = input.required<GatewayView>();
  readonly editing = this.store.selectSignal(gatewaysFeature.selectRelay);
  readonly edited = computed(() => this.view().relays.find(({ id }) => id === this.editing()) ?? null);
  readonly mayChange = may('engineer');
  readonly idOf = ({ id }: RelayOfView): string => id;
  readonly serverOf = ({ linkId }: RelayOfView['to']): string =>
    this.view().sources.find((source) => source.linkId === linkId)?.server ?? linkId;
  readonly times = ({ written }: RelayOfView): string =>
    written === 0 ? 'not yet' : written === 1 ? 'once' : `${written} times`;
  readonly columns: readonly Column<RelayOfView>[] = [
    { key: 'to', title: 'Item', text: ({ to }) => to.path },
    { key: 'from', title: 'Gets its value from', text: ({ from }) => from.path },
    { key: 'way', title: 'On the way', text: (row) => onTheWay(row) },
    {
      key: 'written',
      title: 'Written',
      text: (row) => `${this.times(row)}${row.says === null ? '' : `; ${row.says}`}`,
      order: ({ written }) => written,
    },
  ];

  edit(relayId: string): void {
    this.store.dispatch(gatewayActions.editRelay({ relayId }));
  }

  remove({ id: relayId, to }: RelayOfView): void {
    this.ask.first({
      title: `Give ${to.path} no value any more?`,
      says: 'It keeps the value that it has.',
      does: 'Remove',
      run: () =>
        this.store.dispatch(gatewayActions.command({ command: { does: 'remove relay', id: this.id(), relayId } })),
    });
  }

  save(): void {
    this.store.dispatch(gatewayActions.command({ command: { does: 'export relays', id: this.id() } }));
  }

  async take([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const csv = await file.text();
    this.store.dispatch(gatewayActions.command({ command: { does: 'import relays', id: this.id(), csv } }));
  }

  private readonly id = (): string => this.view().gateway.outpost.id;
}
