import { ChangeDetectionStrategy, Component, computed, effect, inject, input, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, counted } from '@loyal-hinge/core';
import type { AuditEntry, AuditQuery } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { ChoiceField } from '../shell/choice';
import { FilterLine } from '../shell/filter-line';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Moment, momentText } from '../signs/moment';
import { urlOf } from '../http/server';
import { aboutWords, detailsOf, nameIn } from './details';
import { trailActions, trailFeature } from './state';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { contractForm } from '../forms/contract-form';
import { DateField } from '../forms/date-field';
import { Waiting } from '../shell/waiting';
import { Message } from 'primeng/message';

/** Who did what and when: the audit trail. */
@Component({
  selector: 'hinge-trail-page',
  imports: [Message, Waiting, ChoiceField, DateField, FilterLine, Ledger, LedgerCell, Moment, ProblemNotice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        <span class="actions">
          @if (mayLook()) {
            <button type="button" class="act" (click)="save('json-lines')">Save as JSON lines</button>
            <button type="button" class="act" (click)="save('cef')">Save as CEF</button>
          }
          <button type="button" class="act main" [disabled]="!mayLook() || verifying()" (click)="verify()">
            {{ verifying() ? 'Verifying …' : 'Verify the trail' }}
          </button>
        </span>
      </header>
      <hinge-problem [problem]="problem()" />
      @if (report(); as told) {
        @if (told.isWhole) {
          <p-message severity="success">{{ wholeWords() }}</p-message>
        } @else {
          <p-message severity="error">
            <strong>The audit trail was changed after it was written.</strong>
            <ul>
              @for (fault of told.faults; track fault) {
                <li>{{ fault }}</li>
              }
            </ul>
            Compare it with a backup, and with the anchors that were sent elsewhere; find out who could write to the
            database.
          </p-message>
        }
      }
      @if (!mayLook()) {
        <p class="faint">This needs the role engineer.</p>
      } @else {
        <hinge-filter-line [find]="find()" what="any word of a row" (findChange)="go({ find: $event })" (save)="save()">
          <hinge-choice word="by" label="Who" [choices]="people()" [chosen]="actor()" (chose)="go({ actor: $event })" />
          <hinge-choice
            word="of"
            label="What"
            [choices]="deeds()"
            [chosen]="action()"
            (chose)="go({ action: $event })"
          />
          <hinge-date label="from" [inline]="true" [clears]="true" [control]="days.controls.from" />
          <hinge-date label="to" [inline]="true" [clears]="true" [control]="days.controls.to" />
        </hinge-filter-line>
        @if (loaded()) {
          <hinge-ledger [columns]="columns" [rows]="rows()" [idOf]="idOf" [plain]="true" empty="No row matches.">
            <ng-template hingeCell="at" [hingeCellOf]="rows()" let-row>
              <hinge-moment [at]="row.at" />
            </ng-template>
            <ng-template hingeCell="subject" [hingeCellOf]="rows()" let-row>
              <button
                type="button"
                class="plain"
                [attr.aria-label]="'Show all rows about ' + aboutWords(row.subject, row.details)"
                (click)="go({ subject: row.subject })"
              >
                {{ aboutWords(row.subject, row.details) }}
              </button>
            </ng-template>
            <ng-template hingeCell="details" [hingeCellOf]="rows()" let-row>
              @for (detail of detailsOf(row.details); track $index) {
                <div class="detail">
                  <span class="faint">{{ detail.name }}&ngsp;</span>
                  @if (detail.before !== null) {
                    <del>{{ detail.before }}</del> → <ins>{{ detail.value }}</ins>
                  } @else {
                    {{ detail.value }}
                  }
                </div>
              }
            </ng-template>
          </hinge-ledger>
          <p class="more">
            @if (subject() !== '') {
              <button type="button" class="act" (click)="go({ subject: '' })">
                Show all, not only “{{ about() }}”
              </button>
            }
            @if (next() !== null) {
              <button type="button" class="act" [disabled]="loading()" (click)="older()">
                {{ loading() ? 'Loading …' : 'Show older rows' }}
              </button>
            }
          </p>
        } @else {
          <hinge-waiting />
        }
      }
    </div>
  `,
  styles: `
    .detail {
      display: inline-block;
      max-width: 100%;
      margin-inline-end: 1.1rem;
      overflow-wrap: anywhere;
    }
    ins {
      text-decoration: none;
    }
    del {
      color: var(--faint);
    }
    .more {
      display: flex;
      gap: 0.6rem;
      margin-top: 0.8rem;
    }
  `,
})
export class TrailPage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly actor = input('', { transform: fromAddress });
  readonly action = input('', { transform: fromAddress });
  readonly subject = input('', { transform: fromAddress });
  readonly from = input('', { transform: fromAddress });
  readonly to = input('', { transform: fromAddress });
  readonly rows = this.store.selectSignal(trailFeature.selectRows);
  readonly loaded = this.store.selectSignal(trailFeature.selectLoaded);
  readonly loading = this.store.selectSignal(trailFeature.selectLoading);
  readonly next = this.store.selectSignal(trailFeature.selectNext);
  readonly report = this.store.selectSignal(trailFeature.selectReport);
  readonly verifying = this.store.selectSignal(trailFeature.selectVerifying);
  readonly problem = this.store.selectSignal(trailFeature.selectProblem);
  readonly mayLook = may('engineer');
  readonly detailsOf = detailsOf;
  readonly aboutWords = aboutWords;
  private readonly actors = this.store.selectSignal(trailFeature.selectActors);
  private readonly actions = this.store.selectSignal(trailFeature.selectActions);
  readonly people = computed(() => choicesOf('anybody', this.actors(), this.actor()));
  readonly deeds = computed(() => choicesOf('any kind', this.actions(), this.action()));
  private readonly query = computed<AuditQuery>(() => ({
    find: this.find(),
    actor: this.actor(),
    action: this.action(),
    subject: this.subject(),
    from: this.from(),
    to: this.to(),
  }));
  /** What the rows are about, where they are about one thing. */
  readonly about = computed(() => {
    const named = this.rows().find(({ details }) => nameIn(details) !== null);
    return aboutWords(this.subject(), named?.details ?? {});
  });
  readonly headline = computed(() => {
    const [newest] = this.rows();
    if (!this.loaded() || !newest) return 'Audit trail';
    const [many, about] = [this.rows().length, this.about()];
    if (about === '')
      return this.next() === null
        ? byNumber(many, '# row of the audit trail.', '# rows of the audit trail.')
        : byNumber(many, 'The newest row of the audit trail.', 'The newest # rows of the audit trail.');
    return this.next() === null
      ? byNumber(many, `# row of the audit trail about ${about}.`, `# rows of the audit trail about ${about}.`)
      : byNumber(many, `The newest row about ${about}.`, `The newest # rows of the audit trail about ${about}.`);
  });
  readonly wholeWords = computed(() => {
    const told = this.report();
    if (!told) return '';
    const whole = `The audit trail is whole: ${counted(told.rows, 'row')}`;
    return told.sealed
      ? `${whole}. It was last sealed on ${momentText(told.sealed.at)}; ${counted(told.seals, 'seal')} match.`
      : `${whole}. Nothing of it is sealed yet.`;
  });

  readonly columns = columns;
  readonly idOf = ({ sequence }: AuditEntry): string => String(sequence);
  /** The days from and up to which rows are shown, as the address has them. */
  readonly days = contractForm({}, { from: '', to: '' });

  constructor() {
    effect(() => this.days.setValue({ from: this.from(), to: this.to() }, { emitEvent: false }));
    this.days.valueChanges.subscribe(({ from = '', to = '' }) => this.go({ from, to }));
    effect(() => {
      const query = this.query();
      if (untracked(this.mayLook)) untracked(() => this.store.dispatch(trailActions.show({ query })));
    });
  }

  older(): void {
    this.store.dispatch(trailActions.showOlder());
  }

  verify(): void {
    this.store.dispatch(trailActions.verify());
  }

  /** The server writes all rows that fit, not only those that are shown. */
  save(form: keyof typeof fileNames = 'csv'): void {
    const link = document.createElement('a');
    link.href = urlOf('exportAudit', { query: { ...this.query(), form } });
    link.download = fileNames[form];
    link.click();
  }
}

const fileNames = { csv: 'audit-trail.csv', 'json-lines': 'audit-trail.jsonl', cef: 'audit-trail.cef' } as const;

const columns: readonly Column<AuditEntry>[] = [
  { key: 'at', title: 'When', text: ({ at }) => at, short: true },
  { key: 'actor', title: 'Who', text: ({ actor }) => actor },
  { key: 'action', title: 'What', text: ({ action }) => action },
  { key: 'subject', title: 'About', text: ({ subject, details }) => aboutWords(subject, details) },
  { key: 'details', title: 'Before and after', text: ({ details }) => JSON.stringify(details) },
];

function choicesOf(all: string, words: readonly string[], chosen: string) {
  const known = chosen === '' || words.includes(chosen) ? words : [chosen, ...words];
  return [{ key: '', word: all }, ...known.map((word) => ({ key: word, word }))];
}
