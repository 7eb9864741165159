import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { fromAddress } from '../shell/page-address';
import { Store } from '@ngrx/store';
import type { MenuItem } from 'primeng/api';
import { PlusIcon } from 'primeng/icons/plus';
import { Menu } from 'primeng/menu';
import { ProgressBar } from 'primeng/progressbar';
import { TabsModule } from 'primeng/tabs';
import { Ask } from '../shell/ask';
import { FileButton } from '../forms/file-button';
import { counted, signInNameOf, usualCalls } from '@loyal-hinge/core';
import { plantOrders } from '@loyal-hinge/contract';
import type { PlantView } from '@loyal-hinge/contract';
import type { Application, Link, Machine, Zone } from '@loyal-hinge/core';
import { FirstSteps } from '../first-steps/first-steps';
import { ProblemNotice } from '../http/problem-notice';
import { levelText } from '../forms/security-level';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import type { LookFor } from './forms/offered';
import { PartForm } from './part-form';
import { plantActions, plantFeature, selectImportProgress } from './state';
import type { Offered } from './forms/offered';
import type { LookUp, Editing, PlantPart, PlantRow, PlantWish } from './state';
import { Waiting } from '../shell/waiting';

const parts: readonly {
  readonly key: PlantPart;
  readonly word: string;
  readonly add: string;
  readonly empty: string;
}[] = [
  {
    key: 'machines',
    word: 'Machines',
    add: 'Add a machine',
    empty: 'Machines are the hosts of the plant, with their names and addresses. Add the first one, or import a file.',
  },
  {
    key: 'applications',
    word: 'Applications',
    add: 'Add an application',
    empty: 'Applications are the OPC clients and servers on the machines.',
  },
  {
    key: 'links',
    word: 'Links',
    add: 'Add a link',
    empty: 'Links are the client-server pairs that must be able to talk.',
  },
  { key: 'zones', word: 'Zones', add: 'Add a zone', empty: 'Zones group the machines, from the process outwards.' },
];

