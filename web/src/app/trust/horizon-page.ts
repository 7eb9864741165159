import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { scalePow, timeFormat } from 'd3';
import { byNumber, counted } from '@loyal-hinge/core';
import type { HorizonView } from '@loyal-hinge/contract';
import { LedgerCell, LedgerHeading } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Moment } from '../signs/moment';
import { daysWords, nearness } from './days';
import { trustActions, trustFeature } from './state';
import { TrustHead } from './trust-head';
import { Tick } from '../shell/tick';
import { Telling } from '../shell/telling';
import { Waiting } from '../shell/waiting';

const dayMs = 86_400_000;
const width = 520;
const pastWidth = 70;
type Ending = HorizonView['endings'][number];

/** What ends when: the near future is drawn wider than the far one. */
@Component({
  selector: 'hinge-horizon-page',
  imports: [Tick, Waiting, Telling, RouterLink, TrustHead, Ledger, LedgerCell, LedgerHeading, Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-trust-head [headline]="headline()" />
      @for (group of groups(); track group.by) {
        <p class="group">
          {{ group.says }} <strong>{{ group.names }}</strong> by <hinge-moment [at]="group.at" show="day" />.
        </p>
      }
      @if (horizon()) {
        <hinge-ledger
          [columns]="columns"
          [rows]="shown()"
          [find]="find()"
          what="any certificate or link"
          fileName="horizon"
          empty="No certificate is known on which a link depends. Check the links, and read the lists of the servers."
          (findChange)="go({ find: $event })"
        >
          <hinge-tick
            words="include what interrupts no link"
            [on]="idle() !== ''"
            (turned)="go({ idle: $event ? 'too' : '' })"
          />
          <ng-template hingeHeading="axis">
            <svg
              [attr.width]="width"
              height="22"
              [attr.viewBox]="'0 0 ' + width + ' 22'"
              role="img"
              aria-label="Time, from the past to the far future"
            >
              @for (tick of ticks(); track tick.x) {
                <line [attr.x1]="tick.x" [attr.x2]="tick.x" y1="16" y2="22" />
                <text [attr.x]="tick.x" y="12" [attr.text-anchor]="tick.x > width - 30 ? 'end' : 'middle'">
                  {{ tick.word }}
                </text>
              }
            </svg>
          </ng-template>
          <ng-template hingeCell="name" [hingeCellOf]="shown()" let-row>
            @if (row.ending.kind === 'crl' || row.ending.kind === 'waiver') {
              {{ row.ending.name }}
            } @else {
              <a [routerLink]="['/trust/certificates', row.ending.id]">{{ row.ending.name }}</a>
            }
            @if (row.ending.kind === 'authority') {
              <span class="faint kind">authority</span>
            }
          </ng-template>
          <ng-template hingeCell="axis" [hingeCellOf]="shown()" let-row>
            <svg
              [attr.width]="width"
              height="16"
              [attr.viewBox]="'0 0 ' + width + ' 16'"
              [class]="row.tone"
              aria-hidden="true"
            >
              <line class="now" [attr.x1]="nowX" [attr.x2]="nowX" y1="0" y2="16" />
              @if (row.x >= nowX) {
                <path fill="currentColor" [attr.d]="'M' + nowX + ' 5H' + row.x + 'V11H' + nowX + 'Z'" />
              } @else {
                <path stroke="currentColor" stroke-dasharray="3 2" [attr.d]="'M' + row.x + ' 8H' + nowX" />
              }
              <path fill="currentColor" [attr.d]="'M' + (row.x - 1.5) + ' 1h3v14h-3z'" />
            </svg>
          </ng-template>
          <ng-template hingeCell="ends" [hingeCellOf]="shown()" let-row>
            <span class="when">
              <strong [class]="row.tone">{{ row.words }}</strong>
              <span class="faint kind"><hinge-moment [at]="row.at" show="day" /></span>
            </span>
          </ng-template>
          <ng-template hingeCell="links" [hingeCellOf]="shown()" let-row>
            <span [hingeTelling]="row.ending.links.join(', ')">{{ row.links }}</span>
          </ng-template>
        </hinge-ledger>
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .group {
      border-left: 4px solid var(--weak);
      background: var(--panel);
      padding: 0.45rem 0.9rem;
    }
    svg {
      display: block;
    }
    svg text {
      font-size: 10.5px;
      fill: var(--faint);
      font-weight: 400;
    }
    svg line {
      stroke: var(--faint);
    }
    .now {
      stroke: var(--ink);
    }
    .kind {
      font-size: 0.86rem;
      margin-left: 0.5rem;
    }
    .when {
      white-space: nowrap;
    }
  `,
})
export class HorizonPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly idle = input('', { transform: fromAddress });
  readonly width = width;
  readonly nowX = pastWidth;
  readonly horizon = this.store.selectSignal(trustFeature.selectHorizon);
  private readonly now = computed(() => this.horizon()?.at ?? 0);
  /** The square root of time gives the near future its room; what is past has a narrow place of its own. */
  private readonly scale = computed(() => {
    const last = Math.max(this.now() + 365 * dayMs, ...(this.horizon()?.endings ?? []).map(({ ends }) => ends));
    const future = scalePow()
      .exponent(0.5)
      .domain([0, last - this.now()])
      .range([pastWidth, width - 4]);
    const past = scalePow()
      .exponent(0.5)
      .domain([0, 3 * 365 * dayMs])
      .range([pastWidth, 4])
      .clamp(true);
    return (at: number): number => (at >= this.now() ? future(at - this.now()) : past(this.now() - at));
  });
  readonly ticks = computed(() => {
    const year = timeFormat('%Y');
    const words = [
      { days: 0, word: 'now' },
      { days: 30, word: '30 d' },
      { days: 90, word: '90 d' },
      { days: 365, word: '1 y' },
      { days: 3 * 365, word: '' },
      { days: 6 * 365, word: '' },
      { days: 9 * 365, word: '' },
    ];
    return words
      .map(({ days, word }) => {
        const at = this.now() + days * dayMs;
        return { x: this.scale()(at), word: word === '' ? year(new Date(at)) : word };
      })
      .filter(({ x }) => x <= width - 4);
  });
  readonly columns = columns;
  readonly shown = computed(() =>
    (this.horizon()?.endings ?? [])
      .filter(({ links }) => this.idle() !== '' || links.length > 0)
      .map((ending) => ({
        id: ending.id,
        ending,
        x: this.scale()(ending.ends),
        at: new Date(ending.ends).toISOString(),
        words: daysWords(ending.ends, this.now()),
        tone: nearness(ending.ends, this.now()),
        links: takesDown(ending),
      })),
  );
  readonly groups = computed(() => {
    const { endings = [], groups = [] } = this.horizon() ?? {};
    const names = new Map(endings.map(({ id, name }) => [id, name]));
    return groups
      .filter(({ by }) => by - this.now() < 365 * dayMs)
      .map((group) => ({
        ...group,
        at: new Date(group.by).toISOString(),
        names: [...new Set(group.endingIds.map((id) => names.get(id) ?? id))].join(', '),
      }));
  });
  readonly headline = computed(() => {
    const endings = this.horizon()?.endings.filter(({ links }) => links.length > 0);
    if (!endings) return 'Horizon';
    const over = endings.filter(({ ends }) => ends < this.now()).length;
    const next = endings.find(({ ends }) => ends >= this.now());
    const parts = [
      ...(over > 0 ? [byNumber(over, '# has ended already', '# have ended already')] : []),
      ...(next ? [`next ends ${next.name}: ${daysWords(next.ends, this.now())}, ${takesDown(next)}`] : []),
    ];
    return parts.length === 0
      ? 'Nothing is known that ends.'
      : `${parts.join('; ')}.`.replace(/^./, (letter) => letter.toUpperCase());
  });

  constructor() {
    this.store.dispatch(trustActions.show({ request: { view: 'horizon' } }));
  }
}

interface ShownEnding {
  readonly ending: Ending;
  readonly at: string;
}

const columns: readonly Column<ShownEnding>[] = [
  { key: 'name', title: 'What ends', text: ({ ending }) => ending.name },
  { key: 'axis', title: 'Time', text: () => '', onlyShown: true },
  { key: 'kind', title: 'Kind', text: ({ ending }) => ending.kind, onlySaved: true },
  { key: 'ends', title: 'Ends', text: ({ at }) => at },
  {
    key: 'links',
    title: 'Interrupts',
    text: ({ ending }) => ending.links.join('; '),
    order: ({ ending }) => ending.links.length,
  },
  { key: 'applications', title: 'Applications', text: ({ ending }) => ending.applications.join('; '), onlySaved: true },
  { key: 'subject', title: 'Subject', text: ({ ending }) => ending.subject, onlySaved: true },
];

function takesDown({ links }: Ending): string {
  const [first] = links;
  if (!first) return 'no link';
  return links.length === 1 ? first : counted(links.length, 'link');
}
