import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';
import { FormControl } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { byNumber, counted, isServiceNeed } from '@loyal-hinge/core';
import type { PassageChange } from '@loyal-hinge/core';
import type { FirewallRule, FirewallView } from '@loyal-hinge/contract';
import { FileButton } from '../forms/file-button';
import { TextField } from '../forms/text-field';
import { ProblemNotice } from '../http/problem-notice';
import { orderActions, ordersFeature } from '../orders/state';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { CopyText } from '../signs/copy-text';
import { Moment } from '../signs/moment';
import { purposeWords, sayWorth, verdictWords, worthWords } from './passage-words';
import { RuleChange } from './rule-change';
import { passageActions, passageFeature } from './state';

const formatWords = {
  'nft-json': 'nftables, as JSON',
  nft: 'nftables',
  iptables: 'iptables',
  windows: 'Windows firewall',
  list: 'plain list',
} as const;
const ill: readonly FirewallRule['worth'][] = ['too-wide', 'unneeded', 'shadowed'];

/** A firewall: its rules, what each is worth to the links that go over it, and which would turn were one changed. */
@Component({
  selector: 'hinge-firewall-page',
  imports: [
    CopyText,
    FileButton,
    Ledger,
    LedgerCell,
    Moment,
    PagePath,
    ProblemNotice,
    RouterLink,
    RuleChange,
    TextField,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      @if (view(); as known) {
        <hinge-path above="Firewalls" way="/passage/firewalls" [here]="known.firewall.name" />
        <header class="page-head">
          <h1>{{ headline() }}</h1>
          <div class="actions">
            @if (running().includes('import')) {
              <span class="faint" role="status">Reading the rules …</span>
            }
            <hinge-file-button
              words="Import rules …"
              about="of {{ known.firewall.name }}"
              [disabled]="!mayChange() || running().includes('import')"
              (taken)="bring($event)"
            />
          </div>
        </header>
        <hinge-problem [problem]="problem()" />
        <hinge-problem [problem]="orderProblem()" />
        @if (known.firewall.rules; as rules) {
          <p class="faint">
            {{ formatWords[rules.format] }}, {{ rules.file }}, brought by {{ rules.takenBy }}
            <hinge-moment [at]="rules.takenAt" show="near" />. {{ linkWords() }}
          </p>
        } @else {
          <p class="empty">
            Its rules are not known yet. Import what it writes itself: the output of <code>nft list ruleset</code>,
            <code>nft -j list ruleset</code>, <code>iptables-save</code> or <code>ip6tables-save</code>, an export of
            the registry key of the Windows firewall, or a plain list (docs/formats.md).
          </p>
        }
        @if (known.notes.length > 0) {
          <details class="notes">
            <summary>{{ noteWords() }}</summary>
            <ul>
              @for (note of known.notes; track $index) {
                <li>
                  @if (note.line > 0) {
                    Line {{ note.line }}:
                  }
                  {{ note.says }}
                </li>
              }
            </ul>
          </details>
        }
        @if (known.rules.length > 0) {
          <hinge-ledger
            [columns]="columns"
            [rows]="known.rules"
            [idOf]="idOf"
            [find]="find()"
            (findChange)="go({ find: $event })"
            [open]="opened()"
            what="any rule, chain or link"
            fileName="rules"
          >
            <ng-template hingeCell="text" [hingeCellOf]="known.rules" let-row>
              <code>{{ row.text }}</code>
            </ng-template>
            <ng-template hingeCell="worth" [hingeCellOf]="known.rules" let-row>
              <span [class.weak]="isIll(row)" [title]="sayWorth(row)">{{ worthWords[row.worth] }}</span>
            </ng-template>
            <ng-template hingeCell="acts" [hingeCellOf]="known.rules" let-row>
              <button
                type="button"
                class="act"
                (click)="toggle(row)"
                [attr.aria-expanded]="idOf(row) === openId()"
                [attr.aria-label]="'Look at rule ' + (row.index + 1) + ' of ' + row.chain"
              >
                {{ idOf(row) === openId() ? 'Close' : 'Look' }}
              </button>
            </ng-template>
            <ng-template hingeCell="below" [hingeCellOf]="known.rules" let-row>
              <div class="below">
                <p>{{ sayWorth(row) }}</p>
                @if (row.links.length > 0) {
                  <p>
                    {{ row.worth === 'stops' ? 'Stops:' : 'Needed by:' }}
                    @for (link of row.links; track link.id; let last = $last) {
                      <a [routerLink]="['/passage']" [queryParams]="{ link: link.id }">{{ link.name }}</a>{{
                        last ? '' : ', '
                      }}
                    }
                  </p>
                }
                @for (crossing of row.withoutConduit; track crossing.from + crossing.to) {
                  <p class="weak">
                    It lets {{ crossing.from }} open connections to {{ crossing.to }}, and there is no conduit for that.
                  </p>
                }
                @if (row.needed.length > 0) {
                  <h3>What is needed of it</h3>
                  <ul class="mono">
                    @for (line of row.needed; track line) {
                      <li>{{ line }}</li>
                    }
                  </ul>
                }
                @if (row.unneeded.length > 0) {
                  <h3>What nobody needs of it</h3>
                  <ul class="mono">
                    @for (line of row.unneeded; track line) {
                      <li>{{ line }}</li>
                    }
                    @if (row.moreUnneeded > 0) {
                      <li>and {{ row.moreUnneeded }} more</li>
                    }
                  </ul>
                }
                @if (row.narrowed.length > 0) {
                  <h3>Rules that let through just what is needed</h3>
                  @for (rule of row.narrowed; track rule) {
                    <p><hinge-copy [text]="rule" /></p>
                  }
                }
                <hinge-text label="Try another text" [control]="changed" />
                <div class="actions">
                  <button type="button" class="act main" [disabled]="isTrying()" (click)="tryChanged(row)">
                    Try it
                  </button>
                  @if (row.narrowed.length > 0) {
                    <button type="button" class="act" [disabled]="isTrying()" (click)="tryNarrowed(row)">
                      Try the narrow rules instead
                    </button>
                  }
                  <button type="button" class="act" [disabled]="isTrying()" (click)="tryWithout(row)">
                    Try without it
                  </button>
                  @if (isTrying()) {
                    <span class="faint" role="status">Judging all links …</span>
                  }
                </div>
                @if (turns(); as told) {
                  <div role="status">
                    @for (turn of told.turns; track turn.linkId + turn.purpose) {
                      <p>
                        <a [routerLink]="['/passage']" [queryParams]="{ link: turn.linkId }">{{ turn.link }}</a>,
                        {{ purposeWords[turn.purpose] }}: {{ verdictWords[turn.before] }} →
                        <strong>{{ verdictWords[turn.after] }}</strong>
                      </p>
                    } @empty {
                      <p>No link would be judged otherwise.</p>
                    }
                    @if (changeTried(row); as change) {
                      @if (row.worth === 'unneeded' || row.worth === 'too-wide') {
                        <p class="faint">
                          Only what links and services of this plant need is known here. Ask who else uses it before you
                          change it.
                        </p>
                      }
                      <hinge-rule-change [change]="change" (proposed)="propose(row, $event)" />
                    }
                  </div>
                }
              </div>
            </ng-template>
          </hinge-ledger>
        }
      } @else {
        <hinge-problem [problem]="problem()" />
        @if (!problem()) {
          <hinge-waiting />
        }
      }
    </div>
  `,
  styles: `
    code {
      font-family: var(--mono);
      overflow-wrap: anywhere;
      white-space: normal;
    }
    .weak {
      color: var(--weak);
      font-weight: 600;
    }
    .below {
      padding: 0.4rem 0 0.8rem;
    }
    .below p {
      margin: 0.2rem 0;
    }
    h3 {
      margin: 0.7rem 0 0.2rem;
      font-size: 1rem;
    }
    ul {
      margin: 0;
      padding-left: 1.2rem;
    }
    .notes {
      margin: 0.5rem 0;
    }
  `,
})
export class FirewallPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly firewallId = input.required<string>();
  readonly find = input('', { transform: fromAddress });
  /** Which rule is open. */
  readonly openId = signal<string | null>(null);
  readonly opened = computed(() => this.openId());
  readonly changed = new FormControl('', { nonNullable: true });
  readonly mayChange = may('engineer');
  readonly view = this.store.selectSignal(passageFeature.selectShownFirewall);
  readonly turns = this.store.selectSignal(passageFeature.selectShownTurns);
  private readonly turnsView = this.store.selectSignal(passageFeature.selectTurns);
  readonly isTrying = computed(() => this.turnsView().isLoading);
  readonly running = this.store.selectSignal(passageFeature.selectRunning);
  readonly problem = this.store.selectSignal(passageFeature.selectProblem);
  /** Why a work order could not be proposed; null: it was, or nobody did. */
  readonly orderProblem = this.store.selectSignal(ordersFeature.selectProblem);
  /** What was tried of the open rule. */
  private readonly tried = signal<'another text' | 'narrow' | 'without' | null>(null);
  readonly headline = computed(() => headlineOf(this.view()));
  readonly noteWords = computed(() => `${counted(this.view()?.notes.length ?? 0, 'line')} could not be understood`);
  readonly linkWords = computed(() => {
    const { links = 0, stopped = 0 } = this.view()?.firewall ?? {};
    return links === 0
      ? 'No link goes over it.'
      : `${byNumber(links, '1 link goes over it', '# links go over it')}, and ${stopped === 0 ? 'it stops none' : byNumber(stopped, 'it stops 1', 'it stops #')}.`;
  });
  readonly idOf = ({ table, chain, index }: FirewallRule): string => `${table}/${chain}/${index}`;
  readonly formatWords = formatWords;
  readonly worthWords = worthWords;
  readonly verdictWords = verdictWords;
  readonly purposeWords = purposeWords;
  readonly sayWorth = sayWorth;
  readonly isIll = ({ worth }: FirewallRule): boolean => ill.includes(worth);
  private readonly tables = computed(() => new Set(this.view()?.rules.map(({ table }) => table)).size);
  readonly columns: readonly Column<FirewallRule>[] = [
    {
      key: 'chain',
      title: 'Chain',
      text: ({ table, chain }) => (this.tables() > 1 ? `${table} ${chain}` : chain),
    },
    { key: 'index', title: 'No.', text: ({ index }) => String(index + 1), order: ({ index }) => index },
    { key: 'text', title: 'Rule', text: ({ text }) => text },
    { key: 'worth', title: 'Worth', text: ({ worth }) => worthWords[worth] },
    { key: 'links', title: 'Needed by', text: ({ links }) => String(links.length), order: ({ links }) => links.length },
  ];

  constructor() {
    this.store.dispatch(orderActions.begin());
    effect(() => {
      const firewallId = this.firewallId();
      untracked(() => {
        this.openId.set(null);
        this.store.dispatch(passageActions.lookAtFirewall({ firewallId }));
      });
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(passageActions.leaveFirewall()));
  }

  toggle(row: FirewallRule): void {
    const id = this.idOf(row);
    this.openId.set(this.openId() === id ? null : id);
    this.changed.setValue(row.text);
    this.tried.set(null);
    this.store.dispatch(passageActions.tryNoMore());
  }

  tryChanged({ table, chain, index }: FirewallRule): void {
    const text = this.changed.value.trim();
    if (text === '') return;
    this.tried.set('another text');
    this.store.dispatch(
      passageActions.try({
        firewallId: this.firewallId(),
        edits: [{ kind: 'replace', at: { table, chain, index }, text }],
      }),
    );
  }

  tryWithout({ table, chain, index }: FirewallRule): void {
    this.tried.set('without');
    this.store.dispatch(
      passageActions.try({ firewallId: this.firewallId(), edits: [{ kind: 'remove', at: { table, chain, index } }] }),
    );
  }

  /** Each goes before those that were put there already. */
  tryNarrowed({ table, chain, index, narrowed }: FirewallRule): void {
    const at = { table, chain, index };
    this.tried.set('narrow');
    this.store.dispatch(
      passageActions.try({
        firewallId: this.firewallId(),
        edits: [{ kind: 'remove', at }, ...narrowed.map((text) => ({ kind: 'add' as const, at, text }))],
      }),
    );
  }

  /** The change that was just tried on paper, where it leaves just what is needed. */
  changeTried({ worth, tightened }: FirewallRule): PassageChange | null {
    return this.tried() === (worth === 'too-wide' ? 'narrow' : 'without') ? tightened : null;
  }

  propose(row: FirewallRule, change: PassageChange): void {
    const firewall = this.view()?.firewall.name ?? '';
    const does = row.worth === 'too-wide' ? 'Narrow' : 'Take away';
    this.store.dispatch(
      orderActions.propose({
        order: {
          title: `${does} rule ${row.index + 1} of ${row.chain} at ${firewall}`,
          lines: [
            { change, why: sayWorth(row), linkIds: row.links.flatMap(({ id }) => (isServiceNeed(id) ? [] : [id])) },
          ],
        },
      }),
    );
  }

  async bring([file]: readonly File[]): Promise<void> {
    if (!file) return;
    const text = textOf(new Uint8Array(await file.arrayBuffer()));
    this.store.dispatch(passageActions.import({ firewallId: this.firewallId(), name: file.name, text }));
  }
}

/** Exports of a registry are UTF-16 with its mark, all else is UTF-8. */
function textOf(bytes: Uint8Array): string {
  const isWide = bytes[0] === 0xff && bytes[1] === 0xfe;
  return new TextDecoder(isWide ? 'utf-16le' : 'utf-8').decode(bytes);
}

function headlineOf(view: FirewallView | null): string {
  if (!view) return 'Firewall';
  const { name, rules, stopped } = view.firewall;
  if (!rules) return `The rules of ${name} are not known yet.`;
  const wide = view.rules.filter(({ worth }) => worth === 'too-wide' || worth === 'unneeded').length;
  const dead = view.rules.filter(({ worth }) => worth === 'shadowed').length;
  const parts = [
    stopped > 0 ? byNumber(stopped, 'stops 1 link', 'stops # links') : null,
    wide > 0 ? byNumber(wide, '1 rule lets through what nobody needs', '# rules let through what nobody needs') : null,
    dead > 0 ? byNumber(dead, '1 rule never decides', '# rules never decide') : null,
  ].filter((part) => part !== null);
  return parts.length === 0 ? `${name}: every rule is needed.` : `${name}: ${parts.join('; ')}.`;
}