/** Everything that is known of the plant, as tables. */
@Component({
  selector: 'hinge-plant-page',
  imports: [
    Waiting,
    RouterLink,
    Ledger,
    LedgerCell,
    PartForm,
    ProblemNotice,
    FileButton,
    Menu,
    PlusIcon,
    ProgressBar,
    TabsModule,
    FirstSteps,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        <div class="actions">
          <a class="act" routerLink="/passage">Map</a>
          <a class="act" routerLink="/plant/devices">Devices</a>
          <a class="act" routerLink="/plant/discovery">Find servers</a>
          <button type="button" class="act" aria-haspopup="menu" (click)="exports.toggle($event)">Export …</button>
          <p-menu #exports [model]="exportable" [popup]="true" appendTo="body" />
          <hinge-file-button
            words="Import …"
            accept=".json,.csv"
            [mostBytes]="100_000_000"
            [disabled]="!mayChange()"
            (taken)="askToImport($event)"
          />
          <button type="button" class="act main" [disabled]="!mayChange() || !view()" (click)="add()">
            <svg data-p-icon="plus" aria-hidden="true"></svg>
            {{ chosen().add }}
          </button>
        </div>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (importingNow(); as far) {
        <p role="status">
          {{ far.says }}
          <p-progressbar
            [mode]="far.percent === null ? 'indeterminate' : 'determinate'"
            [value]="far.percent ?? 0"
            [showValue]="false"
          />
        </p>
      }
      <hinge-first-steps />
      <p-tabs [value]="chosen().key" (valueChange)="choose($event)">
        <p-tablist>
          @for (entry of parts; track entry.key) {
            <p-tab [value]="entry.key"
              >{{ entry.word }} <span class="faint">{{ view()?.counts?.[entry.key] ?? '' }}</span></p-tab
            >
          }
        </p-tablist>
        <p-tabpanels>
          @for (entry of parts; track entry.key) {
            <p-tabpanel [value]="entry.key">
              @if (entry.key === chosen().key) {
                @if (view(); as shown) {
                  <hinge-ledger
                    [columns]="columns()"
                    [rows]="rows()"
                    [find]="find()"
                    [empty]="chosen().empty"
                    [fileName]="chosen().key"
                    [total]="shown.fitting"
                    [from]="shown.from"
                    [looksElsewhere]="true"
                    (findChange)="go({ find: $event || null, from: null })"
                    (turned)="go({ from: $event === 0 ? null : $event.toString() })"
                  >
                    <ng-template hingeCell="acts" [hingeCellOf]="rows()" let-row>
                      <button type="button" class="plain" [disabled]="!mayChange()" (click)="edit(row.id)">
                        Change
                      </button>
                      <button type="button" class="plain" [disabled]="!mayChange()" (click)="askToRemove(row)">
                        Remove
                      </button>
                    </ng-template>
                  </hinge-ledger>
                } @else {
                  <hinge-waiting />
                }
              }
            </p-tabpanel>
          }
        </p-tabpanels>
      </p-tabs>
      @if (editing(); as form) {
        <hinge-part-form
          [editing]="form"
          [isSaving]="isSaving()"
          [problem]="formProblem()"
          [offered]="offered()"
          (lookFor)="lookFor($event)"
          (lookUp)="lookUp($event)"
          (left)="leaveEdit()"
          (saved)="save($event)"
        />
      }
    </div>
  `,
})
export class PlantPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly ask = inject(Ask);

  /** From the address. */
  readonly part = input('machines', { transform: (value: string | undefined) => value ?? 'machines' });
  readonly find = input('', { transform: fromAddress });
  /** `yes` opens the form for a new row, once. */
  readonly adding = input('', { transform: fromAddress });

  readonly parts = parts;
  readonly from = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(plantFeature.selectView);
  readonly importingNow = this.store.selectSignal(selectImportProgress);
  private readonly choices = this.store.selectSignal(plantFeature.selectChoices);
  /** As the table writes it into the address: a column, with “-” before it where it descends. */
  readonly sort = input('', { transform: fromAddress });
  readonly wish = computed<PlantWish>(() => ({
    part: this.chosen().key,
    find: this.find(),
    from: Math.max(0, Math.floor(Number(this.from())) || 0),
    by: plantOrders[this.chosen().key].find((key) => key === this.sort().replace(/^-/, '')) ?? '',
    descending: this.sort().startsWith('-') ? 'yes' : '',
  }));
  private readonly matches = this.store.selectSignal(plantFeature.selectMatches);
  readonly offered = computed<Offered>(() => {
    const view = this.view();
    const known = [...(view?.machines ?? []), ...(view?.applications ?? [])];
    const row = this.editing()?.row;
    const chosen = row ? [fieldIn(row, 'machineId'), fieldIn(row, 'clientId'), fieldIn(row, 'serverId')] : [];
    return {
      zones: view?.zones ?? [],
      choices: this.choices(),
      matches: this.matches(),
      known: known.filter(({ id }) => chosen.includes(id)).map(({ id, name }) => ({ key: id, word: name })),
    };
  });
  readonly problem = this.store.selectSignal(plantFeature.selectProblem);
  readonly formProblem = this.store.selectSignal(plantFeature.selectFormProblem);
  readonly isSaving = this.store.selectSignal(plantFeature.selectIsSaving);
  readonly editing = this.store.selectSignal(plantFeature.selectEditing);
  readonly mayChange = may('engineer');
  readonly exportable: MenuItem[] = [
    { label: 'The whole plant (JSON)', url: '/api/plant/document' },
    { label: 'The machines (CSV)', url: '/api/plant/machines.csv' },
  ];
  readonly chosen = computed(
    () =>
      parts.find(({ key }) => key === this.part()) ?? {
        key: 'machines' as const,
        word: 'Machines',
        add: 'Add a machine',
        empty: '',
      },
  );
  readonly rows = computed<readonly PlantRow[]>(() => {
    const view = this.view();
    const byId = new Map<string, PlantRow>((view?.[this.chosen().key] ?? []).map((row) => [row.id, row]));
    return (view?.ids ?? []).flatMap((id) => byId.get(id) ?? []);
  });
  readonly columns = computed(() => columnsOf(this.chosen().key, this.view()) as readonly Column<PlantRow>[]);
  readonly headline = computed(() => {
    const view = this.view();
    return view
      ? `${view.name}: ${counted(view.counts.machines, 'machine')} in ${counted(view.counts.zones, 'zone')}, ${counted(view.counts.links, 'link')}`
      : 'Plant';
  });
  constructor() {
    effect(() => {
      const wish = this.wish();
      untracked(() => this.store.dispatch(plantActions.look({ wish })));
    });
    effect(() => {
      if (this.adding() !== 'yes') return;
      untracked(() => this.add());
      this.go({ adding: null });
    });
  }

  choose(part: unknown): void {
    if (part !== this.chosen().key) this.go({ part: String(part), find: null, from: null });
  }

  go(queryParams: Readonly<Record<string, string | null>>): void {
    void this.router.navigate([], {
      queryParams,
      queryParamsHandling: 'merge',
      replaceUrl: 'find' in queryParams && !('part' in queryParams),
    });
  }

  lookUp = (wish: LookUp): void => this.store.dispatch(plantActions.lookUp({ wish }));

  lookFor(wish: LookFor): void {
    this.store.dispatch(plantActions.lookFor(wish));
  }

  add(): void {
    this.store.dispatch(plantActions.edit({ editing: { part: this.chosen().key, row: null } }));
  }

  edit(id: string): void {
    const editing = editingOf(this.chosen().key, this.view(), id);
    if (editing) this.store.dispatch(plantActions.edit({ editing }));
  }

  leaveEdit(): void {
    this.store.dispatch(plantActions.leaveEdit());
  }

  save(row: PlantRow): void {
    this.store.dispatch(plantActions.save({ part: this.chosen().key, row }));
  }

  askToRemove({ id, name }: PlantRow): void {
    const part = this.chosen().key;
    this.ask.first({
      title: `Remove “${name}”?`,
      says: 'It is removed from the plant. Its facts and its entries in the audit trail stay. Nothing is changed on a machine.',
      does: 'Remove',
      run: () => this.store.dispatch(plantActions.remove({ part, id })),
    });
  }

  async askToImport([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const text = await file.text();
    this.ask.first(
      file.name.endsWith('.csv')
        ? {
            title: 'Import these machines?',
            says: `The machines of ${file.name} are added; a machine with the id of a known one changes that one. If one row is wrong, none is imported.`,
            does: 'Import',
            run: () => this.store.dispatch(plantActions.importMachines({ text })),
          }
        : {
            title: 'Replace the whole plant?',
            says: `All zones, machines, applications and links are replaced by those in ${file.name}. If anything in it is wrong, nothing is changed. Export the present plant first.`,
            does: 'Import',
            run: () => this.store.dispatch(plantActions.importDocument({ text })),
          },
    );
  }
}

/** The row of a part, to be changed; null where it is not there any more. */
function editingOf(part: PlantPart, view: PlantView | null, id: string): Editing | null {
  const rowOf = <Row extends { readonly id: string }>(rows: readonly Row[] = []): Row | null =>
    rows.find((row) => row.id === id) ?? null;
  const editing: Record<PlantPart, Editing> = {
    zones: { part: 'zones', row: rowOf(view?.zones) },
    machines: { part: 'machines', row: rowOf(view?.machines) },
    applications: { part: 'applications', row: rowOf(view?.applications) },
    links: { part: 'links', row: rowOf(view?.links) },
  };
  return editing[part].row === null ? null : editing[part];
}

const fieldIn = (row: PlantRow, field: string): unknown => (row as unknown as Readonly<Record<string, unknown>>)[field];

function columnsOf(part: PlantPart, plant: PlantView | null): readonly Column<never>[] {
  const nameIn = (rows: readonly { id: string; name: string }[] | undefined, id: string): string =>
    rows?.find((row) => row.id === id)?.name ?? id;
  const columns = {
    zones: [
      { key: 'order', title: 'Position', text: (zone: Zone) => String(zone.order) },
      { key: 'name', title: 'Zone', text: (zone: Zone) => zone.name },
      {
        key: 'level',
        title: 'Target level',
        text: ({ targetLevel = null }: Zone) => levelText(targetLevel),
      },
      {
        key: 'machines',
        title: 'Machines',
        text: (zone: Zone) => String(plant?.machinesIn[zone.id] ?? 0),
      },
    ],
    machines: [
      { key: 'name', title: 'Machine', text: (machine: Machine) => machine.name, short: true },
      { key: 'zone', title: 'Zone', text: (machine: Machine) => nameIn(plant?.zones, machine.zoneId), short: true },
      { key: 'hostNames', title: 'Host names', text: (machine: Machine) => machine.hostNames.join(' '), mono: true },
      { key: 'addresses', title: 'Addresses', text: (machine: Machine) => machine.addresses.join(' '), mono: true },
      { key: 'description', title: 'Description', text: (machine: Machine) => machine.description },
    ],
    applications: [
      { key: 'name', title: 'Application', text: (application: Application) => application.name },
      { key: 'kind', title: 'Kind', text: (application: Application) => application.kind },
      {
        key: 'machine',
        title: 'Machine',
        text: (application: Application) => nameIn(plant?.machines, application.machineId),
      },
      {
        key: 'uri',
        title: 'Application URI',
        text: (application: Application) => application.applicationUri,
        mono: true,
      },
      {
        key: 'more',
        title: 'Ports or policies',
        text: (application: Application) =>
          application.kind === 'server' ? application.ports.join(' ') : application.securityPolicies.join(' '),
        mono: true,
      },
    ],
    links: [
      { key: 'name', title: 'Link', text: (link: Link) => link.name },
      { key: 'url', title: 'Endpoint URL', text: (link: Link) => link.endpointUrl, mono: true },
      {
        key: 'identity',
        title: 'Signs in',
        text: ({ identity }: Link) => (identity.kind === 'anonymous' ? 'anonymously' : `as ${signInNameOf(identity)}`),
      },
      { key: 'floor', title: 'Must be', text: floorText },
      { key: 'needs', title: 'Needs', text: (link: Link) => link.needs.map((item) => item.path).join(', ') },
    ],
  };
  return columns[part] as unknown as readonly Column<never>[];
}

/** The least security of a link, or the level of a classic one. */
const floorText = ({ kind, floor, classic }: Link): string =>
  kind === 'classic' ? `at level ${(classic ?? usualCalls).level}` : floor === 'any' ? 'anything' : floor;
