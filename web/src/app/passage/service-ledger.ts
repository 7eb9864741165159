import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { serviceNeedId } from '@loyal-hinge/core';
import type { PlantService } from '@loyal-hinge/core';
import type { LinkPassage, PassageView } from '@loyal-hinge/contract';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter } from '../shell/page-address';
import { isStopped, serviceWords, verdictWords, worstOf } from './passage-words';
import { RowActs } from './row-acts';
import { passageActions } from './state';

/** Services that machines use beside their links, and what firewalls make of it, zone by zone. */
@Component({
  selector: 'hinge-service-ledger',
  imports: [Ledger, LedgerCell, RouterLink, RowActs],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger
      [columns]="columns()"
      [rows]="view().services"
      [idOf]="idOf"
      [find]="find()"
      (findChange)="go({ services: $event })"
      what="any service or machine"
      fileName="services"
    >
      <span empty
        >Name the machines on which the name service, the time, a discovery server or the management of certificates
        runs: what they need is then known of every firewall.</span
      >
      <ng-template hingeCell="zones" [hingeCellOf]="view().services" let-row>
        @for (need of needsOf(row); track need.linkId; let last = $last) {
          <span>
            <a [routerLink]="['/passage']" [queryParams]="{ link: need.linkId }">{{ zoneOf(row, need) }}</a>
            <span
              [class.fails]="isStopped(worstOf(need))"
              [class.weak]="worstOf(need) === 'partly'"
              [class.faint]="worstOf(need) === 'accept'"
            >
              {{ verdictWords[worstOf(need)] }}</span>{{ last ? '' : ', ' }}
          </span>
        } @empty {
          <span class="faint">no machine of another zone</span>
        }
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="view().services" let-row>
        <hinge-row-acts [name]="row.name" (edited)="edit(row)" (removed)="remove(row)" />
      </ng-template>
    </hinge-ledger>
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
export class ServiceLedger {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly go = addressWriter();
  readonly view = input.required<PassageView>();
  readonly find = input('');
  readonly idOf = ({ id }: PlantService): string => id;
  readonly isStopped = isStopped;
  readonly worstOf = worstOf;
  readonly verdictWords = verdictWords;
  readonly columns = computed((): readonly Column<PlantService>[] => [
    { key: 'name', title: 'Service', text: ({ name }) => name },
    { key: 'kind', title: 'What it is', text: ({ kind }) => serviceWords[kind] },
    { key: 'machine', title: 'Runs on', text: ({ machineId }) => this.machineName(machineId) },
    {
      key: 'port',
      title: 'Port',
      text: ({ port }) => (port === null ? 'of the servers' : String(port)),
      order: ({ port }) => port ?? 0,
    },
    { key: 'zones', title: 'Zones', text: (row) => this.zonesText(row) },
  ]);

  /** What it needs, zone by zone. */
  needsOf({ id }: PlantService): readonly LinkPassage[] {
    const wanted = new Set(this.view().zones.map((zone) => serviceNeedId(id, zone.id)));
    return this.view().links.filter(({ linkId }) => wanted.has(linkId));
  }

  zoneOf({ kind }: PlantService, { clientMachine, serverMachine }: LinkPassage): string {
    return kind === 'management' ? serverMachine : clientMachine;
  }

  edit({ id }: PlantService): void {
    this.store.dispatch(passageActions.edit({ editing: { kind: 'service', id } }));
  }
  remove({ id, name }: PlantService): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'Nothing is changed at the machine or at a firewall. What it needs is no longer reckoned with.',
      does: 'Remove',
      run: () => this.store.dispatch(passageActions.removeService({ id, name })),
    });
  }

  private zonesText(row: PlantService): string {
    return this.needsOf(row)
      .map((need) => `${this.zoneOf(row, need)} ${verdictWords[worstOf(need)]}`)
      .join(', ');
  }
  private machineName(id: string): string {
    return this.view().machines.find((machine) => machine.id === id)?.name ?? id;
  }
}
