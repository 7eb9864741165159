import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { Conduit, PassageOpening, PassageView } from '@loyal-hinge/contract';
import { levelText } from '../forms/security-level';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter } from '../shell/page-address';
import { isStopped, purposeWords, verdictWords } from './passage-words';
import { RowActs } from './row-acts';
import { passageActions, passageFeature } from './state';

/** An opening, and the link that needs it. */
interface OpeningOfLink extends PassageOpening {
  readonly linkId: string;
  readonly link: string;
}

/** Conduits: which openings are needed of each, which are there, which are missing, and what it lets through beside them. */
@Component({
  selector: 'hinge-conduit-ledger',
  imports: [Ledger, LedgerCell, RouterLink, RowActs],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <hinge-ledger
      [columns]="columns()"
      [rows]="view().conduits"
      [idOf]="idOf"
      [find]="find()"
      (findChange)="go({ conduits: $event })"
      [open]="openId()"
      what="any conduit or zone"
      fileName="conduits"
    >
      <span empty
        >Without conduits the shortest way over firewalls is taken. A conduit says that one zone may open connections to
        another.</span
      >
      <ng-template hingeCell="missing" [hingeCellOf]="view().conduits" let-row>
        <span [class.fails]="missingOver(row).length > 0">{{ missingOver(row).length }}</span>
      </ng-template>
      <ng-template hingeCell="wide" [hingeCellOf]="view().conduits" let-row>
        <span [class.weak]="isWide(row)">{{ wideText(row) }}</span>
      </ng-template>
      <ng-template hingeCell="level" [hingeCellOf]="view().conduits" let-row>
        <span [class.weak]="isBelow(row)">{{ levelText(row) }}</span>
      </ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="view().conduits" let-row>
        <button
          type="button"
          class="act"
          (click)="toggle(row)"
          [attr.aria-expanded]="row.id === openId()"
          [attr.aria-label]="'Look at ' + row.name"
        >
          {{ row.id === openId() ? 'Close' : 'Look' }}
        </button>
        <hinge-row-acts [name]="row.name" (edited)="edit(row)" (removed)="remove(row)" />
      </ng-template>
      <ng-template hingeCell="below" [hingeCellOf]="view().conduits" let-row>
        <div class="below">
          <h3>What is needed of it</h3>
          <ul>
            @for (opening of openingsOver(row); track opening.linkId + opening.purpose + opening.protocol) {
              <li>
                <a [routerLink]="['/passage']" [queryParams]="{ link: opening.linkId }">{{ opening.link }}</a>,
                {{ purposeWords[opening.purpose].toLowerCase() }}:
                <span class="mono">{{ opening.from.join(', ') }} → {{ opening.to.join(', ') }}</span
                >, {{ opening.protocol.toUpperCase() }} port <span class="mono">{{ opening.ports.join(', ') }}</span>,
                <span [class.fails]="isStopped(opening.verdict)" [class.weak]="opening.verdict === 'partly'">{{
                  verdictWords[opening.verdict]
                }}</span>
              </li>
            } @empty {
              <li class="faint">Nothing: no link and no service of the plant leads this way.</li>
            }
          </ul>
          @if (widths(); as known) {
            @if (known.get(row.id); as width) {
              <h3>What it lets through beside that</h3>
              <ul class="mono">
                @for (line of width.unneeded; track $index) {
                  <li>{{ line }}</li>
                } @empty {
                  <li class="plain">Nothing between machines of the plant.</li>
                }
                @if (width.moreUnneeded > 0) {
                  <li class="plain">and {{ width.moreUnneeded }} more</li>
                }
              </ul>
              @if (width.unsureAt !== null) {
                <p class="faint">
                  There may be more: the rules of {{ width.unsureAt }} are not known, or depend on what rules don’t
                  tell.
                </p>
              }
            } @else {
              <p class="faint">No firewall that is known is on this way.</p>
            }
          } @else {
            <p class="faint" role="status">Reckoning what it lets through …</p>
          }
        </div>
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
    .below {
      padding: 0.4rem 0 0.8rem;
    }
    h3 {
      margin: 0.5rem 0 0.2rem;
      font-size: 1rem;
    }
    ul {
      margin: 0;
      padding-left: 1.2rem;
    }
    .plain {
      font-family: var(--body);
    }
  `,
})
export class ConduitLedger {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  readonly go = addressWriter();
  readonly view = input.required<PassageView>();
  readonly find = input('');
  readonly openId = signal<string | null>(null);
  readonly widths = this.store.selectSignal(passageFeature.selectWidthById);
  readonly idOf = ({ id }: Conduit): string => id;
  readonly isStopped = isStopped;
  readonly purposeWords = purposeWords;
  readonly verdictWords = verdictWords;
  readonly columns = computed((): readonly Column<Conduit>[] => [
    { key: 'name', title: 'Conduit', text: ({ name }) => name },
    { key: 'from', title: 'From', text: ({ fromZoneId }) => this.zoneName(fromZoneId) },
    { key: 'to', title: 'To', text: ({ toZoneId }) => this.zoneName(toZoneId) },
    {
      key: 'over',
      title: 'Over',
      text: ({ firewallIds }) => firewallIds.map((id) => this.firewallName(id)).join(', ') || 'whichever join them',
    },
    {
      key: 'needed',
      title: 'Needed',
      text: (row) => String(this.openingsOver(row).length),
      order: (row) => this.openingsOver(row).length,
    },
    {
      key: 'present',
      title: 'Present',
      text: (row) => String(this.presentOver(row).length),
      order: (row) => this.presentOver(row).length,
    },
    {
      key: 'missing',
      title: 'Missing',
      text: (row) => String(this.missingOver(row).length),
      order: (row) => this.missingOver(row).length,
    },
    {
      key: 'wide',
      title: 'Too wide',
      text: (row) => this.wideText(row),
      order: (row) => (this.isWide(row) ? 1 : 0),
    },
    {
      key: 'level',
      title: 'Target level',
      text: (row) => this.levelText(row),
      order: ({ targetLevel }) => targetLevel ?? 0,
    },
  ]);

  private readonly byConduit = computed(() => {
    const byConduit = new Map<string | null, OpeningOfLink[]>();
    for (const { linkId, link, openings } of this.view().links)
      for (const opening of openings) {
        const there = byConduit.get(opening.conduitId) ?? [];
        byConduit.set(opening.conduitId, [...there, { ...opening, linkId, link }]);
      }
    return byConduit;
  });

  constructor() {
    this.store.dispatch(passageActions.showWidths());
  }

  openingsOver({ id }: Conduit): readonly OpeningOfLink[] {
    return this.byConduit().get(id) ?? [];
  }
  presentOver(row: Conduit): readonly OpeningOfLink[] {
    return this.openingsOver(row).filter(({ verdict }) => verdict === 'accept');
  }
  missingOver(row: Conduit): readonly OpeningOfLink[] {
    return this.openingsOver(row).filter(({ verdict }) => isStopped(verdict) || verdict === 'partly');
  }

  isWide({ id }: Conduit): boolean {
    return (this.widths()?.get(id)?.unneeded.length ?? 0) > 0;
  }
  wideText(row: Conduit): string {
    const widths = this.widths();
    if (!widths) return '…';
    const width = widths.get(row.id);
    if (!width) return 'no firewall known';
    if (width.unneeded.length > 0) return 'yes';
    return width.unsureAt === null ? 'no' : 'can’t be told';
  }

  /** What comes by a conduit with a lower level meets less than the zone needs into which it leads. */
  isBelow({ targetLevel, toZoneId }: Conduit): boolean {
    return targetLevel !== null && targetLevel < (this.zoneOf(toZoneId)?.targetLevel ?? 0);
  }
  levelText(row: Conduit): string {
    const own = levelText(row.targetLevel);
    const zone = this.zoneOf(row.toZoneId);
    return this.isBelow(row) && zone ? `${own}, below ${zone.name}’s ${levelText(zone.targetLevel)}` : own;
  }

  toggle({ id }: Conduit): void {
    this.openId.set(this.openId() === id ? null : id);
  }
  edit({ id }: Conduit): void {
    this.store.dispatch(passageActions.edit({ editing: { kind: 'conduit', id } }));
  }
  remove({ id, name }: Conduit): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'The firewalls and their rules stay. Between these zones the shortest way is taken from then on.',
      does: 'Remove',
      run: () => this.store.dispatch(passageActions.removeConduit({ id, name })),
    });
  }

  private zoneOf(id: string): PassageView['zones'][number] | undefined {
    return this.view().zones.find((zone) => zone.id === id);
  }
  private zoneName(id: string): string {
    return this.zoneOf(id)?.name ?? id;
  }
  private firewallName(id: string): string {
    return this.view().firewalls.find((each) => each.id === id)?.name ?? id;
  }
}
