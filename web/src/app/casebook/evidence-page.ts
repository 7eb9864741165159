import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { ProgressBar } from 'primeng/progressbar';
import { byNumber } from '@loyal-hinge/core';
import { mostEvidenceBytes } from '@loyal-hinge/contract';
import type { ClockProposal, EvidenceRow } from '@loyal-hinge/contract';
import { DroppedFiles } from '../files/dropped-files';
import { sizeWords } from '../files/size-words';
import { FileButton } from '../forms/file-button';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { CasebookHead } from './casebook-head';
import { clockWords, proposalWords, readWords } from './casebook-words';
import { ReadingForm } from './reading-form';
import { RuleLedger } from './rule-ledger';
import { casebookActions, casebookFeature } from './state';

const columns: readonly Column<EvidenceRow>[] = [
  { key: 'name', title: 'File', text: ({ name }) => name },
  { key: 'size', title: 'Size', text: ({ bytes }) => sizeWords(bytes), order: ({ bytes }) => bytes, short: true },
  { key: 'read', title: 'What was read', text: readWords },
  {
    key: 'attempts',
    title: 'Attempts',
    text: ({ attempts, state }) => (state === 'read' ? String(attempts) : ''),
    order: ({ attempts }) => attempts,
  },
  {
    key: 'span',
    title: 'From and to',
    text: ({ firstAt, lastAt }) => `${firstAt ?? ''} ${lastAt ?? ''}`.trim(),
    short: true,
  },
  { key: 'clock', title: 'Its clock', text: clockWords },
  { key: 'by', title: 'Brought', text: ({ broughtBy, broughtAt }) => `${broughtBy} ${broughtAt}` },
];

