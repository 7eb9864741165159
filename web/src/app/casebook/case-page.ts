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
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isFieldStep, linkKinds } from '@loyal-hinge/core';
import type { StepId } from '@loyal-hinge/core';
import type { AttemptView, CaseActWish } from '@loyal-hinge/contract';
import { ReportForm } from '../hand-outs/report-form';
import { FindingView } from '../links/finding-view';
import { StepStrip } from '../links/step-strip';
import type { StripStep } from '../links/step-strip';
import { may } from '../session/may';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { CaseActForm } from './case-act-form';
import { CasebookHead } from './casebook-head';
import { agoWords, checkWords, doneWords, statusWords, timesWords } from './casebook-words';
import { casebookActions, casebookFeature } from './state';

const columns: readonly Column<AttemptView>[] = [
  { key: 'at', title: 'When', text: ({ at }) => at, short: true },
  { key: 'from', title: 'From', text: ({ from }) => from },
  { key: 'to', title: 'To', text: ({ to, port }) => (port === null ? to : `${to}, port ${port}`) },
  { key: 'as', title: 'As', text: ({ as }) => as ?? '' },
  { key: 'says', title: 'How it ended', text: ({ says }) => says },
  {
    key: 'evidence',
    title: 'Where it stands',
    text: ({ evidence }) => evidence.map(({ file, position }) => `${file}, byte ${position}`).join('; '),
  },
];

