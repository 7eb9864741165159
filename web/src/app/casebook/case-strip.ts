import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { scaleTime, timeFormat } from 'd3';
import { byNumber } from '@loyal-hinge/core';
import type { CaseRow, CasebookView } from '@loyal-hinge/contract';
import { Moment } from '../signs/moment';

const width = 1000;
const rowHeight = 22;
const labelWidth = 250;
const top = 24;
const mostRows = 12;
const halfTextWidth = 32;
const leastSpanMs = 10_000;
const dayText = timeFormat('%-d %b %H:%M');
const clockText = timeFormat('%H:%M:%S');
const dayMs = 86_400_000;

interface StripRow {
  readonly id: string;
  readonly name: string;
  readonly y: number;
  readonly from: number;
  readonly to: number;
  readonly marks: readonly number[];
  readonly isOfLink: boolean;
}

/** When each case was tried: a row for each, a mark for each attempt. */
@Component({
  selector: 'hinge-case-strip',
  imports: [Moment, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg [attr.viewBox]="'0 0 ' + width + ' ' + height()" role="group" [attr.aria-label]="words()">
      @for (tick of ticks(); track tick.x) {
        <line class="tick" [attr.x1]="tick.x" [attr.x2]="tick.x" [attr.y1]="top - 6" [attr.y2]="height()" />
        <text class="time" [attr.x]="tick.x" y="12" text-anchor="middle">{{ tick.text }}</text>
      }
      @if (others().length > 0) {
        <text class="name" x="0" [attr.y]="otherY() + 4">What else happened</text>
        @for (other of others(); track $index) {
          <path class="other" [attr.d]="'M' + (other.x - 4) + ',' + (otherY() - 4) + 'h8l-4,9z'">
            <title>{{ other.says }}</title>
          </path>
        }
      }
      @for (row of rows(); track row.id) {
        <a [routerLink]="['/casebook/cases', row.id]">
          <text class="name" x="0" [attr.y]="row.y + 4">{{ row.name }}</text>
        </a>
        <line class="span" [attr.x1]="row.from" [attr.x2]="row.to" [attr.y1]="row.y" [attr.y2]="row.y" />
        @for (mark of row.marks; track $index) {
          <rect
            class="mark"
            [class.other]="!row.isOfLink"
            [attr.x]="mark - 1.5"
            [attr.y]="row.y - 6"
            width="3"
            height="12"
          />
        }
      }
    </svg>
    @if (cases().length > most) {
      <p class="faint">The {{ most }} weightiest are drawn, of {{ cases().length }}.</p>
    }
    @if (others().length > 0) {
      <details>
        <summary>{{ otherWords() }}</summary>
        @for (other of others(); track $index) {
          <div class="line-of"><hinge-moment [at]="other.at" />&ngsp;{{ other.says }}</div>
        }
      </details>
    }
  `,
  styles: `
    svg {
      width: 100%;
      display: block;
      overflow: visible;
    }
    text {
      font-size: 12px;
      fill: var(--ink);
    }
    .time {
      fill: var(--faint);
      font-variant-numeric: tabular-nums;
    }
    a:hover .name {
      text-decoration: underline;
    }
    .tick {
      stroke: var(--line);
    }
    .span {
      stroke: var(--faint);
      stroke-width: 1.5;
    }
    .mark {
      fill: var(--fails);
    }
    path.other {
      fill: var(--lake);
    }
    details {
      font-size: 0.9rem;
    }
    .mark.other {
      fill: var(--weak);
    }
    p {
      margin: 0.2rem 0 0;
      font-size: 0.86rem;
    }
  `,
})
export class CaseStrip {
  readonly cases = input.required<readonly CaseRow[]>();
  readonly width = width;
  readonly top = top;
  readonly most = mostRows;
  /** What logs tell of changes. */
  readonly happened = input<CasebookView['happened']>([]);
  private readonly drawn = computed(() => this.cases().slice(0, mostRows));
  private readonly scale = computed(() => {
    const first = Math.min(...this.drawn().map((one) => Date.parse(one.first)));
    const last = Math.max(...this.drawn().map((one) => Date.parse(one.last)));
    const margin = Math.max(leastSpanMs, last - first) * 0.03;
    return scaleTime()
      .domain([new Date(first - margin), new Date(Math.max(last, first + leastSpanMs) + margin)])
      .range([labelWidth, width]);
  });
  readonly rows = computed<readonly StripRow[]>(() =>
    this.drawn().map((one, index) => ({
      id: one.id,
      name: shortened(one.linkName ?? `${one.from} to ${one.to}`),
      y: top + rowHeight * (index + 0.5),
      from: this.scale()(Date.parse(one.first)),
      to: this.scale()(Date.parse(one.last)),
      marks: one.marks.map((at) => this.scale()(at)),
      isOfLink: one.kind === 'link',
    })),
  );
  readonly others = computed(() => {
    const [from, to] = this.scale().domain().map(Number);
    return this.happened()
      .map(({ at, says }) => ({ at, says, x: this.scale()(Date.parse(at)), ms: Date.parse(at) }))
      .filter(({ ms }) => ms >= (from ?? 0) && ms <= (to ?? 0));
  });
  readonly otherY = computed(() => top + rowHeight * (this.drawn().length + 0.5));
  readonly otherWords = computed(() =>
    byNumber(this.others().length, 'One thing else happened', '# other things happened'),
  );
  readonly height = computed(() => top + rowHeight * (this.drawn().length + Number(this.others().length > 0)));
  readonly ticks = computed(() => {
    const [from, to] = this.scale().domain();
    const text = Number(to) - Number(from) > dayMs / 2 ? dayText : clockText;
    return this.scale()
      .ticks(5)
      .map((at) => ({ x: this.scale()(at), text: text(at) }))
      .filter(({ x }) => x < width - halfTextWidth);
  });
  readonly words = computed(() => `When the weightiest ${this.drawn().length} cases were tried`);
}

const shortened = (name: string): string => (name.length > 38 ? `${name.slice(0, 37)}…` : name);