/** What was brought, from when, how much of it was understood, and how its clock stood. */
@Component({
  selector: 'hinge-evidence-page',
  imports: [CasebookHead, ReadingForm, FileButton, Ledger, LedgerCell, Moment, ProgressBar, RuleLedger, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-casebook-head [headline]="headline()">
        @if (mayAct()) {
          <hinge-file-button
            words="Bring captures and logs"
            [multiple]="true"
            [mostBytes]="mostBytes"
            (taken)="bring($event)"
          />
        }
      </hinge-casebook-head>
      @if (mayAct()) {
        <p class="faint">
          What is put into the folder <span class="mono">watched</span> beside the server’s data is taken in by itself.
        </p>
      }
      @for (one of sending(); track one.name) {
        <div class="sending" role="status">
          <span>{{ one.name }}: {{ size(one.sent) }} of {{ size(one.bytes) }}</span>
          <p-progressbar [value]="share(one)" [showValue]="false" [attr.aria-label]="one.name" />
        </div>
      }
      @if (readingOf(); as row) {
        <hinge-reading-form [row]="row" (left)="readingId.set(null)" />
      }
      @if (view(); as known) {
        <hinge-ledger
          [columns]="columns"
          [rows]="known.evidence"
          [idOf]="idOf"
          [find]="find()"
          (findChange)="go({ find: $event })"
          [open]="opened()"
          what="any file or person"
          fileName="captures-and-logs"
        >
          <span empty>
            Bring what there is, or let it fall onto this window: captures (pcap, pcapng), event logs of Windows (evtx,
            XML), logs of firewalls, and other logs. Each is told by what is in it; nothing is sent anywhere.
          </span>
          <ng-template hingeCell="read" [hingeCellOf]="known.evidence" let-row>
            <span [class.fails]="row.state === 'refused'">{{ words(row) }}</span>
            @if (notUnderstood(row); as told) {
              <div>
                <button type="button" class="plain" [attr.aria-expanded]="opened() === row.id" (click)="toggle(row)">
                  {{ told }}
                </button>
              </div>
            }
          </ng-template>
          <ng-template hingeCell="span" [hingeCellOf]="known.evidence" let-row>
            @if (row.firstAt && row.lastAt) {
              <div><hinge-moment [at]="row.firstAt" /></div>
              <div><hinge-moment [at]="row.lastAt" /></div>
            }
          </ng-template>
          <ng-template hingeCell="clock" [hingeCellOf]="known.evidence" let-row>
            {{ clockOfRow(row) }}
            @if (proposals().get(row.id); as proposal) {
              <div class="proposed">
                {{ proposed(proposal) }}
                @if (mayAct()) {
                  <button
                    type="button"
                    class="plain"
                    (click)="setRight(proposal)"
                    [attr.aria-label]="'Set the clock of ' + row.name + ' right'"
                  >
                    Set it right
                  </button>
                }
              </div>
            }
          </ng-template>
          <ng-template hingeCell="by" [hingeCellOf]="known.evidence" let-row>
            <hinge-moment [at]="row.broughtAt" show="near" />
            <div class="faint">by {{ row.broughtBy }}</div>
          </ng-template>
          <ng-template hingeCell="below" [hingeCellOf]="known.evidence" let-row>
            <ul>
              @for (gap of row.gaps; track $index) {
                <li>
                  <span class="mono">byte {{ gap.position }}</span> {{ gap.says }}
                </li>
              }
              @for (passed of row.passedOver; track passed) {
                <li>{{ passed }}</li>
              }
            </ul>
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="known.evidence" let-row>
            @if (mayAct()) {
              @if (row.state === 'read' || (row.state === 'refused' && row.ruleId)) {
                <button
                  type="button"
                  class="act"
                  (click)="readingId.set(row.id)"
                  [attr.aria-label]="'How ' + row.name + ' is read'"
                >
                  How it is read …
                </button>
              }
              <button type="button" class="act" (click)="remove(row)" [attr.aria-label]="'Remove ' + row.name">
                {{ row.state === 'reading' ? 'Stop and remove …' : 'Remove …' }}
              </button>
            }
          </ng-template>
        </hinge-ledger>
        <hinge-rule-ledger />
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .sending {
      display: grid;
      grid-template-columns: minmax(0, 26rem) minmax(8rem, 20rem);
      align-items: center;
      gap: 1rem;
      margin-bottom: 0.5rem;
    }
    .fails {
      color: var(--fails);
    }
    .proposed {
      color: var(--weak);
      font-size: 0.88rem;
    }
    .plain {
      all: unset;
      cursor: pointer;
      color: var(--weak);
      font-size: 0.88rem;
      text-decoration: underline;
    }
    .plain:focus-visible {
      outline: 2px solid currentColor;
    }
    ul {
      margin: 0;
      padding-left: 1.1rem;
    }
  `,
})
export class EvidencePage {
  private readonly store = inject(Store);
  private readonly ask = inject(Ask);
  private readonly dropped = inject(DroppedFiles);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly view = this.store.selectSignal(casebookFeature.selectShown);
  readonly sending = this.store.selectSignal(casebookFeature.selectSending);
  readonly mayAct = may('engineer');
  readonly opened = signal<string | null>(null);
  readonly readingId = signal<string | null>(null);
  readonly readingOf = computed(() => this.view()?.evidence.find(({ id }) => id === this.readingId()) ?? null);
  readonly proposals = computed(
    () => new Map((this.view()?.clocks ?? []).map((proposal) => [proposal.evidenceId, proposal])),
  );
  readonly headline = computed(() => {
    const evidence = this.view()?.evidence;
    if (!evidence) return 'Captures and logs';
    if (evidence.length === 0) return 'No capture and no log is here yet.';
    const inPart = evidence.filter(({ state, notUnderstood }) => state === 'read' && notUnderstood > 0).length;
    const refused = evidence.filter(({ state }) => state === 'refused').length;
    const parts = [
      byNumber(evidence.length, '1 file was brought', '# files were brought'),
      inPart > 0 ? byNumber(inPart, '1 was understood only in part', '# were understood only in part') : null,
      refused > 0 ? byNumber(refused, '1 was refused', '# were refused') : null,
    ];
    return `${parts.filter((part) => part !== null).join('; ')}.`;
  });
  readonly columns = columns;
  readonly mostBytes = mostEvidenceBytes;
  readonly size = sizeWords;
  readonly words = readWords;
  readonly clockOfRow = clockWords;
  readonly proposed = proposalWords;
  readonly idOf = ({ id }: EvidenceRow): string => id;

  constructor() {
    this.store.dispatch(casebookActions.show());
    effect(() => {
      const files = this.dropped.recorded();
      if (files.length === 0) return;
      untracked(() => {
        this.dropped.recorded.set([]);
        this.bring(files);
      });
    });
  }

  share = ({ sent, bytes }: { readonly sent: number; readonly bytes: number }): number =>
    Math.round((sent / Math.max(1, bytes)) * 100);

  notUnderstood({ state, notUnderstood, passedOver, fault }: EvidenceRow): string {
    if (state !== 'read') return '';
    if (fault !== null) return fault;
    if (notUnderstood > 0) return byNumber(notUnderstood, '1 place was not understood', '# places were not understood');
    return passedOver.length > 0 ? 'Something was passed over' : '';
  }

  bring(files: readonly File[]): void {
    for (const file of files) this.store.dispatch(casebookActions.bring({ file }));
  }

  setRight({ evidenceId, clock }: ClockProposal): void {
    this.store.dispatch(casebookActions.setReading({ evidenceId, reading: clock }));
  }

  toggle({ id }: EvidenceRow): void {
    this.opened.set(this.opened() === id ? null : id);
  }

  remove({ id, name }: EvidenceRow): void {
    this.ask.first({
      title: `Remove ${name}?`,
      says: 'The file is thrown away with all attempts that it tells of; cases that rest on it alone go, too. To go back, bring it again.',
      does: 'Remove',
      run: () => this.store.dispatch(casebookActions.remove({ evidenceId: id, name })),
    });
  }
}
