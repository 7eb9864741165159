import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { Tunnel, TunnelChoices, TunnelView, TunnelledLink } from '@loyal-hinge/contract';
import { passagePlaces } from '../passage/passage-places';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { OutpostSheet } from './outpost-forms';
import { LeadForm } from './lead-form';
import { outpostActions, outpostsFeature } from './state';
import { TunnelEndPanel } from './tunnel-end';
import { TunnelForm } from './tunnel-form';
import { TunnelHistory } from './tunnel-history';
import { endOf } from './outpost-words';

/** A tunnel: its ends, what goes through, the links that do, and those that could. */
@Component({
  selector: 'hinge-tunnel-page',
  imports: [
    LeadForm,
    Ledger,
    LedgerCell,
    OutpostSheet,
    PlaceHead,
    RouterLink,
    TunnelEndPanel,
    TunnelForm,
    TunnelHistory,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()">
        @if (view(); as known) {
          <button type="button" class="act" [disabled]="!mayChange()" (click)="propose('propose')">
            Propose a work order
          </button>
          <button type="button" class="act" [disabled]="!mayChange()" (click)="propose('propose taking down')">
            Propose taking it down
          </button>
          <button type="button" class="act" [disabled]="!mayChange()" (click)="change()">Change …</button>
          <button type="button" class="act" [disabled]="!mayChange()" (click)="remove(known.tunnel)">Remove …</button>
        }
      </hinge-place-head>
      @if (view(); as known) {
        @if (editing() === known.tunnel.id) {
          <hinge-tunnel-form [row]="known.tunnel" />
        }
        <hinge-outpost-sheet [outposts]="outposts()" />
        <div class="ends">
          @for (end of known.tunnel.ends; track end.side) {
            <hinge-tunnel-end [end]="end" />
          }
        </div>
        <hinge-tunnel-history [history]="known.history" [names]="names()" />
        <h2>Links through it</h2>
        <hinge-ledger
          [columns]="columns"
          [rows]="known.tunnel.links"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any link"
          fileName="links-through-tunnel"
        >
          <span empty>No link goes through this tunnel yet. Choose one below.</span>
          <ng-template hingeCell="link" [hingeCellOf]="known.tunnel.links" let-row>
            <a [routerLink]="['/links', row.linkId]">{{ row.link }}</a>
          </ng-template>
          <ng-template hingeCell="state" [hingeCellOf]="known.tunnel.links" let-row>
            <strong [class]="toneOf(row)">{{ row.state ?? 'Untried' }}</strong>
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="known.tunnel.links" let-row>
            <button type="button" class="act" [disabled]="!mayChange()" (click)="leadStraight(row)">
              Connect directly
            </button>
          </ng-template>
        </hinge-ledger>
        <h2>Links that could go through it</h2>
        @if (leading(); as chosen) {
          <hinge-lead-form [tunnelId]="known.tunnel.id" [other]="chosen" (left)="go({ lead: '' })" />
        }
        @if (otherLinks(); as others) {
          <hinge-ledger
            [columns]="otherColumns"
            [rows]="others"
            [idOf]="idOf"
            [plain]="others.length < 12"
            what="any link"
            fileName="links-beside-tunnel"
          >
            <span empty
              >No other link has its client at one end and its server at the other: on the machines of the ends, or in
              their zones. Classic OPC can’t go through one port.</span
            >
            <ng-template hingeCell="link" [hingeCellOf]="others" let-row>
              <a [routerLink]="['/links', row.linkId]">{{ row.link }}</a>
            </ng-template>
            <ng-template hingeCell="acts" [hingeCellOf]="others" let-row>
              <button type="button" class="act" [disabled]="!mayChange()" (click)="go({ lead: row.linkId })">
                Use the tunnel …
              </button>
            </ng-template>
          </hinge-ledger>
        } @else {
          <hinge-waiting />
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .ends {
      display: grid;
      grid-template-columns: repeat(2, minmax(0, 1fr));
      gap: 0.9rem;
    }
    h2 {
      margin-top: 1.1rem;
    }
  `,
})
export class TunnelPage {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly tunnelId = input.required<string>();
  readonly find = input('', { transform: fromAddress });
  /** The link that is to go through it, while its entrance is chosen. */
  readonly lead = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(outpostsFeature.selectOneShown);
  readonly problem = this.store.selectSignal(outpostsFeature.selectProblem);
  readonly editing = this.store.selectSignal(outpostsFeature.selectEditing);
  readonly mayChange = may('engineer');
  readonly headline = computed(() => headlineOf(this.view()));
  readonly idOf = ({ linkId }: { readonly linkId: string }): string => linkId;
  readonly outposts = computed(() => this.view()?.tunnel.ends.map(({ outpost }) => outpost) ?? []);
  private readonly choices = this.store.selectSignal(outpostsFeature.selectChoicesShown);
  readonly otherLinks = computed(() => this.choices()?.otherLinks ?? null);
  readonly leading = computed(() => this.otherLinks()?.find(({ linkId }) => linkId === this.lead()) ?? null);
  readonly names = computed(() => {
    const tunnel = this.view()?.tunnel;
    const nameOf = (side: 'listens' | 'dials'): string => (tunnel && endOf(tunnel, side)?.outpost.machine) ?? '';
    return { listens: nameOf('listens'), dials: nameOf('dials') };
  });
  readonly columns: readonly Column<TunnelledLink>[] = [
    { key: 'link', title: 'Link', text: ({ link }) => link },
    {
      key: 'entrance',
      title: 'Its client dials',
      text: ({ entranceAddress, entrancePort }) => `${entranceAddress} port ${entrancePort}`,
    },
    {
      key: 'target',
      title: 'The far end dials',
      text: ({ targetAddress, targetPort }) => `${targetAddress} port ${targetPort}`,
    },
    { key: 'state', title: 'Link is', text: ({ state }) => state ?? 'Untried' },
  ];
  readonly otherColumns: readonly Column<TunnelChoices['otherLinks'][number]>[] = [
    { key: 'link', title: 'Link', text: ({ link }) => link },
    {
      key: 'ports',
      title: 'Ports open for it now',
      text: ({ openPorts }) => (openPorts === 0 ? 'no firewall between' : String(openPorts)),
      order: ({ openPorts }) => openPorts,
    },
    {
      key: 'entrance',
      title: 'Its client would dial',
      text: ({ entranceAddress, entrancePort }) => `${entranceAddress} port ${entrancePort}`,
    },
  ];
  readonly toneOf = ({ state }: TunnelledLink): string =>
    state === 'Sound' ? 'holds' : state === 'Strained' ? 'weak' : state === 'Parted' ? 'fails' : 'unknown';

  constructor() {
    effect((onCleanup) => {
      const tunnelId = this.tunnelId();
      untracked(() => this.store.dispatch(outpostActions.lookAt({ tunnelId })));
      onCleanup(() => untracked(() => this.store.dispatch(outpostActions.leave())));
    });
  }

  propose(does: 'propose' | 'propose taking down'): void {
    this.store.dispatch(outpostActions.command({ command: { does, id: this.tunnelId() } }));
  }

  change(): void {
    this.store.dispatch(outpostActions.edit({ id: this.tunnelId() }));
  }

  remove({ id, name, links }: Tunnel): void {
    const led = byNumber(links.length, '1 link goes', '# links go');
    this.ask.first({
      title: `Remove ${name}?`,
      says: `Ends that are connected to this server stop at once; stop the others on their machines.${links.length === 0 ? '' : ` ${led} directly again, and need their own openings.`}`,
      does: 'Remove',
      run: () => this.store.dispatch(outpostActions.command({ command: { does: 'remove', id, name } })),
    });
  }

  leadStraight({ linkId, link }: TunnelledLink): void {
    this.ask.first({
      title: `Connect ${link} directly?`,
      says: 'Its entrance is closed at once, and sessions through it end. Its client must dial the server itself again.',
      does: 'Connect directly',
      run: () =>
        this.store.dispatch(
          outpostActions.command({ command: { does: 'lead straight', id: this.tunnelId(), link, linkId } }),
        ),
    });
  }
}

function headlineOf(view: TunnelView | null): string {
  if (!view) return 'Tunnel';
  const { name, state, says, links } = view.tunnel;
  const through =
    links.length === 0
      ? 'no link goes through it'
      : byNumber(links.length, '1 link goes through it', '# links go through it');
  return state === 'up'
    ? `${name} is up; ${through}.`
    : `${name} is ${state === 'down' ? 'down' : 'not set up yet'}. ${says ?? ''}`;
}
