import { ChangeDetectionStrategy, Component, input, output, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { FoundDeviceView } from '@loyal-hinge/contract';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';

export type DeviceProposal = NonNullable<FoundDeviceView['proposal']>;

/** The field devices that were found where servers were looked for. */
@Component({
  selector: 'hinge-found-devices',
  imports: [Ledger, LedgerCell, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Field devices</h2>
    <hinge-ledger
      [columns]="columns"
      [rows]="devices()"
      [idOf]="idOf"
      [plain]="devices().length < 2"
      [(find)]="find"
      name="devices"
      fileName="found-devices"
    >
      <ng-template hingeCell="standing" [hingeCellOf]="devices()" let-device>
        <strong [class]="device.standing === 'new' ? 'weak' : 'holds'">{{ words[device.standing] }}</strong>
        <span class="line">
          @if (device.machineId; as machineId) {
            <a [routerLink]="['/plant/devices', machineId]">{{ device.says }}</a>
          } @else {
            <span class="faint">{{ device.says }}</span>
          }
        </span>
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="devices()" let-device>
        @if (device.proposal; as proposal) {
          <button type="button" class="act" [disabled]="!mayAct()" (click)="adopt.emit(proposal)">
            Add to the plant
          </button>
        }
      </ng-template>
    </hinge-ledger>
  `,
  styles: `
    h2 {
      margin: 1.2rem 0 0.4rem;
    }
    .line {
      display: block;
      font-size: 0.86rem;
    }
  `,
})
export class FoundDevices {
  readonly devices = input.required<readonly FoundDeviceView[]>();
  readonly adopt = output<DeviceProposal>();
  readonly mayAct = may('engineer');
  readonly find = signal('');
  readonly words = words;
  readonly columns = columns;
  readonly idOf = ({ address, port }: FoundDeviceView): string => `${address} ${port}`;
}

const words = { new: 'not in the plant', known: 'known' } as const;

const columns: readonly Column<FoundDeviceView>[] = [
  { key: 'where', title: 'Where', text: ({ address, port }) => `${address} port ${port}`, mono: true },
  {
    key: 'answers',
    title: 'Answers',
    text: ({ unit, speaks }) =>
      unit !== null
        ? `as unit ${unit}`
        : speaks
          ? 'speaks Modbus, as none of the units asked'
          : 'its port is open, and nothing comes: another unit, or busy',
  },
  { key: 'standing', title: 'State', text: ({ standing, says }) => `${words[standing]}: ${says}` },
  { key: 'by', title: 'Found by', text: ({ by }) => by },
];