/** One case: how far it came, why it ended, what to do, and each attempt with where it stands. */
@Component({
  selector: 'hinge-case-page',
  imports: [
    CaseActForm,
    CasebookHead,
    FindingView,
    Ledger,
    LedgerCell,
    Moment,
    ReportForm,
    RouterLink,
    StepStrip,
    Waiting,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-casebook-head [headline]="headline()">
        @if (one() && mayAct()) {
          <button type="button" class="act" (click)="doing.set('note')">Write a note</button>
          <button type="button" class="act" (click)="doing.set('assign')">Give to …</button>
          @if (one()?.status?.state === 'open') {
            <button type="button" class="act" (click)="doing.set('close')">Close</button>
          } @else {
            <button type="button" class="act" (click)="doing.set('reopen')">Open again</button>
          }
        }
        @if (one()) {
          <button type="button" class="act" (click)="isReporting.set(true)">Report …</button>
        }
        @if (one()?.linkId; as linkId) {
          <a class="act" [routerLink]="['/links', linkId]">To the link</a>
        }
      </hinge-casebook-head>
      @if (one(); as known) {
        @if (isReporting()) {
          <hinge-report-form about="case" [id]="known.id" (left)="isReporting.set(false)" />
        }
        @if (doing(); as kind) {
          <hinge-case-act-form [one]="known" [kind]="kind" (left)="doing.set(null)" />
        }
        <p>
          <strong>{{ statusWords[known.status.state] }}{{ known.status.state === 'proved' ? ':' : '' }}</strong
          >&ngsp;
          @switch (known.status.state) {
            @case ('proved') {
              a check saw the link work <hinge-moment [at]="known.status.at ?? known.last" />.
            }
            @case ('closed') {
              by {{ known.status.by }}, <hinge-moment [at]="known.status.at ?? known.last" />: {{ known.status.why }}
            }
            @default {
              {{ known.assignedTo ? 'and with ' + known.assignedTo : 'and with nobody' }}.
            }
          }
        </p>
        <p>
          {{ known.from }} to {{ known.to }}{{ known.as ? ', as ' + known.as : '' }}, {{ times() }}:
          @if (known.first === known.last) {
            <hinge-moment [at]="known.first" />.
          } @else {
            first <hinge-moment [at]="known.first" />, last <hinge-moment [at]="known.last" />.
          }
          @if (known.linkName) {
            The link is <a [routerLink]="['/links', known.linkId]">{{ known.linkName }}</a>.
          } @else if (known.kind === 'stranger') {
            No link of the plant leads there.
          }
        </p>
        @if (known.findings.length === 0) {
          <p>{{ known.says }}</p>
        }
        @for (remark of known.remarks; track remark) {
          <p class="remark">{{ remark }}</p>
        }
        @if (steps().length > 0) {
          <hinge-step-strip [steps]="steps()" [chosen]="chosen()" (choose)="chosen.set($event)" />
          @if (chosenSays(); as says) {
            <p role="status">{{ says }}</p>
          }
        }
        @for (finding of known.findings; track finding.causeId) {
          <hinge-finding [finding]="finding" (mend)="toLink(known.linkId)" />
        }
        <h2>What changed before</h2>
        @for (line of known.before; track $index) {
          <p class="line-of">
            <hinge-moment [at]="line.at" />&ngsp;<span class="faint">{{ agoWords(line.at, known.first) }}</span
            >&ngsp;{{ line.says }}
            @if (line.orderId; as orderId) {
              <a [routerLink]="['/orders', orderId]">To the order</a>
            }
            @if (line.evidence; as stands) {
              <span class="faint">{{ stands.file }}, byte {{ stands.position }}</span>
            }
          </p>
        } @empty {
          <p class="faint">
            Nothing that is known here changed in the day before: no certificate of both ends ended, nobody changed a
            setting, and no log tells of a change at these machines.
          </p>
        }
        @if (known.acts.length > 0) {
          <h2>What was done</h2>
          @for (act of known.acts; track $index) {
            <p class="line-of">
              <hinge-moment [at]="act.at" />&ngsp;{{ doneWords(act) }}{{ act.text ? ': ' + act.text : '.' }}
            </p>
          }
        }
        <h2>Attempts</h2>
        @if (known.checks > 0) {
          <p>
            {{ checkWords(known) }}
            @if (known.linkId) {
              <a [routerLink]="['/links', known.linkId]">See what checks of the link found</a>.
            }
          </p>
        }
        @if (known.attempts > known.recent.length) {
          <p class="faint">The newest {{ known.recent.length }} of {{ known.attempts }}.</p>
        }
        @if (known.attempts === 0) {
          <p class="faint">No machine and no wire recorded it.</p>
        } @else {
          <hinge-ledger
            [columns]="columns"
            [rows]="known.recent"
            [idOf]="idOf"
            [open]="opened()"
            [(find)]="find"
            fileName="attempts"
          >
            <ng-template hingeCell="at" [hingeCellOf]="known.recent" let-row
              ><hinge-moment [at]="row.at"
            /></ng-template>
            <ng-template hingeCell="evidence" [hingeCellOf]="known.recent" let-row>
              @for (line of row.evidence; track $index) {
                <div>
                  @if (mayAct() && line.isConversation) {
                    <a [routerLink]="['/casebook/evidence', line.evidenceId, 'conversations', line.position]"
                      >Conversation in {{ line.file }}</a
                    >
                  } @else if (mayAct()) {
                    <button
                      type="button"
                      class="plain"
                      [attr.aria-expanded]="opened() === idOf(row)"
                      (click)="lookAt(row, line)"
                    >
                      {{ line.file }} <span class="mono">byte {{ line.position }}</span>
                    </button>
                  } @else {
                    {{ line.file }} <span class="faint mono">byte {{ line.position }}</span>
                  }
                </div>
              }
            </ng-template>
            <ng-template hingeCell="below" [hingeCellOf]="known.recent">
              @if (place(); as there) {
                @if (there.lines; as lines) {
                  <p class="faint">{{ there.name }}, from byte {{ lines[0]?.position }}:</p>
                  @for (line of lines; track line.position) {
                    <div class="mono line" [class.faint]="!$first">{{ line.text }}</div>
                  }
                } @else {
                  <p class="faint">{{ there.name }} is no text: what it says there stands in the row above.</p>
                }
              } @else {
                <hinge-waiting />
              }
            </ng-template>
          </hinge-ledger>
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    hinge-step-strip {
      display: block;
      margin: 0.8rem 0;
    }
    .remark {
      color: var(--weak);
    }
    .plain {
      all: unset;
      cursor: pointer;
      color: var(--lake);
      text-decoration: underline;
    }
    .plain:focus-visible {
      outline: 2px solid currentColor;
    }
    .line {
      overflow-wrap: anywhere;
      font-size: 0.88rem;
    }
    strong {
      display: inline-block;
    }
    strong::first-letter {
      text-transform: uppercase;
    }
    .line-of {
      margin: 0.15rem 0;
    }
    h2 {
      margin-top: 1.2rem;
    }
  `,
})
export class CasePage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  readonly caseId = input.required<string>();
  readonly one = this.store.selectSignal(casebookFeature.selectShownCase);
  readonly problem = this.store.selectSignal(casebookFeature.selectProblem);
  readonly find = signal('');
  readonly mayAct = may('engineer');
  /** The attempt below which its line of a log stands. */
  readonly opened = signal<string | null>(null);
  readonly place = this.store.selectSignal(casebookFeature.selectShownPlace);
  private placeShown = '';
  readonly chosen = signal<StepId | null>(null);
  readonly headline = computed(() => {
    const one = this.one();
    return one ? `${one.title}.` : 'Case';
  });
  readonly steps = computed<readonly StripStep[]>(() => {
    const one = this.one();
    if (!one?.assessment || one.linkKind === null) return [];
    const titles = new Map(linkKinds[one.linkKind].steps.map(({ id, title }) => [id, title]));
    const { steps } = one.assessment;
    // As on the link’s page: those behind the server only where it matters what lies there.
    const isBehind = steps.some(({ step, verdict }) => isFieldStep(step) && verdict !== 'not-needed');
    const shown = steps.filter(({ step }) => isBehind || !isFieldStep(step));
    return shown.map(({ step, verdict }) => ({
      id: step,
      title: titles.get(step) ?? step,
      verdict,
      working: false,
    }));
  });
  readonly chosenSays = computed(
    () => this.one()?.assessment?.steps.find(({ step }) => step === this.chosen())?.summary ?? null,
  );
  readonly times = computed(() => {
    const one = this.one();
    return one ? timesWords(one) : '';
  });
  /** What is being done about it. */
  readonly doing = signal<CaseActWish['kind'] | null>(null);
  readonly isReporting = signal(false);
  readonly statusWords = statusWords;
  readonly doneWords = doneWords;
  readonly agoWords = agoWords;
  readonly checkWords = checkWords;
  readonly columns = columns;
  readonly idOf = ({ at, from, port, evidence }: AttemptView): string =>
    `${at} ${from} ${port} ${evidence.map(({ evidenceId, position }) => `${evidenceId} ${position}`).join()}`;

  constructor() {
    effect(() => {
      const caseId = this.caseId();
      untracked(() => this.store.dispatch(casebookActions.look({ caseId })));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(casebookActions.leave()));
  }

  lookAt(row: AttemptView, { evidenceId, position }: AttemptView['evidence'][number]): void {
    if (evidenceId === null) return;
    const [id, place] = [this.idOf(row), `${evidenceId} ${position}`];
    const isOpen = this.opened() === id && this.placeShown === place;
    this.opened.set(isOpen ? null : id);
    this.placeShown = place;
    if (!isOpen) this.store.dispatch(casebookActions.lookAtPlace({ evidenceId, position }));
  }

  /** What can be done is done where the link is. */
  toLink(linkId: string | null): void {
    if (linkId !== null) void this.router.navigate(['/links', linkId]);
  }
}
