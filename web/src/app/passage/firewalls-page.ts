import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { PlantService } from '@loyal-hinge/core';
import type { Conduit, Firewall, PassageView } from '@loyal-hinge/contract';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PlaceHead } from '../shell/place-head';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { ConduitForm } from './conduit-form';
import { ConduitLedger } from './conduit-ledger';
import { FirewallForm } from './firewall-form';
import { passagePlaces } from './passage-places';
import { RowActs } from './row-acts';
import { ServiceForm } from './service-form';
import { ServiceLedger } from './service-ledger';
import { passageActions, passageFeature } from './state';
import type { PassageEditing } from './state';

/** Firewalls with their rules, the conduits between zones, and the services that machines use. */
@Component({
  selector: 'hinge-firewalls-page',
  imports: [
    ConduitForm,
    ConduitLedger,
    FileButton,
    FirewallForm,
    Ledger,
    LedgerCell,
    Moment,
    PlaceHead,
    RouterLink,
    RowActs,
    ServiceForm,
    ServiceLedger,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-place-head [headline]="headline()" label="Passage" [places]="places" [problem]="problem()">
        <a class="act" href="/api/passage/document" download>Export</a>
        <hinge-file-button
          words="Import …"
          accept=".json"
          [mostBytes]="100_000_000"
          [disabled]="!mayChange()"
          (taken)="askToImport($event)"
        />
        <button type="button" class="act" [disabled]="!mayChange()" (click)="edit({ kind: 'firewall', id: null })">
          Add a firewall
        </button>
        <button type="button" class="act" [disabled]="!mayChange()" (click)="edit({ kind: 'conduit', id: null })">
          Add a conduit
        </button>
        <button type="button" class="act" [disabled]="!mayChange()" (click)="edit({ kind: 'service', id: null })">
          Add a service
        </button>
      </hinge-place-head>
      @if (view(); as known) {
        @if (editing(); as now) {
          @if (now.kind === 'firewall') {
            <hinge-firewall-form [view]="known" [row]="firewallOf(now)" />
          } @else if (now.kind === 'service') {
            <hinge-service-form [view]="known" [row]="serviceOf(now)" />
          } @else {
            <hinge-conduit-form [view]="known" [row]="conduitOf(now)" />
          }
        }
        <h2>Firewalls</h2>
        <hinge-ledger
          [columns]="columns"
          [rows]="known.firewalls"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any firewall"
          fileName="firewalls"
        >
          <span empty
            >Add the firewalls between zones, with the names that their interfaces have in their rules, and those of
            machines.</span
          >
          <ng-template hingeCell="name" [hingeCellOf]="known.firewalls" let-row>
            <a [routerLink]="['/passage/firewalls', row.id]">{{ row.name }}</a>
          </ng-template>
          <ng-template hingeCell="taken" [hingeCellOf]="known.firewalls" let-row>
            @if (row.rules) {
              <hinge-moment [at]="row.rules.takenAt" show="near" />
            } @else {
              <span class="weak">not yet</span>
            }
          </ng-template>
          <ng-template hingeCell="stopped" [hingeCellOf]="known.firewalls" let-row>
            <span [class.fails]="row.stopped > 0">{{ row.stopped }}</span>
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="known.firewalls" let-row>
            <hinge-row-acts
              [name]="row.name"
              (edited)="edit({ kind: 'firewall', id: row.id })"
              (removed)="removeFirewall(row)"
            />
          </ng-template>
        </hinge-ledger>
        <h2>Conduits</h2>
        <p class="faint">Which zone may open connections to which, and over which firewalls.</p>
        <hinge-conduit-ledger [view]="known" [find]="conduits()" />
        <h2>Services</h2>
        <p class="faint">What machines need of firewalls beside their links.</p>
        <hinge-service-ledger [view]="known" [find]="services()" />
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    h2 {
      margin: 1.2rem 0 0.4rem;
    }
    .fails {
      color: var(--fails);
      font-weight: 600;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
  `,
})
export class FirewallsPage {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly places = passagePlaces;
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly conduits = input('', { transform: fromAddress });
  readonly services = input('', { transform: fromAddress });
  readonly mayChange = may('engineer');
  readonly view = this.store.selectSignal(passageFeature.selectKnown);
  readonly editing = this.store.selectSignal(passageFeature.selectEditing);
  readonly problem = this.store.selectSignal(passageFeature.selectProblem);
  readonly headline = computed(() => headlineOf(this.view()));
  readonly idOf = ({ id }: { readonly id: string }): string => id;
  readonly columns: readonly Column<Firewall>[] = [
    { key: 'name', title: 'Firewall', text: ({ name }) => name },
    { key: 'place', title: 'Stands', text: (row) => this.placeOf(row) },
    {
      key: 'taken',
      title: 'Rules from',
      text: ({ rules }) => rules?.takenAt ?? 'not yet',
      order: ({ rules }) => rules?.takenAt ?? '',
    },
    {
      key: 'rules',
      title: 'Rules',
      text: ({ rules }) => String(rules?.rules ?? 0),
      order: ({ rules }) => rules?.rules ?? 0,
    },
    { key: 'links', title: 'Links over it', text: ({ links }) => String(links), order: ({ links }) => links },
    { key: 'stopped', title: 'Stopped', text: ({ stopped }) => String(stopped), order: ({ stopped }) => stopped },
  ];
  constructor() {
    this.store.dispatch(passageActions.show());
    effect((onCleanup) => onCleanup(() => untracked(() => this.store.dispatch(passageActions.editNoMore()))));
  }

  edit(editing: PassageEditing): void {
    this.store.dispatch(passageActions.edit({ editing }));
  }

  async askToImport([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const text = await file.text();
    this.ask.first({
      title: 'Import these firewalls?',
      says: `The firewalls, conduits and services of ${file.name} are added; one with the id of a known one changes that one. If anything in it is wrong, nothing is changed.`,
      does: 'Import',
      run: () => this.store.dispatch(passageActions.importDocument({ text })),
    });
  }

  firewallOf({ id }: PassageEditing): Firewall | null {
    return this.view()?.firewalls.find((each) => each.id === id) ?? null;
  }

  conduitOf({ id }: PassageEditing): Conduit | null {
    return this.view()?.conduits.find((each) => each.id === id) ?? null;
  }

  serviceOf({ id }: PassageEditing): PlantService | null {
    return this.view()?.services.find((each) => each.id === id) ?? null;
  }

  removeFirewall({ id, name }: Firewall): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'Its rules go with it, and nothing is changed at the firewall itself. Links are judged without it from then on.',
      does: 'Remove',
      run: () => this.store.dispatch(passageActions.removeFirewall({ id, name })),
    });
  }

  private placeOf({ machine, interfaces }: Firewall): string {
    if (machine !== null) return `on ${machine}`;
    return interfaces.map(({ zoneId }) => this.zoneName(zoneId)).join(', ');
  }

  private zoneName(id: string): string {
    return this.view()?.zones.find((zone) => zone.id === id)?.name ?? id;
  }
}

function headlineOf(view: PassageView | null): string {
  if (!view) return 'Firewalls and conduits';
  if (view.firewalls.length === 0) return 'No firewall is known yet.';
  const without = view.firewalls.filter(({ rules }) => rules === null).length;
  const known = byNumber(view.firewalls.length, '1 firewall is known', '# firewalls are known');
  return without === 0
    ? `${known}, ${byNumber(view.firewalls.length, 'with its rules', 'each with its rules')}.`
    : `${known}; the rules of ${byNumber(without, '1 are', '# are')} not.`;
}
