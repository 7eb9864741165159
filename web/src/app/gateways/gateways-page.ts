import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { Gateway, GatewaysView } from '@loyal-hinge/contract';
import { passagePlaces } from '../passage/passage-places';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { GatewayForm } from './gateway-form';
import { stateTones, stateWords } from './gateway-words';
import { gatewayActions, gatewaysFeature } from './state';

/** Gateways, and whether they run. */
@Component({
  selector: 'hinge-gateways-page',
  imports: [GatewayForm, Ledger, LedgerCell, PlaceHead, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()">
        <button type="button" class="act" [disabled]="!mayChange()" (click)="add()">Add a gateway</button>
      </hinge-place-head>
      @if (view(); as known) {
        @if (known.door.port === null) {
          <p class="notice">
            No gateway can reach this server, so none can be set up with a ticket.
            {{ known.door.says }}
          </p>
        }
        @if (editing() === 'new') {
          <hinge-gateway-form [row]="null" [machines]="known.machines" />
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="known.gateways"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any gateway or machine"
          fileName="gateways"
        >
          <span empty
            >A gateway reads servers and shows their items by a server of its own, with the last value while a line is
            broken. It can also give items the values of others.</span
          >
          <ng-template hingeCell="name" [hingeCellOf]="known.gateways" let-row>
            <a [routerLink]="['/passage/gateways', row.outpost.id]">{{ row.outpost.name }}</a>
          </ng-template>
          <ng-template hingeCell="state" [hingeCellOf]="known.gateways" let-row>
            <strong [class]="tones[row.state]">{{ words[row.state] }}</strong>
          </ng-template>
        </hinge-ledger>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
})
export class GatewaysPage {
  private readonly store = inject(Store);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(gatewaysFeature.selectShown);
  readonly problem = this.store.selectSignal(gatewaysFeature.selectProblem);
  readonly editing = this.store.selectSignal(gatewaysFeature.selectEditing);
  readonly mayChange = may('engineer');
  readonly words = stateWords;
  readonly tones = stateTones;
  readonly headline = computed(() => headlineOf(this.view()));
  readonly idOf = ({ outpost: { id } }: Gateway): string => id;
  readonly columns: readonly Column<Gateway>[] = [
    { key: 'name', title: 'Gateway', text: ({ outpost }) => outpost.name },
    { key: 'machine', title: 'Runs on', text: ({ outpost }) => outpost.machine },
    { key: 'place', title: 'Clients dial', text: ({ address, port }) => `${address} port ${port}` },
    { key: 'state', title: 'State', text: ({ state }) => stateWords[state] },
    {
      key: 'sources',
      title: 'Servers read',
      text: ({ sources, sourcesThere }) => (sources === 0 ? 'none yet' : `${sourcesThere} of ${sources}`),
      order: ({ sourcesThere }) => sourcesThere,
    },
    { key: 'items', title: 'Items shown', text: ({ items }) => String(items), order: ({ items }) => items },
    { key: 'relays', title: 'Relays', text: ({ relays }) => String(relays), order: ({ relays }) => relays },
  ];

  constructor() {
    this.store.dispatch(gatewayActions.show());
    effect((onCleanup) => onCleanup(() => untracked(() => this.store.dispatch(gatewayActions.edit({ id: null })))));
  }

  add(): void {
    this.store.dispatch(gatewayActions.edit({ id: 'new' }));
  }
}

function headlineOf(view: GatewaysView | null): string {
  if (!view) return 'Gateways';
  const { length } = view.gateways;
  if (length === 0) return 'There is no gateway yet.';
  const first = byNumber(length, '1 gateway', '# gateways');
  const count = (...states: readonly Gateway['state'][]): number =>
    view.gateways.filter(({ state }) => states.includes(state)).length;
  const [faulty, unset] = [count('differs', 'away'), count('unset')];
  if (faulty > 0)
    return `${first}, and ${byNumber(faulty, '1 does not do what it shall', '# do not do what they shall')}.`;
  if (unset > 0) return `${first}, and ${byNumber(unset, '1 is not set up yet', '# are not set up yet')}.`;
  return `${first}, ${length === 1 ? 'and it runs' : 'and all run'}.`;
}
