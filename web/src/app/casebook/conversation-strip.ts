import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { scaleLinear } from 'd3';
import type { ConversationMessage } from '@loyal-hinge/contract';
import { messageTitle, passedWords } from './conversation-words';

const width = 1000;
const labelWidth = 170;
const [clientY, serverY, height] = [22, 92, 112];
/** A pause that is longer is named. */
const longMs = 500;

interface Drawn {
  readonly index: number;
  readonly says: string;
  readonly kind: string;
  /** From the one to the other, later to the right. */
  readonly path: string;
  readonly dot: { readonly x: number; readonly y: number };
}

/** What passed between two machines in time: each message leads from one to the other. Long pauses are drawn shorter than they are. */
@Component({
  selector: 'hinge-conversation-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg viewBox="0 0 ${width} ${height}" role="img" [attr.aria-label]="words()">
      <text class="name" x="0" y="${clientY + 4}">{{ client() }}</text>
      <text class="name" x="0" y="${serverY + 4}">{{ server() }}</text>
      <line class="lane" x1="${labelWidth}" x2="${width}" y1="${clientY}" y2="${clientY}" />
      <line class="lane" x1="${labelWidth}" x2="${width}" y1="${serverY}" y2="${serverY}" />
      @for (pause of pauses(); track $index) {
        <rect class="pause" [attr.x]="pause.x" [attr.width]="pause.wide" y="${clientY}" height="${serverY - clientY}" />
        <text class="passed" [attr.x]="pause.x + pause.wide / 2" y="${(clientY + serverY) / 2 + 4}">
          {{ pause.says }}
        </text>
      }
      @for (one of drawn(); track one.index) {
        <g [class]="one.kind" [class.chosen]="one.index === chosen()" (click)="choose.emit(one.index)">
          <title>{{ one.says }}</title>
          <path class="wide" [attr.d]="one.path" />
          <path [attr.d]="one.path" />
          <circle [attr.cx]="one.dot.x" [attr.cy]="one.dot.y" r="3" />
        </g>
      }
    </svg>
  `,
  styles: `
    svg {
      width: 100%;
      display: block;
      overflow: visible;
    }
    .name {
      font-size: 12.5px;
      fill: var(--ink);
    }
    .lane {
      stroke: var(--faint);
    }
    .pause {
      fill: var(--line);
      opacity: 0.35;
    }
    .passed {
      font-size: 11px;
      fill: var(--faint);
      text-anchor: middle;
    }
    g {
      cursor: pointer;
    }
    path {
      fill: none;
      stroke: var(--lake);
      stroke-width: 1.4;
    }
    .wide {
      stroke: transparent;
      stroke-width: 9;
    }
    circle {
      fill: var(--lake);
    }
    .connection path:not(.wide) {
      stroke: var(--faint);
    }
    .connection circle {
      fill: var(--faint);
    }
    .badly path:not(.wide) {
      stroke: var(--fails);
    }
    .badly circle {
      fill: var(--fails);
    }
    .chosen path:not(.wide) {
      stroke-width: 3;
    }
  `,
})
export class ConversationStrip {
  readonly messages = input.required<readonly ConversationMessage[]>();
  readonly client = input.required<string>();
  readonly server = input.required<string>();
  readonly chosen = input<number | null>(null);
  readonly choose = output<number>();
  /** Where each message stands: pauses grow with their logarithm. */
  private readonly places = computed(() => {
    const all = this.messages();
    const far: number[] = [];
    let sum = 0;
    all.forEach(({ at }, index) => {
      const before = all[index - 1];
      sum += before ? 1 + Math.log2(1 + Math.max(0, at - before.at)) : 0;
      far.push(sum);
    });
    const scale = scaleLinear()
      .domain([0, Math.max(1, sum)])
      .range([labelWidth + 12, width - 24]);
    return far.map((one) => scale(one));
  });
  readonly pauses = computed(() =>
    this.messages().flatMap(({ at }, index, all) => {
      const before = all[index - 1];
      if (!before || at - before.at < longMs) return [];
      const from = (this.places()[index - 1] ?? 0) + 6;
      return { x: from, wide: Math.max(0, (this.places()[index] ?? 0) - from - 6), says: passedWords(at - before.at) };
    }),
  );
  readonly drawn = computed<readonly Drawn[]>(() =>
    this.messages().map((message, place) => {
      const x = this.places()[place] ?? 0;
      const [from, to] = message.from === 'server' ? [serverY, clientY] : [clientY, serverY];
      /* What nobody answered stops halfway. */
      const isLost = message.says === 'asks again' || (place === 0 && this.isUnanswered());
      const reach = message.from === 'network' || isLost ? (from + to) / 2 : to;
      return {
        index: message.index,
        says: `${message.from === 'network' ? 'The network' : message.from === 'server' ? this.server() : this.client()}: ${messageTitle(message)}`,
        kind: `${message.layer} ${message.outcome ?? ''}`,
        path: `M${x},${from}L${x + 9},${reach}`,
        dot: { x: x + 9, y: reach },
      };
    }),
  );
  readonly words = computed(() => `${this.messages().length} messages between ${this.client()} and ${this.server()}`);
  private readonly isUnanswered = computed(() => this.messages().every(({ from }) => from === 'client'));
}
