import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber } from '@loyal-hinge/core';
import type { AnswerOf } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { deviceActions, deviceFeature } from './device-state';
import { OriginsImport } from './origins-import';

type Device = AnswerOf<'devices'>['devices'][number];

/** The devices from which items of the plant’s servers come. */
@Component({
  selector: 'hinge-devices-page',
  imports: [Ledger, LedgerCell, OriginsImport, PagePath, ProblemNotice, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-problem [problem]="problem()" />
      <hinge-path above="Plant" way="/plant" here="Devices" />
      @if (devices(); as known) {
        <header class="page-head">
          <h1>{{ headline() }}</h1>
          <div class="actions">
            <button type="button" class="act" [disabled]="!mayImport()" (click)="isImporting.set(true)">
              Import …
            </button>
          </div>
        </header>
        @if (isImporting()) {
          <hinge-origins-import (left)="isImporting.set(false)" />
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="known"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          what="any device or zone"
          fileName="devices"
        >
          <span empty>
            No item states where its value comes from. Open a link, and state it under “Behind the server”.
          </span>
          <ng-template hingeCell="name" [hingeCellOf]="known" let-row>
            <a [routerLink]="['/plant/devices', row.id]">{{ row.name }}</a>
          </ng-template>
        </hinge-ledger>
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
})
export class DevicesPage {
  private readonly store = inject(Store);
  readonly find = input('', { transform: fromAddress });
  readonly go = addressWriter();
  readonly devices = this.store.selectSignal(deviceFeature.selectAll);
  readonly problem = this.store.selectSignal(deviceFeature.selectProblem);
  readonly mayImport = may('engineer');
  readonly isImporting = signal(false);
  readonly idOf = ({ id }: Device): string => id;
  readonly headline = computed(() => {
    const known = this.devices() ?? [];
    const items = known.reduce((sum, one) => sum + one.items, 0);
    const from = byNumber(known.length, '1 device', '# devices');
    return known.length === 0
      ? 'No device is known yet.'
      : `${byNumber(items, '1 item comes', '# items come')} from ${from}.`;
  });
  readonly columns: readonly Column<Device>[] = [
    { key: 'name', title: 'Device', text: ({ name }) => name },
    { key: 'zone', title: 'Zone', text: ({ zone }) => zone },
    { key: 'items', title: 'Items', text: ({ items }) => String(items), order: ({ items }) => items },
  ];

  constructor() {
    this.store.dispatch(deviceActions.showAll());
  }
}
