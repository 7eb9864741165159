import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { line } from 'd3';
import { byNumber } from '@loyal-hinge/core';
import type { LinkPassage, PassageView } from '@loyal-hinge/contract';
import { chipHeight, layoutOf, wayOf } from './map-layout';

/** Zones as bands, machines in them, firewalls as the lines that join bands, and one link’s way drawn across. */
@Component({
  selector: 'hinge-passage-map',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      [attr.viewBox]="'0 0 ' + layout().width + ' ' + (layout().height + 26)"
      role="group"
      aria-label="Zones, machines and firewalls"
    >
      @for (zone of layout().zones; track zone.id) {
        <rect
          class="band"
          x="0"
          [attr.y]="zone.y + 26"
          [attr.width]="layout().width"
          [attr.height]="zone.height"
          rx="4"
        />
        <text class="zone" x="12" [attr.y]="zone.y + 26 + 25">{{ zone.name }}</text>
        @if (zone.targetLevel !== null) {
          <text class="tick" x="12" [attr.y]="zone.y + 26 + 41">SL {{ zone.targetLevel }}</text>
        }
      }
      @for (firewall of layout().firewalls; track firewall.id) {
        @if (firewall.machineId === null) {
          <a [routerLink]="['/passage/firewalls', firewall.id]">
            <text class="name" [attr.x]="firewall.x" y="15">{{ firewall.name }}</text>
            <line
              class="wall"
              [attr.x1]="firewall.x"
              [attr.x2]="firewall.x"
              [attr.y1]="firewall.from + 26"
              [attr.y2]="firewall.to + 26"
            />
            @for (port of firewall.ports; track port.name) {
              <rect class="port" [attr.x]="firewall.x - 5" [attr.y]="port.y + 21" width="10" height="10" />
            }
            <title>{{ aboutOf(firewall) }}</title>
          </a>
        }
      }
      @if (way(); as drawn) {
        <path class="way" [class.cut]="drawn.stop !== null" [attr.d]="pathOf(drawn.points)" />
      }
      @for (firewall of layout().firewalls; track firewall.id) {
        @for (port of firewall.ports; track port.name) {
          <text class="tick" [attr.x]="firewall.x + 10" [attr.y]="port.y + 20">{{ port.name }}</text>
        }
      }
      @for (machine of layout().machines; track machine.id) {
        <g [class.end]="ends().includes(machine.id)">
          <rect
            class="machine"
            [attr.x]="machine.x"
            [attr.y]="machine.y + 26"
            [attr.width]="machine.width"
            [attr.height]="chip"
            rx="3"
          />
          <text class="chip" [attr.x]="machine.x + 8" [attr.y]="machine.y + 26 + 17">
            {{ short(machine.name) }}
            <title>{{ machine.name }}</title>
          </text>
        </g>
      }
      @for (firewall of layout().firewalls; track firewall.id) {
        @if (firewall.machineId !== null) {
          <a [routerLink]="['/passage/firewalls', firewall.id]">
            <rect
              class="own"
              [attr.x]="firewall.x - 4"
              [attr.y]="firewall.from + 24"
              width="5"
              [attr.height]="chip + 4"
            />
            <title>{{ aboutOf(firewall) }}</title>
          </a>
        }
      }
      @if (way()?.stop; as stop) {
        <g class="stop" [attr.transform]="'translate(' + stop.x + ' ' + (stop.y + 26) + ')'">
          <rect x="-14" y="-4" width="28" height="8" rx="2" />
          <text x="20" y="5" [class.left]="stop.x > 1000" [attr.x]="stop.x > 1000 ? -20 : 20">stops here</text>
        </g>
      }
    </svg>
  `,
  styles: `
    svg {
      width: 100%;
      height: auto;
      display: block;
      font-size: 13px;
    }
    .band {
      fill: var(--panel);
      stroke: var(--line);
    }
    text {
      fill: var(--ink);
    }
    .zone {
      font-weight: 600;
    }
    .name {
      text-anchor: middle;
      fill: var(--lake);
    }
    .wall {
      stroke: var(--ink);
      stroke-width: 3;
    }
    .port,
    .own {
      fill: var(--ink);
    }
    .tick {
      font-family: var(--mono);
      font-size: 11px;
      fill: var(--faint);
      paint-order: stroke;
      stroke: var(--panel);
      stroke-width: 4px;
    }
    .machine {
      fill: var(--paper);
      stroke: var(--line);
    }
    .chip {
      font-size: 12.5px;
    }
    .end .machine {
      stroke: var(--lake);
      stroke-width: 2;
    }
    .way {
      fill: none;
      stroke: var(--holds);
      stroke-width: 3;
      stroke-linejoin: round;
    }
    .way.cut {
      stroke: var(--fails);
    }
    .stop rect {
      fill: var(--fails);
      stroke: var(--panel);
      stroke-width: 2;
    }
    .stop text {
      fill: var(--fails);
      font-weight: 600;
      paint-order: stroke;
      stroke: var(--panel);
      stroke-width: 4px;
    }
    .stop text.left {
      text-anchor: end;
    }
    a:focus-visible .wall {
      stroke: var(--lake);
    }
  `,
})
export class PassageMap {
  readonly view = input.required<PassageView>();
  /** The link of which the way is drawn; null: none. */
  readonly link = input<LinkPassage | null>(null);
  readonly chip = chipHeight;
  readonly layout = computed(() => layoutOf(this.view()));
  readonly ends = computed(() => {
    const link = this.link();
    if (!link) return [];
    const idOf = (name: string): string => this.view().machines.find((machine) => machine.name === name)?.id ?? '';
    return [idOf(link.clientMachine), idOf(link.serverMachine)];
  });
  readonly way = computed(() => {
    const link = this.link();
    return link ? wayOf(this.layout(), link) : null;
  });
  readonly pathOf = (points: readonly (readonly [number, number])[]): string =>
    line<readonly [number, number]>(
      ([x]) => x,
      ([, y]) => y + 26,
    )([...points]) ?? '';
  readonly short = (name: string): string => (name.length > 19 ? `${name.slice(0, 18)}…` : name);
  readonly aboutOf = ({ name, stopped }: { readonly name: string; readonly stopped: number }): string =>
    stopped === 0 ? `${name} stops no link.` : `${name} stops ${byNumber(stopped, '1 link', '# links')}.`;
}
