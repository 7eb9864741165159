import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { Tunnel, TunnelsView } from '@loyal-hinge/contract';
import { passagePlaces } from '../passage/passage-places';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { outpostActions, outpostsFeature } from './state';
import { TunnelForm } from './tunnel-form';
import { bytesText, endOf, roundTripText, stateTones, stateWords } from './outpost-words';

/** Tunnels, and whether they are up. */
@Component({
  selector: 'hinge-tunnels-page',
  imports: [Ledger, LedgerCell, PlaceHead, RouterLink, TunnelForm, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()">
        <button type="button" class="act" [disabled]="!mayChange()" (click)="add()">Add a tunnel</button>
      </hinge-place-head>
      @if (view(); as known) {
        @if (known.door.port === null) {
          <p class="notice">
            No end of a tunnel can reach this server, so none can be set up with a ticket.
            {{ known.door.says }}
          </p>
        }
        @if (editing() === 'new') {
          <hinge-tunnel-form [row]="null" />
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="known.tunnels"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any tunnel or machine"
          fileName="tunnels"
        >
          <span empty
            >A tunnel carries the sessions of many links through one port of the firewalls between two machines. What
            the links encrypt stays encrypted from client to server.</span
          >
          <ng-template hingeCell="name" [hingeCellOf]="known.tunnels" let-row>
            <a [routerLink]="['/passage/tunnels', row.id]">{{ row.name }}</a>
          </ng-template>
          <ng-template hingeCell="state" [hingeCellOf]="known.tunnels" let-row>
            <strong [class]="tones[row.state]">{{ words[row.state] }}</strong>
          </ng-template>
        </hinge-ledger>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
})
export class TunnelsPage {
  private readonly store = inject(Store);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(outpostsFeature.selectShown);
  readonly problem = this.store.selectSignal(outpostsFeature.selectProblem);
  readonly editing = this.store.selectSignal(outpostsFeature.selectEditing);
  readonly mayChange = may('engineer');
  readonly words = stateWords;
  readonly tones = stateTones;
  readonly headline = computed(() => headlineOf(this.view()));
  readonly idOf = ({ id }: Tunnel): string => id;
  readonly columns: readonly Column<Tunnel>[] = [
    { key: 'name', title: 'Tunnel', text: ({ name }) => name },
    { key: 'listens', title: 'Listens', text: (row) => endOf(row, 'listens')?.outpost.machine ?? '' },
    { key: 'dials', title: 'Dials', text: (row) => endOf(row, 'dials')?.outpost.machine ?? '' },
    { key: 'place', title: 'At', text: ({ address, port }) => `${address} port ${port}` },
    { key: 'state', title: 'State', text: ({ state }) => stateWords[state] },
    {
      key: 'links',
      title: 'Links',
      text: ({ links }) => String(links.length),
      order: ({ links }) => links.length,
    },
    {
      key: 'streams',
      title: 'Open streams',
      text: (row) => String(endOf(row, 'dials')?.statistics?.streams.open ?? '–'),
      order: (row) => endOf(row, 'dials')?.statistics?.streams.open ?? -1,
    },
    {
      key: 'carried',
      title: 'Carried',
      text: (row) => bytesText(carried(row)),
      order: carried,
    },
    {
      key: 'trip',
      title: 'Round trip',
      text: (row) => {
        const end = endOf(row, 'dials');
        return end ? roundTripText(end) : '–';
      },
      order: (row) => endOf(row, 'dials')?.statistics?.roundTripMs ?? -1,
    },
  ];

  constructor() {
    this.store.dispatch(outpostActions.show());
    effect((onCleanup) => onCleanup(() => untracked(() => this.store.dispatch(outpostActions.edit({ id: null })))));
  }

  add(): void {
    this.store.dispatch(outpostActions.edit({ id: 'new' }));
  }
}

const carried = (row: Tunnel): number => {
  const bytes = endOf(row, 'dials')?.statistics?.bytes;
  return bytes ? bytes.sent + bytes.received : 0;
};

function headlineOf(view: TunnelsView | null): string {
  if (!view) return 'Tunnels';
  const { length } = view.tunnels;
  if (length === 0) return 'There is no tunnel yet.';
  const down = view.tunnels.filter(({ state }) => state === 'down').length;
  const unset = view.tunnels.filter(({ state }) => state === 'unset').length;
  const first = byNumber(length, '1 tunnel', '# tunnels');
  if (down > 0) return `${first}, and ${byNumber(down, '1 is down', '# are down')}.`;
  return unset > 0
    ? `${first}, and ${byNumber(unset, '1 is not set up yet', '# are not set up yet')}.`
    : `${first}, ${length === 1 ? 'and it is up' : 'and all are up'}.`;
}
