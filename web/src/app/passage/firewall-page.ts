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
import { Store } from '@ngrx/store';
import { byNumber, counted } from '@loyal-hinge/core';
import type { FirewallRule, FirewallView } from '@loyal-hinge/contract';
import { FileButton } from '../forms/file-button';
import { ProblemNotice } from '../http/problem-notice';
import { orderActions, ordersFeature } from '../orders/state';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { sayWorth, worthWords } from './passage-words';
import { RuleLook } from './rule-look';
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
  imports: [FileButton, Ledger, LedgerCell, Moment, PagePath, ProblemNotice, RuleLook, Waiting],
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
              <hinge-rule-look [row]="row" [firewall]="known.firewall" />
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
  readonly mayChange = may('engineer');
  readonly view = this.store.selectSignal(passageFeature.selectShownFirewall);
  readonly running = this.store.selectSignal(passageFeature.selectRunning);
  readonly problem = this.store.selectSignal(passageFeature.selectProblem);
  /** Why a work order could not be proposed; null: it was, or nobody did. */
  readonly orderProblem = this.store.selectSignal(ordersFeature.selectProblem);
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
    this.store.dispatch(passageActions.tryNoMore());
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
