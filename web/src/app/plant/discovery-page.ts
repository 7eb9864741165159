import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import { discoveryWish } from '@loyal-hinge/contract';
import type { FoundServerView } from '@loyal-hinge/contract';
import { FirstSteps } from '../first-steps/first-steps';
import { contractForm, isComplete } from '../forms/contract-form';
import { lines, linesOf } from '../forms/lines';
import { SwitchField } from '../forms/switch-field';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { FoundDevices } from './found-devices';
import type { DeviceProposal } from './found-devices';
import { plantActions, plantFeature } from './state';
import { PagePath } from '../shell/path';
import { Message } from 'primeng/message';

const wish = discoveryWish.shape;
const blanks = /[\s,]+/;
const ranks = { new: 0, differs: 1, known: 2 } as const;

/** Looks for servers: what is found is proposed for the plant, and never added by itself. */
@Component({
  selector: 'hinge-discovery-page',
  imports: [
    Message,
    PagePath,
    ReactiveFormsModule,
    SwitchField,
    TextField,
    ProblemNotice,
    FoundDevices,
    Ledger,
    LedgerCell,
    Moment,
    FirstSteps,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-path above="Plant" way="/plant" here="Find servers" />
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        @if (state()?.running) {
          <div class="actions">
            <span class="faint" role="status">{{ state()?.done }} of {{ state()?.total }} places checked</span>
            <button type="button" class="act" (click)="stop()">Stop</button>
          </div>
        }
      </header>
      <hinge-problem [problem]="problem()" />
      <hinge-first-steps />
      <form [formGroup]="form" (ngSubmit)="begin($event)">
        <hinge-text
          label="Ask discovery servers"
          kind="lines"
          [rows]="2"
          placeholder="opc.tcp://names.works.example:4840"
          [control]="form.controls.discoveryUrls"
        >
          <small class="faint">One endpoint URL a line. Asked for FindServers and FindServersOnNetwork.</small>
        </hinge-text>
        <hinge-text
          label="Dial addresses"
          kind="lines"
          [rows]="2"
          placeholder="10.20.30.0/24"
          [control]="form.controls.ranges"
        >
          <small class="faint"
            >One range a line, at most 1024 addresses, within the ranges that the plant has declared.</small
          >
        </hinge-text>
        <div>
          <div class="ports">
            <hinge-text label="OPC UA ports" kind="technical" [control]="form.controls.ports" />
            <hinge-text label="Mapper ports" kind="technical" [control]="form.controls.mapperPorts" />
            <hinge-text
              label="Device ports"
              kind="technical"
              placeholder="none"
              [control]="form.controls.devicePorts"
            />
          </div>
          <hinge-switch label="Also the addresses of the known machines" [control]="form.controls.machines" />
          <p class="faint">
            Eight places at once, one at a time per address. A mapper of DCOM is asked for its machine’s list of classic
            servers, as the account of a link to that machine, if there is one. A field device (Modbus, mostly port 502)
            is asked for one register; nothing is written.
          </p>
          <button type="submit" class="act main" [disabled]="!mayAct() || state()?.running === true">
            Look for servers
          </button>
        </div>
      </form>
      @if (state(); as told) {
        @if (told.beganAt) {
          <hinge-ledger
            [columns]="columns"
            [rows]="shown()"
            [idOf]="idOf"
            [(find)]="find"
            fileName="found-servers"
            [empty]="told.running ? 'Nothing yet.' : 'No server answered there.'"
          >
            <ng-template hingeCell="server" [hingeCellOf]="shown()" let-found>
              <div class="name">{{ found.applicationName || 'without a name' }}</div>
              @if (!found.classic) {
                <span class="mono faint line">{{ found.applicationUri }}</span>
              }
            </ng-template>
            <ng-template hingeCell="where" [hingeCellOf]="shown()" let-found>
              <div class="mono where">{{ found.endpointUrl }}</div>
              <span class="mono faint line">{{ found.address }}</span>
            </ng-template>
            <ng-template hingeCell="speaks" [hingeCellOf]="shown()" let-found>
              <span class="url">{{ found.classic ? 'classic OPC' : 'OPC UA' }}</span>
              @if (found.classic; as classic) {
                <span class="faint line url">{{ classic.categories.join(', ') }}</span>
              }
            </ng-template>
            <ng-template hingeCell="standing" [hingeCellOf]="shown()" let-found>
              <div class="standing">
                <strong [class]="tones[found.standing]">{{ words[found.standing] }}</strong>
                <span class="faint line">{{ found.says }}</span>
              </div>
            </ng-template>
            <ng-template hingeCell="acts" [hingeCellOf]="shown()" let-found>
              @if (found.proposal) {
                <button type="button" class="act" [disabled]="!mayAct()" (click)="adopt(found)">
                  Add to the plant
                </button>
              }
            </ng-template>
          </hinge-ledger>
          @if (told.devices.length > 0) {
            <hinge-found-devices [devices]="told.devices" (adopt)="adoptDevice($event)" />
          }
          @for (fault of told.faults; track $index) {
            <p-message severity="warn">{{ fault }}</p-message>
          }
          <p class="faint begun">Started by {{ told.by }} on <hinge-moment [at]="told.beganAt" />.</p>
        }
      }
    </div>
  `,
  styles: `
    form {
      display: grid;
      grid-template-columns: 1fr 1fr 1fr;
      gap: 1.5rem;
      align-items: start;
      background: var(--panel);
      border: 1px solid var(--line);
      padding: 0.8rem 1rem;
      margin-bottom: 1rem;
    }
    .ports {
      display: grid;
      grid-template-columns: 1fr 1fr 1fr;
      gap: 0.8rem;
    }
    .line {
      display: block;
      font-size: 0.86rem;
    }
    .begun {
      margin-top: 0.8rem;
    }
    .url {
      white-space: nowrap;
    }
    .name {
      min-width: 11rem;
    }
    .where {
      min-width: 15rem;
    }
    .standing {
      min-width: 9.5rem;
    }
    .mono {
      font-size: 0.76rem;
      overflow-wrap: anywhere;
    }
  `,
})
export class DiscoveryPage {
  private readonly store = inject(Store);
  readonly state = this.store.selectSignal(plantFeature.selectDiscovery);
  readonly problem = this.store.selectSignal(plantFeature.selectProblem);
  readonly mayAct = may('engineer');
  readonly form = contractForm(
    {
      discoveryUrls: lines(wish.discoveryUrls, undefined, blanks),
      ranges: lines(wish.ranges, undefined, blanks),
      ports: lines(wish.ports, Number, blanks),
      mapperPorts: lines(wish.mapperPorts, Number, blanks),
      devicePorts: lines(wish.devicePorts.unwrap(), Number, blanks),
    },
    { discoveryUrls: '', ranges: '', ports: '4840', mapperPorts: '135', devicePorts: '', machines: false },
  );
  readonly tones = { new: 'weak', differs: 'fails', known: 'holds' } as const;
  readonly words = words;
  readonly find = signal('');
  readonly columns = columns;
  readonly shown = computed(() =>
    [...(this.state()?.found ?? [])].sort(
      (left, right) =>
        ranks[left.standing] - ranks[right.standing] || left.endpointUrl.localeCompare(right.endpointUrl),
    ),
  );
  readonly headline = computed(() => {
    const state = this.state();
    if (!state?.beganAt) return 'Find servers that the plant does not know yet';
    const fresh = state.found.filter(({ standing }) => standing === 'new').length;
    const differing = state.found.filter(({ standing }) => standing === 'differs').length;
    const sofar = state.running ? ' so far' : '';
    const count = state.found.length;
    const found = byNumber(count, `# server found${sofar}`, `# servers found${sofar}`);
    const clauses = [
      `${fresh} not in the plant`,
      ...(differing > 0 ? [`${differing} at another place than in the plant`] : []),
    ];
    const devices = state.devices.length;
    const beside = devices > 0 ? ` ${byNumber(devices, '# field device found', '# field devices found')}.` : '';
    return count === 0 ? `No server found${sofar}.${beside}` : `${found}: ${clauses.join(', ')}.${beside}`;
  });

  constructor() {
    this.store.dispatch(plantActions.loadDiscovery());
  }

  begin(sent: Event): void {
    if (!isComplete(this.form, sent)) return;
    const { discoveryUrls, ranges, ports, mapperPorts, devicePorts, machines } = this.form.getRawValue();
    this.store.dispatch(
      plantActions.beginDiscovery({
        wish: {
          discoveryUrls: linesOf(discoveryUrls, blanks),
          ranges: linesOf(ranges, blanks),
          ports: linesOf(ports, blanks).map(Number),
          mapperPorts: linesOf(mapperPorts, blanks).map(Number),
          devicePorts: linesOf(devicePorts, blanks).map(Number),
          machines,
        },
      }),
    );
  }

  stop(): void {
    this.store.dispatch(plantActions.stopDiscovery());
  }

  idOf = ({ endpointUrl, by }: FoundServerView): string => endpointUrl + by;

  adoptDevice(proposal: DeviceProposal): void {
    this.store.dispatch(plantActions.adoptDevice(proposal));
  }

  adopt({ proposal }: FoundServerView): void {
    if (proposal) this.store.dispatch(plantActions.adopt(proposal));
  }
}

const words = { new: 'not in the plant', differs: 'at another place than in the plant', known: 'known' } as const;

/** What a server speaks, for a cell. */
const speaks = ({ classic }: FoundServerView): string =>
  classic ? `classic OPC: ${classic.categories.join(', ')}` : 'OPC UA';

const columns: readonly Column<FoundServerView>[] = [
  {
    key: 'server',
    title: 'Server',
    text: ({ applicationName, applicationUri, classic }) =>
      `${applicationName} ${classic ? `${classic.progId} ${classic.clsid}` : applicationUri}`,
  },
  { key: 'speaks', title: 'Speaks', text: (found) => speaks(found) },
  { key: 'where', title: 'Where', text: ({ endpointUrl, address }) => `${endpointUrl} ${address}` },
  {
    key: 'standing',
    title: 'State',
    text: ({ standing, says }) => `${words[standing]}: ${says}`,
    order: ({ standing }) => ranks[standing],
  },
  { key: 'by', title: 'Found by', text: ({ by }) => by },
];
