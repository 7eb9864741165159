import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { ToggleSwitch } from 'primeng/toggleswitch';
import { byNumber, tokenWords } from '@loyal-hinge/core';
import type { ServerAtDoors, ServerDoor } from '@loyal-hinge/contract';
import { Telling } from '../shell/telling';
import { Moment } from '../signs/moment';
import { VerdictBar } from '../signs/verdict-bar';
import { endpointWords, verdictOfDoor, weaknessWords } from './door-words';
import { keyOf, targetOfDoor } from './rules';

const mostNamed = 3;
const modeWords = { None: 'none', Sign: 'signed', SignAndEncrypt: 'encrypted' } as const;

/** One server with its doors: what is weak about each, who comes in by it, and a switch that closes it in the what-if. */
@Component({
  selector: 'hinge-server-doors',
  imports: [FormsModule, Moment, RouterLink, Telling, ToggleSwitch, VerdictBar],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <article>
      <header>
        <h2>{{ server().name }}</h2>
        <span class="faint">{{ server().machine }}, {{ server().zone }}</span>
        <span class="faint">{{ linkWords() }}</span>
        @if (server().seenAt; as at) {
          <span class="faint">doors seen <hinge-moment [at]="at" /></span>
        }
      </header>
      @if (rows().length > 0) {
        <table>
          <colgroup>
            <col class="bar" />
            <col class="policy" />
            <col class="mode" />
            <col class="user" />
            <col />
            <col class="switch" />
          </colgroup>
          <thead class="unseen">
            <tr>
              <th>How it is</th>
              <th>Policy and weaknesses</th>
              <th>Mode</th>
              <th>Kind of user</th>
              <th>Links</th>
              <th>Open</th>
            </tr>
          </thead>
          <tbody>
            @for (row of rows(); track row.key) {
              <tr [class.shut]="row.shut" [attr.data-door]="row.key">
                <td><hinge-bar [verdict]="row.verdict" /></td>
                <td>
                  <span class="mono">{{ row.policy }}</span>
                  @if (row.weaknesses) {
                    <span class="why" [class]="row.verdict">{{ row.weaknesses }}</span>
                  }
                </td>
                <td>{{ row.mode }}</td>
                <td>
                  {{ row.user }}
                  @if (row.issued) {
                    <span class="why faint">{{ row.issued }}</span>
                  }
                </td>
                <td>
                  @for (link of row.named; track link.id) {
                    <a [routerLink]="['/links', link.id]">{{ link.name }}</a>
                  }
                  @if (row.more.length > 0) {
                    <span class="faint" [hingeTelling]="row.moreNames">and {{ row.more.length }} more</span>
                  }
                  @if (row.door.links.length === 0) {
                    <span class="faint">nobody</span>
                  }
                </td>
                <td>
                  <p-toggleswitch [ngModel]="!row.shut" (ngModelChange)="turn.emit(row.key)" [ariaLabel]="row.spoken" />
                </td>
              </tr>
            }
          </tbody>
        </table>
      } @else {
        <p class="faint">
          {{
            server().seenAt === null
              ? 'Its endpoints have not been seen yet: check one of its links.'
              : 'It offers no door over opc.tcp.'
          }}
        </p>
      }
      @for (link of server().out; track link.id) {
        <p class="out">
          <a [routerLink]="['/links', link.id]">{{ link.name }}</a> does not get in: {{ link.why }}
        </p>
      }
    </article>
  `,
  styles: `
    article {
      background: var(--panel);
      border: 1px solid var(--line);
      padding: 0.55rem 0.9rem 0.5rem;
      margin-bottom: 0.7rem;
    }
    header {
      display: flex;
      flex-wrap: wrap;
      gap: 0 0.8rem;
      align-items: baseline;
      margin-bottom: 0.25rem;
    }
    h2 {
      font-size: 1rem;
    }
    header span {
      font-size: 0.86rem;
    }
    table {
      width: 100%;
      border-collapse: collapse;
      table-layout: fixed;
    }
    td {
      padding: 0.22rem 0.5rem 0.22rem 0;
      border-top: 1px solid var(--line);
      vertical-align: top;
      font-size: 0.92rem;
      overflow-wrap: anywhere;
    }
    col.bar {
      width: 2.7rem;
    }
    col.policy {
      width: 13.5rem;
    }
    col.mode {
      width: 5.6rem;
    }
    col.user {
      width: 10.8rem;
    }
    col.switch {
      width: 2.9rem;
    }
    td:last-child {
      text-align: right;
      padding-right: 0;
    }
    td .mono {
      font-size: 0.84rem;
    }
    .why {
      display: block;
      font-size: 0.86rem;
    }
    td a {
      display: block;
    }
    tr.shut td:not(:first-child):not(:last-child) {
      text-decoration: line-through;
      color: var(--faint);
    }
    .out {
      margin: 0.3rem 0 0;
      font-size: 0.9rem;
      color: var(--fails);
    }
    p.faint {
      margin: 0;
    }
  `,
})
export class ServerDoorsView {
  readonly server = input.required<ServerAtDoors>();
  /** Keys of the doors that are closed in the what-if. */
  readonly closed = input.required<ReadonlySet<string>>();
  /** The key of a door whose switch was turned. */
  readonly turn = output<string>();
  readonly linkWords = computed(() => byNumber(this.server().links, '# link', '# links'));
  readonly rows = computed(() => this.server().doors.map((door) => this.rowOf(door)));

  private rowOf(door: ServerDoor) {
    const key = keyOf(targetOfDoor(this.server().id, door));
    const more = door.links.slice(mostNamed);
    return {
      key,
      door,
      verdict: verdictOfDoor(door),
      policy: door.mode === 'None' ? 'no security' : door.policy,
      mode: modeWords[door.mode],
      spoken: `${endpointWords(door)}, ${tokenWords[door.token]} on ${this.server().name} is open`,
      user: tokenWords[door.token],
      issued: door.issued ?? '',
      // That it is signed only, or without security, stands beside it.
      weaknesses: door.weaknesses
        .filter((weakness) => weakness !== 'signed only' && weakness !== 'no security')
        .map((weakness) => weaknessWords[weakness])
        .join(', '),
      named: door.links.slice(0, mostNamed),
      more,
      moreNames: more.map(({ name }) => name).join(', '),
      shut: isShut(door, this.server().id, this.closed()),
    };
  }
}

/** Closed by itself, or with all that fit it on every server. */
function isShut(door: ServerDoor, serverId: string, closed: ReadonlySet<string>): boolean {
  const { policy, mode, token } = door;
  return (
    closed.has(keyOf({ serverId, policy, mode, token })) ||
    closed.has(keyOf({ serverId: null, policy, mode: null, token: null })) ||
    closed.has(keyOf({ serverId: null, policy: null, mode, token: null })) ||
    closed.has(keyOf({ serverId: null, policy: null, mode: null, token }))
  );
}
