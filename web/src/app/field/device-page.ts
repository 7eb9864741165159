import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, spanOf } from '@loyal-hinge/core';
import type { DeviceView } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { DeviceAsk } from './device-ask';
import { DeviceCoverage } from './device-coverage';
import { deviceActions, deviceFeature } from './device-state';

type Item = DeviceView['items'][number];

const outcomeWords: Readonly<Record<NonNullable<DeviceView['ports'][number]['outcome']>, string>> = {
  open: 'accepts connections',
  refused: 'refuses connections',
  silent: 'does not answer',
  unreachable: 'can’t be reached',
  reset: 'breaks connections off',
  withheld: 'is outside the declared ranges',
};

/** A field device: what answers, how fast, which items come from it, and from which of its registers. */
@Component({
  selector: 'hinge-device-page',
  imports: [DeviceAsk, DeviceCoverage, Ledger, LedgerCell, Moment, PagePath, ProblemNotice, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-problem [problem]="problem()" />
      @if (device(); as one) {
        <hinge-path above="Devices" way="/plant/devices" [here]="one.name" />
        <header class="page-head">
          <div>
            <h1>{{ headline() }}</h1>
            <p class="faint">
              {{ one.zone }}, <span class="mono">{{ one.addresses.join(', ') || 'no address' }}</span>
            </p>
          </div>
        </header>
        @for (port of one.ports; track port.port) {
          <p>
            Port <span class="mono">{{ port.port }}</span>
            @if (port.outcome && port.at) {
              {{ outcomeWords[port.outcome] }}{{ port.outcome === 'open' ? ' in ' + spanOf(port.ms ?? 0) : '' }},
              <hinge-moment [at]="port.at" show="near" />.
            } @else {
              was not looked at by any check yet.
            }
            @for (unit of port.units; track unit.unit) {
              <span class="unit" [class.fails]="!unit.answers">
                Unit {{ unit.unit }} {{ unit.answers ? 'answers in ' + spanOf(unit.ms) : 'does not answer' }}.
              </span>
            }
          </p>
        }
        <h2>Its registers</h2>
        <hinge-device-coverage [items]="one.items" />
        <hinge-ledger
          [columns]="columns"
          [rows]="one.items"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any item or register"
          [fileName]="'device-' + one.id"
        >
          <span empty>No item of the plant comes from this device. State origins on the page of a link.</span>
          <ng-template hingeCell="path" [hingeCellOf]="one.items" let-row>
            @if (row.linkId) {
              <a class="mono" [routerLink]="['/links', row.linkId]">{{ row.path }}</a>
            } @else {
              <span class="mono">{{ row.path }}</span>
            }
          </ng-template>
          <ng-template hingeCell="agrees" [hingeCellOf]="one.items" let-row>
            <span [class.fails]="row.agrees === false">{{ agreesText(row) }}</span>
          </ng-template>
          <ng-template hingeCell="shares" [hingeCellOf]="one.items" let-row>
            <span [class.weak]="row.sharesWith !== null">{{ row.sharesWith ?? '' }}</span>
          </ng-template>
        </hinge-ledger>
        <hinge-device-ask [device]="one" />
      } @else if (!problem()) {
        <hinge-waiting />
      } @else {
        <a class="act" routerLink="/plant/devices">Back to the devices</a>
      }
    </div>
  `,
  styles: `
    h1 {
      font-size: 1.22rem;
    }
    h2 {
      margin: 1rem 0 0.4rem;
    }
    .unit {
      margin-left: 0.7rem;
    }
    .fails {
      color: var(--fails);
      font-weight: 600;
    }
    .weak {
      color: var(--weak);
    }
  `,
})
export class DevicePage {
  private readonly store = inject(Store);
  /** From the address. */
  readonly deviceId = input.required<string>();
  readonly find = input('', { transform: fromAddress });
  readonly go = addressWriter();
  readonly device = this.store.selectSignal(deviceFeature.selectShown);
  readonly problem = this.store.selectSignal(deviceFeature.selectProblem);
  readonly outcomeWords = outcomeWords;
  readonly spanOf = spanOf;
  readonly agreesText = agreesText;
  readonly idOf = ({ serverId, path }: Item): string => `${serverId} ${path}`;
  readonly headline = computed(() => {
    const one = this.device();
    if (!one) return '';
    const items = byNumber(one.items.length, '1 item comes from it', '# items come from it');
    const apart = one.items.filter(({ agrees }) => agrees === false).length;
    return `${one.name}: ${items}${apart > 0 ? byNumber(apart, '; 1 value differs', '; # values differ') : ''}.`;
  });
  readonly columns: readonly Column<Item>[] = [
    { key: 'path', title: 'Item', text: ({ path }) => path, mono: true },
    { key: 'server', title: 'Server', text: ({ server }) => server },
    { key: 'from', title: 'Comes from', text: ({ comesFrom }) => comesFrom },
    { key: 'served', title: 'At the server', text: ({ served }) => served ?? '', mono: true, short: true },
    { key: 'device', title: 'At the device', text: ({ atDevice }) => atDevice ?? '', mono: true, short: true },
    { key: 'agrees', title: 'Compared', text: (row) => agreesText(row) },
    { key: 'shares', title: 'Shares it with', text: ({ sharesWith }) => sharesWith ?? '' },
  ];

  constructor() {
    effect(() => this.store.dispatch(deviceActions.show({ deviceId: this.deviceId() })));
    inject(DestroyRef).onDestroy(() => this.store.dispatch(deviceActions.leave()));
  }
}

const agreesText = ({ agrees }: Item): string => (agrees === null ? 'not yet' : agrees ? 'agree' : 'differ');
