import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { byNumber, currentPolicies, sayDoor, securityPolicyNames, tokenTypes, tokenWords } from '@loyal-hinge/core';
import type { DoorRule } from '@loyal-hinge/core';
import type { DoorTurns, EntryClosing } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import type { Choice } from '../forms/choose';
import type { View } from '../http/view';
import { Waiting } from '../shell/waiting';
import { ruleWords } from './door-words';
import { OpenDoor } from './open-door';
import { keyOf } from './rules';

const mostRules = 12;
const weakPolicies = securityPolicyNames.filter(
  (name) => name !== 'None' && !currentPolicies.some((policy) => policy.name === name),
);
const everywhere: readonly Choice[] = [
  { key: keyOf({ serverId: null, policy: null, mode: 'None', token: null }), word: 'no security' },
  ...weakPolicies.map((policy) => ({ key: keyOf({ serverId: null, policy, mode: null, token: null }), word: policy })),
  { key: keyOf({ serverId: null, policy: null, mode: 'Sign', token: null }), word: 'mode Sign' },
  ...tokenTypes.map((token) => ({
    key: keyOf({ serverId: null, policy: null, mode: null, token }),
    word: tokenWords[token],
  })),
];

/** What would become of the links if doors were closed or opened, and what can be closed at all. */
@Component({
  selector: 'hinge-door-what-if',
  imports: [Choose, FormsModule, OpenDoor, RouterLink, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="sheet" aria-label="What if">
      <h2>What if these doors were closed?</h2>
      @if (rules().length === 0) {
        @if (closing(); as known) {
          @if (known.close.length > 0) {
            <p>{{ closableWords() }}</p>
            <button type="button" class="act main" (click)="closeIdle.emit()">Try closing them</button>
          } @else {
            <p>No weak door can be closed without cutting a link off.</p>
          }
          @if (known.keep.length > 0) {
            <h3>{{ keptWords() }}</h3>
            <ul>
              @for (kept of known.keep; track kept.serverId + say(kept.door)) {
                <li>
                  {{ kept.server }}: {{ say(kept.door) }}
                  <span class="faint">needed by {{ namesOf(kept.links) }}</span>
                </li>
              }
            </ul>
            <h3>To close these, too</h3>
            <ol>
              @for (need of known.needs; track need.says) {
                <li>
                  {{ need.says }} <span class="faint">For {{ namesOf(need.links) }}.</span>
                </li>
              }
              @for (link of known.stuck; track link.id) {
                <li>
                  <a [routerLink]="['/links', link.id]">{{ link.name }}</a>
                  <span class="faint"> has no better way in: its client or its server must be replaced.</span>
                </li>
              }
            </ol>
            @if (!known.isShortest) {
              <p class="faint">There may be a shorter way: not every combination was tried.</p>
            }
          }
        } @else {
          <hinge-waiting [rows]="4" />
        }
        <p class="faint">Or turn the switch of any door: nothing is changed at a server by that.</p>
      } @else {
        <ul class="rules">
          @for (rule of shownRules(); track rule.key) {
            <li>
              <span
                ><strong>{{ rule.to === 'open' ? 'Open' : 'Close' }}</strong> {{ rule.words }}
                <span class="faint">{{ rule.where }}</span></span
              >
              <button type="button" class="plain" (click)="undo.emit({ key: rule.key, to: rule.to })">Undo</button>
            </li>
          }
          @if (rules().length > most) {
            <li class="faint">and {{ rules().length - most }} more</li>
          }
        </ul>
        @if (turns().shown; as known) {
          <p role="status">
            <strong [class]="known.counts.cutOff > 0 ? 'fails' : 'holds'">{{ cutOffWords(known) }}</strong>
            {{ movedWords(known) }}
          </p>
          <ul class="turns">
            @for (turn of known.turns; track turn.linkId) {
              <li>
                <a [routerLink]="['/links', turn.linkId]">{{ turn.name }}</a>&ngsp;
                <strong [class]="tones[turn.turn]">{{ words[turn.turn] }}</strong>
                @if (turn.turn === 'cut off') {
                  <span class="faint">{{ turn.why }}</span>
                  @if (turn.needs.length > 0) {
                    <span>To let it in: {{ turn.needs.join(' ') }}</span>
                  }
                } @else {
                  <span class="faint"
                    >{{ turn.before ? say(turn.before) : 'outside' }} →
                    {{ turn.after ? say(turn.after) : 'outside' }}</span
                  >
                }
              </li>
            }
          </ul>
          <div class="actions">
            <button
              type="button"
              class="act main"
              [disabled]="!mayPropose() || known.lines.length === 0 || turns().isLoading"
              (click)="propose.emit(known)"
            >
              Propose a work order
            </button>
            <button type="button" class="act" (click)="clear.emit()">Clear</button>
          </div>
        } @else {
          <hinge-waiting [rows]="3" />
        }
      }
      <div class="more">
        <hinge-choose
          label="Close everywhere"
          placeholder="choose"
          [inline]="true"
          [choices]="everywhere"
          [ngModel]="null"
          (ngModelChange)="$event && shut.emit($event)"
        />
        @if (!opening()) {
          <button type="button" class="plain" (click)="opening.set(true)">Open a door …</button>
        }
      </div>
      @if (opening()) {
        <hinge-open-door
          [servers]="servers()"
          (opened)="open.emit($event); opening.set(false)"
          (left)="opening.set(false)"
        />
      }
    </section>
  `,
  styles: `
    h2 {
      font-size: 1rem;
      margin-bottom: 0.4rem;
    }
    h3 {
      font-size: 0.95rem;
      margin: 0.9rem 0 0.2rem;
    }
    p {
      margin: 0.2rem 0 0.5rem;
    }
    ul,
    ol {
      margin: 0;
      padding-left: 1.1rem;
      font-size: 0.92rem;
    }
    li {
      padding: 0.12rem 0;
    }
    .rules,
    .turns {
      list-style: none;
      padding: 0;
      margin-bottom: 0.6rem;
    }
    .rules li {
      display: flex;
      justify-content: space-between;
      gap: 0.5rem;
      border-bottom: 1px solid var(--line);
    }
    .turns {
      max-height: 22rem;
      overflow-y: auto;
    }
    .turns li {
      border-bottom: 1px solid var(--line);
    }
    .turns span {
      display: block;
      font-size: 0.88rem;
    }
    .more {
      display: flex;
      flex-wrap: wrap;
      gap: 0.4rem 1rem;
      align-items: center;
      margin-top: 0.9rem;
      padding-top: 0.6rem;
      border-top: 1px solid var(--line);
    }
  `,
})
export class DoorWhatIfPanel {
  readonly rules = input.required<readonly DoorRule[]>();
  readonly turns = input.required<View<DoorTurns>>();
  readonly closing = input.required<EntryClosing | null>();
  readonly servers = input.required<readonly Choice[]>();
  readonly mayPropose = input.required<boolean>();
  readonly closeIdle = output();
  /** The key of a rule that is added. */
  readonly shut = output<string>();
  readonly open = output<string>();
  /** The key of a rule that is taken back. */
  readonly undo = output<{ readonly key: string; readonly to: DoorRule['to'] }>();
  readonly clear = output();
  readonly propose = output<DoorTurns>();
  readonly opening = signal(false);
  readonly most = mostRules;
  readonly everywhere = everywhere;
  readonly say = sayDoor;
  readonly words = { moves: 'takes another door', 'cut off': 'is cut off', 'gets in': 'gets in' } as const;
  readonly tones = { moves: 'weak', 'cut off': 'fails', 'gets in': 'holds' } as const;
  readonly shownRules = computed(() => {
    const names = new Map(this.servers().map(({ key, word }) => [key, word]));
    return this.rules()
      .slice(0, mostRules)
      .map((rule) => ({
        key: keyOf(rule),
        to: rule.to,
        words: ruleWords(rule),
        where: rule.serverId === null ? 'everywhere' : `on ${names.get(rule.serverId) ?? rule.serverId}`,
      }));
  });
  readonly closableWords = computed(() =>
    byNumber(
      this.closing()?.close.length ?? 0,
      '# weak door can be closed now: no link needs it.',
      '# weak doors can be closed now: no link needs them.',
    ),
  );
  readonly keptWords = computed(() =>
    byNumber(this.closing()?.keep.length ?? 0, '# weak door is still needed', '# weak doors are still needed'),
  );

  namesOf(links: readonly { readonly name: string }[]): string {
    const [first, ...rest] = links.map(({ name }) => name);
    if (first === undefined) return 'nobody';
    return rest.length === 0 ? first : `${first} ${byNumber(rest.length, 'and # more', 'and # more')}`;
  }

  cutOffWords({ counts }: DoorTurns): string {
    return counts.cutOff === 0
      ? 'No link is cut off.'
      : byNumber(counts.cutOff, '# link is cut off.', '# links are cut off.');
  }

  movedWords({ counts }: DoorTurns): string {
    return [
      counts.moves === 0 ? '' : byNumber(counts.moves, '# takes another door.', '# take another door.'),
      counts.getsIn === 0 ? '' : byNumber(counts.getsIn, '# gets in.', '# get in.'),
    ]
      .filter((says) => says !== '')
      .join(' ');
  }
}
