import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { GatewayReader, GatewaySource, GatewayView } from '@loyal-hinge/contract';
import { OutpostSheet } from '../outposts/outpost-forms';
import { outpostActions, outpostsFeature } from '../outposts/state';
import { passagePlaces } from '../passage/passage-places';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { GatewayForm } from './gateway-form';
import { GatewayItems } from './gateway-items';
import { GatewayPlaces } from './gateway-places';
import { GatewayProcess } from './gateway-process';
import { GatewayRelays } from './gateway-relays';
import { sourceTones, sourceWords } from './gateway-words';
import { gatewayActions, gatewaysFeature } from './state';

/** A gateway: its process, the servers that it reads, who reads from it, its relays and its items. */
@Component({
  selector: 'hinge-gateway-page',
  imports: [
    GatewayForm,
    GatewayItems,
    GatewayPlaces,
    GatewayProcess,
    GatewayRelays,
    Ledger,
    LedgerCell,
    OutpostSheet,
    PlaceHead,
    RouterLink,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()">
        @if (view(); as known) {
          <button type="button" class="act" [disabled]="!mayChange()" (click)="change()">Change …</button>
          <button type="button" class="act" [disabled]="!mayChange()" (click)="remove(known)">Remove …</button>
        }
      </hinge-place-head>
      @if (view(); as known) {
        @if (editing() === known.gateway.outpost.id) {
          <hinge-gateway-form [row]="known.gateway" [machines]="known.machines" />
        }
        <hinge-outpost-sheet [outposts]="outposts()" />
        <hinge-gateway-process [view]="known" />
        <h2>Servers that it reads</h2>
        <hinge-ledger
          [columns]="sourceColumns"
          [rows]="known.sources"
          [idOf]="idOf"
          [plain]="known.sources.length < 12"
          what="any server"
          fileName="gateway-servers"
        >
          <span empty
            >It reads no server yet. Add a link from {{ known.gateway.outpost.name }} to a server on the page
            <a routerLink="/plant" [queryParams]="{ part: 'links' }">Plant</a>, with the items that are needed, and
            check it.</span
          >
          <ng-template hingeCell="server" [hingeCellOf]="known.sources" let-row>
            <a [routerLink]="['/links', row.linkId]">{{ row.server }}</a>
          </ng-template>
          <ng-template hingeCell="state" [hingeCellOf]="known.sources" let-row>
            <strong [class]="tones[row.state]">{{ words[row.state] }}</strong>
            @if (row.says; as says) {
              <br />{{ says }}
            }
          </ng-template>
        </hinge-ledger>
        <h2>Items</h2>
        <hinge-gateway-items
          [gatewayId]="gatewayId()"
          [sources]="known.sources"
          [find]="find()"
          [from]="from()"
          (wished)="go($event)"
        />
        <hinge-gateway-relays [view]="known" />
        <h2>Who reads from it</h2>
        <hinge-ledger
          [columns]="readerColumns"
          [rows]="known.readers"
          [idOf]="idOf"
          [plain]="known.readers.length < 12"
          what="any client"
          fileName="gateway-readers"
        >
          <span empty
            >Nobody may read from it yet. Add a link from a client to {{ known.gateway.outpost.name }} on the page
            <a routerLink="/plant" [queryParams]="{ part: 'links' }">Plant</a>.</span
          >
          <ng-template hingeCell="client" [hingeCellOf]="known.readers" let-row>
            <a [routerLink]="['/links', row.linkId]">{{ row.client }}</a>
          </ng-template>
          <ng-template hingeCell="says" [hingeCellOf]="known.readers" let-row>
            @if (row.says; as says) {
              <strong class="weak">no</strong>; {{ says }}
            } @else {
              <strong class="holds">yes</strong>
            }
          </ng-template>
        </hinge-ledger>
        <hinge-gateway-places [view]="known" />
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    h2 {
      margin: 1.1rem 0 0.4rem;
    }
  `,
})
export class GatewayPage {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly gatewayId = input.required<string>();
  readonly find = input('', { transform: fromAddress });
  /** The first item that is shown, from 0. */
  readonly at = input('', { transform: fromAddress });
  readonly from = computed(() => Math.max(0, Math.floor(Number(this.at())) || 0));
  readonly view = this.store.selectSignal(gatewaysFeature.selectOneShown);
  private readonly own = this.store.selectSignal(gatewaysFeature.selectProblem);
  private readonly ofOutpost = this.store.selectSignal(outpostsFeature.selectProblem);
  readonly problem = computed(() => this.own() ?? this.ofOutpost());
  readonly editing = this.store.selectSignal(gatewaysFeature.selectEditing);
  readonly mayChange = may('engineer');
  readonly words = sourceWords;
  readonly tones = sourceTones;
  readonly headline = computed(() => headlineOf(this.view()));
  readonly outposts = computed(() => {
    const view = this.view();
    return view ? [view.gateway.outpost] : [];
  });
  readonly idOf = ({ linkId }: { readonly linkId: string }): string => linkId;
  readonly sourceColumns: readonly Column<GatewaySource>[] = [
    { key: 'server', title: 'Server', text: ({ server }) => server },
    {
      key: 'state',
      title: 'State',
      text: ({ state, says }) => `${sourceWords[state]}${says === null ? '' : `: ${says}`}`,
    },
    { key: 'endpoint', title: 'Dialled at', text: ({ endpoint }) => endpoint ?? '–' },
    { key: 'items', title: 'Items', text: ({ items }) => String(items), order: ({ items }) => items },
    { key: 'changes', title: 'Changes', text: ({ changes }) => String(changes), order: ({ changes }) => changes },
    { key: 'events', title: 'Events', text: ({ events }) => String(events), order: ({ events }) => events },
    { key: 'returns', title: 'Came back', text: ({ returns }) => String(returns), order: ({ returns }) => returns },
  ];
  readonly readerColumns: readonly Column<GatewayReader>[] = [
    { key: 'client', title: 'Client', text: ({ client }) => client },
    {
      key: 'as',
      title: 'Signs in',
      text: ({ signsInAs }) => (signsInAs === '' ? 'anonymously' : `as “${signsInAs}”`),
    },
    { key: 'writes', title: 'May write', text: ({ mayWrite }) => (mayWrite ? 'where a place allows it' : 'no') },
    { key: 'says', title: 'Is let in', text: ({ says }) => (says === null ? 'yes' : `no: ${says}`) },
  ];

  constructor() {
    effect((onCleanup) => {
      const gatewayId = this.gatewayId();
      untracked(() => {
        this.store.dispatch(gatewayActions.lookAt({ gatewayId }));
        this.store.dispatch(outpostActions.findSigner());
      });
      onCleanup(() =>
        untracked(() => {
          this.store.dispatch(gatewayActions.leave());
          this.store.dispatch(outpostActions.leave());
        }),
      );
    });
  }

  change(): void {
    this.store.dispatch(gatewayActions.edit({ id: this.gatewayId() }));
  }

  remove({ gateway: { outpost } }: GatewayView): void {
    const { id, name } = outpost;
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'Its process holds nothing from then on, and whoever reads from it is cut off. Its links must be removed first.',
      does: 'Remove',
      run: () => this.store.dispatch(gatewayActions.command({ command: { does: 'remove', id, name } })),
    });
  }
}

function headlineOf(view: GatewayView | null): string {
  if (!view) return 'Gateway';
  const { outpost, state, says, items, sources, sourcesThere } = view.gateway;
  if (state === 'told') return `${outpost.name} is being told what has changed.`;
  if (state === 'unset') return `${outpost.name} is not set up yet. ${says ?? ''}`;
  if (state !== 'runs') return `${outpost.name} does not do what it shall. ${says ?? ''}`;
  const shown = byNumber(items, '1 item is shown', '# items are shown');
  if (sources === 0) return `${outpost.name} runs, and reads no server yet.`;
  return sourcesThere < sources
    ? `${outpost.name} runs; ${byNumber(sources - sourcesThere, '1 of its servers is not read', '# of its servers are not read')}.`
    : `${outpost.name} runs; ${shown}.`;
}
