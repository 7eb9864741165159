import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { DcomMachine } from '@loyal-hinge/contract';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { DcomHead } from './dcom-head';
import { dcomActions, dcomFeature } from './state';

/** Machines with classic applications: of which there are exports, and where rights are missing or too wide. */
@Component({
  selector: 'hinge-dcom-page',
  imports: [DcomHead, Ledger, LedgerCell, Moment, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-dcom-head [headline]="headline()" />
      @if (machines(); as known) {
        <hinge-ledger
          [columns]="columns"
          [rows]="known"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any machine or zone"
          fileName="dcom"
        >
          <span empty>
            This page shows who may launch and call which classic server. It fills as soon as the plant has a classic
            application, or a machine was given its exports.
          </span>
          <ng-template hingeCell="machine" [hingeCellOf]="known" let-row>
            <a [routerLink]="['/dcom', row.machineId]">{{ row.machine }}</a>
          </ng-template>
          <ng-template hingeCell="taken" [hingeCellOf]="known" let-row>
            @if (row.takenAt) {
              <hinge-moment [at]="row.takenAt" show="near" />
            } @else {
              <span class="faint">none yet</span>
            }
          </ng-template>
          <ng-template hingeCell="missing" [hingeCellOf]="known" let-row>
            <span [class.fails]="row.missing > 0">{{ countText(row, row.missing) }}</span>
          </ng-template>
          <ng-template hingeCell="wide" [hingeCellOf]="known" let-row>
            <span [class.weak]="row.wide > 0">{{ countText(row, row.wide) }}</span>
          </ng-template>
          <ng-template hingeCell="excess" [hingeCellOf]="known" let-row>
            <span [class.weak]="row.excess > 0">{{ countText(row, row.excess) }}</span>
          </ng-template>
        </hinge-ledger>
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
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
export class DcomPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly machines = this.store.selectSignal(dcomFeature.selectKnownMachines);
  readonly headline = computed(() => headlineOf(this.machines()));
  readonly idOf = ({ machineId }: DcomMachine): string => machineId;
  readonly countText = countText;
  readonly columns: readonly Column<DcomMachine>[] = [
    { key: 'machine', title: 'Machine', text: ({ machine }) => machine },
    { key: 'zone', title: 'Zone', text: ({ zone }) => zone },
    {
      key: 'servers',
      title: 'Classic servers',
      text: ({ servers }) => String(servers),
      order: ({ servers }) => servers,
    },
    {
      key: 'taken',
      title: 'Settings from',
      text: ({ takenAt }) => takenAt ?? 'none yet',
      order: ({ takenAt }) => takenAt ?? '',
    },
    {
      key: 'missing',
      title: 'Missing rights',
      text: (row) => countText(row, row.missing),
      order: ({ missing }) => missing,
    },
    { key: 'wide', title: 'Nearly everybody has', text: (row) => countText(row, row.wide), order: ({ wide }) => wide },
    { key: 'excess', title: 'Nobody needs', text: (row) => countText(row, row.excess), order: ({ excess }) => excess },
  ];

  constructor() {
    this.store.dispatch(dcomActions.showMachines());
  }
}

const countText = ({ takenAt }: DcomMachine, count: number): string => (takenAt === null ? '' : String(count));

function headlineOf(machines: readonly DcomMachine[] | null): string {
  if (!machines) return 'DCOM';
  const unknown = machines.filter(({ takenAt }) => takenAt === null).length;
  const missing = machines.filter((row) => row.missing > 0).length;
  const wide = machines.filter((row) => row.wide > 0).length;
  if (machines.length === 0) return 'There is no classic application yet.';
  if (unknown === machines.length) return 'Of no classic machine the settings are known yet.';
  const parts = [
    missing > 0
      ? byNumber(missing, 'On 1 machine rights are missing', 'On # machines rights are missing')
      : 'No right is missing',
    wide > 0 ? byNumber(wide, 'on 1 nearly everybody has them', 'on # nearly everybody has them') : null,
    unknown > 0 ? byNumber(unknown, 'of 1 the settings are not known', 'of # the settings are not known') : null,
  ];
  return `${parts.filter((part) => part !== null).join('; ')}.`;
}
