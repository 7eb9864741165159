import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { MappingChange } from '@loyal-hinge/core';
import { conventionWords, sayForm, tableShapes } from '@loyal-hinge/core/field';
import type { ItemOrigin } from '@loyal-hinge/core/field';
import type { LinkDetail } from '@loyal-hinge/contract';
import { orderActions } from '../orders/state';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { OriginForm } from './origin-form';
import { PatternForm } from './pattern-form';
import { fieldActions, fieldFeature } from './state';

type Behind = LinkDetail['behind'][number];

const standings = [
  { key: 'all', word: 'are served', fits: () => true },
  { key: 'differ', word: 'differ', fits: ({ agrees }: Behind) => agrees === false },
  { key: 'unstated', word: 'have no origin yet', fits: ({ origin }: Behind) => origin === null },
] as const;

/** Behind the server: where the values of a link’s items come from, and what the device says beside what the server gives. */
@Component({
  selector: 'hinge-link-origins',
  imports: [ChoiceField, Ledger, LedgerCell, OriginForm, PatternForm, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Behind the server</h2>
    <hinge-ledger
      [columns]="columns"
      [rows]="shown()"
      [idOf]="idOf"
      [plain]="told().behind.length < 2"
      [total]="told().behind.length"
      [(find)]="find"
      what="item, device, register"
      name="origins"
      fileName="behind-the-server"
      empty="None of them."
    >
      <hinge-choice
        word="that"
        label="Which items are shown"
        [choices]="standings"
        [chosen]="standing()"
        (chose)="show($event)"
      />
      <ng-template hingeCell="item" [hingeCellOf]="shown()" let-row>
        <span class="mono item">{{ row.path }}</span>
      </ng-template>
      <ng-template hingeCell="served" [hingeCellOf]="shown()" let-row>
        <span class="mono value" [class.differs]="row.agrees === false">{{ row.served ?? '–' }}</span>
      </ng-template>
      <ng-template hingeCell="atDevice" [hingeCellOf]="shown()" let-row>
        <span class="mono value" [class.differs]="row.agrees === false">{{ row.atDevice ?? '–' }}</span>
      </ng-template>
      <ng-template hingeCell="from" [hingeCellOf]="shown()" let-row>
        @if (row.origin; as origin) {
          @if (row.device) {
            <a [routerLink]="['/plant/devices', origin.deviceId]">{{ row.device }}</a>, {{ placeOf(origin) }}
          } @else {
            a machine that the plant does not have, {{ placeOf(origin) }}
          }
          <div class="faint">{{ sayForm(origin.form) }}</div>
          @if (row.agrees === false) {
            <div class="differs">The two differ.</div>
            @if (row.mapping; as change) {
              <button type="button" class="act" [disabled]="!mayChange()" (click)="propose(change)">
                Propose a work order
              </button>
            }
          }
        } @else {
          <span class="faint">not stated</span>
        }
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="shown()" let-row>
        <button type="button" class="plain" [disabled]="!mayChange()" (click)="edit(row.path)">
          {{ row.origin ? 'Change …' : 'State …' }}
        </button>
        <a class="plain" [routerLink]="['/links', told().link.id, 'register']" [queryParams]="{ path: row.path }"
          >Find …</a
        >
        @if (row.origin) {
          <button type="button" class="plain" [disabled]="!mayChange()" (click)="like.set(row)">Many alike …</button>
          <button type="button" class="plain" [disabled]="!mayChange() || busy()" (click)="remove(row.path)">
            Remove
          </button>
        }
      </ng-template>
    </hinge-ledger>
    @if (like(); as row) {
      <hinge-pattern-form [told]="told()" [like]="row" (left)="like.set(null)" />
    }
    @if (editing(); as path) {
      <hinge-origin-form [told]="told()" [path]="path" />
    }
  `,
  styles: `
    :host {
      display: block;
      margin: 1.4rem 0 1.2rem;
    }
    h2 {
      margin-bottom: 0.4rem;
    }
    .value {
      white-space: nowrap;
    }
    /* Long names break, and none within a short word. */
    .item {
      display: block;
      min-width: 12rem;
      overflow-wrap: anywhere;
    }
    .differs {
      color: var(--fails);
    }
  `,
})
export class LinkOrigins {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly told = input.required<LinkDetail>();
  readonly mayChange = may('engineer');
  /** The item like which others are stated. */
  readonly like = signal<Behind | null>(null);
  readonly find = signal('');
  readonly standing = signal('all');
  readonly standings = standings;
  readonly shown = computed(() =>
    this.told().behind.filter(standings.find(({ key }) => key === this.standing())?.fits ?? standings[0].fits),
  );
  readonly editing = this.store.selectSignal(fieldFeature.selectEditing);
  readonly busy = this.store.selectSignal(fieldFeature.selectBusy);
  readonly sayForm = sayForm;

  readonly idOf = ({ path }: Behind): string => path;
  show = (standing: string): void => this.standing.set(standing);

  placeOf({ port, unit, table, address, convention }: ItemOrigin): string {
    const counted = convention.endsWith('digit') ? '' : ` (${conventionWords[convention]})`;
    return `port ${port}, unit ${unit}, ${tableShapes[table].one} ${address}${counted}`;
  }

  readonly columns: readonly Column<Behind>[] = [
    { key: 'item', title: 'Item', text: ({ path }) => path },
    { key: 'served', title: 'At the server', text: ({ served }) => served ?? '' },
    { key: 'atDevice', title: 'At the device', text: ({ atDevice }) => atDevice ?? '' },
    {
      key: 'from',
      title: 'Comes from',
      text: ({ origin, device }) =>
        origin === null ? 'not stated' : `${device ?? ''}, ${this.placeOf(origin)}, ${sayForm(origin.form)}`,
    },
    {
      key: 'agrees',
      title: 'Agrees',
      text: ({ agrees }) => (agrees === null ? '' : agrees ? 'yes' : 'no'),
      onlySaved: true,
    },
  ];

  edit(path: string): void {
    this.store.dispatch(fieldActions.edit({ path }));
  }

  /** Whoever may set what the server reads does it by the work order; the next check proves it. */
  propose(change: MappingChange): void {
    const { link, server } = this.told();
    const why = `${change.path} is another value at ${server.application} than at its device: the server reads ${change.before}.`;
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `Set the register of ${change.path} at ${server.application}`,
          lines: [{ change, why, linkIds: [link.id] }],
        },
      }),
    );
  }

  remove(path: string): void {
    const { link } = this.told();
    this.ask.first({
      title: 'Remove the origin',
      says: `The plant then no longer states where ${path} comes from, and checks end at the server.`,
      does: 'Remove',
      run: () => this.store.dispatch(fieldActions.remove({ linkId: link.id, serverId: link.serverId, path })),
    });
  }
}
