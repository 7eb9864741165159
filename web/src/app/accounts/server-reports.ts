import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { byNumber, reportKinds } from '@loyal-hinge/core';
import type { ReportKind } from '@loyal-hinge/core';
import type { ServerReportView, ServerReportsView } from '@loyal-hinge/contract';
import { Choose } from '../forms/choose';
import { contractForm } from '../forms/contract-form';
import { may } from '../session/may';
import { ChoiceField } from '../shell/choice';
import { FormSheet } from '../shell/form-sheet';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Moment } from '../signs/moment';
import { accountsActions } from './state';

const kindWords: Readonly<Record<ReportKind, string>> = {
  channel: 'secure channels',
  session: 'sessions',
  'sign-in': 'sign-ins',
  certificate: 'certificates',
  write: 'writes',
  history: 'recorded values',
  method: 'methods',
  nodes: 'nodes',
  alarm: 'alarms',
  other: 'something else',
};
const outcomeWords = { done: 'done', refused: 'refused', unknown: 'not told' } as const;

const columns: readonly Column<ServerReportView>[] = [
  { key: 'at', title: 'When', text: ({ at }) => at, short: true },
  { key: 'says', title: 'What', text: ({ says }) => says },
  { key: 'outcome', title: 'Outcome', text: ({ outcome }) => outcomeWords[outcome], short: true },
  { key: 'user', title: 'User', text: ({ userName }) => userName ?? '' },
  { key: 'application', title: 'Application', text: ({ application }) => application ?? '' },
];

const spans = [
  { key: '5', word: '5 minutes' },
  { key: '15', word: '15 minutes' },
  { key: '60', word: 'an hour' },
] as const;

/** What a server says of itself in audit events: kept as reported, since nobody here has seen it. */
@Component({
  selector: 'hinge-server-reports',
  imports: [ChoiceField, Choose, FormSheet, Ledger, LedgerCell, Moment, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let told = reports();
    <p class="faint" role="status">
      {{ words() }}
      @if (told.listening; as now) {
        It ends at <hinge-moment [at]="now.until" show="time" />.
      } @else if (told.ended; as ended) {
        Listening ended at <hinge-moment [at]="ended.at" show="near" />. {{ ended.says }}
      }
    </p>
    @if (isAsking()) {
      <hinge-form-sheet
        heading="Listen to audit events"
        does="Listen"
        [form]="form"
        (sent)="listen()"
        (left)="isAsking.set(false)"
      >
        <p class="faint">
          A session of the administrator is held for so long; nothing is changed. Checks of this machine wait meanwhile.
        </p>
        <hinge-choose label="For" [formControl]="form.controls.minutes" [choices]="spans" />
      </hinge-form-sheet>
    } @else if (told.listening) {
      <button type="button" class="act" [disabled]="!mayAct() || isBusy()" (click)="end()">Listen no more</button>
    } @else {
      <button type="button" class="act" [disabled]="!mayAct() || isBusy()" (click)="isAsking.set(true)">
        Listen …
      </button>
    }
    @if (told.total > 0) {
      <hinge-ledger
        [columns]="columns"
        [rows]="rows()"
        [idOf]="idOf"
        [total]="told.reports.length"
        [(find)]="find"
        what="words, user, application"
        name="reports"
        fileName="audit-events"
        empty="None of this kind."
      >
        <hinge-choice word="about" label="Kind" [choices]="kinds()" [chosen]="kind()" (chose)="kind.set($event)" />
        <ng-template hingeCell="at" [hingeCellOf]="rows()" let-row
          ><hinge-moment [at]="row.at" show="near"
        /></ng-template>
        <ng-template hingeCell="outcome" [hingeCellOf]="rows()" let-row>
          <span [class]="row.outcome === 'refused' ? 'fails' : 'faint'">{{ outcomes[row.outcome] }}</span>
        </ng-template>
      </hinge-ledger>
    }
  `,
  styles: `
    p {
      margin: 0.4rem 0;
      font-size: 0.9rem;
    }
    hinge-ledger {
      display: block;
      margin-top: 0.7rem;
    }
  `,
})
export class ServerReports {
  private readonly store = inject(Store);
  readonly serverId = input.required<string>();
  readonly reports = input.required<ServerReportsView>();
  readonly isBusy = input(false);
  readonly mayAct = may('engineer');
  readonly isAsking = signal(false);
  readonly find = signal('');
  readonly kind = signal('');
  readonly columns = columns;
  readonly outcomes = outcomeWords;
  readonly spans = spans;
  readonly form = contractForm({}, { minutes: '5' });
  readonly idOf = ({ id }: ServerReportView): string => String(id);
  readonly kinds = computed(() => {
    const there = new Set(this.reports().reports.map(({ kind }) => kind));
    const words = reportKinds.filter((kind) => there.has(kind)).map((kind) => ({ key: kind, word: kindWords[kind] }));
    return [{ key: '', word: 'anything' }, { key: 'refused', word: 'what was refused' }, ...words];
  });
  readonly rows = computed(() => {
    const kind = this.kind();
    return this.reports().reports.filter(
      (row) => kind === '' || row.kind === kind || (kind === 'refused' && row.outcome === 'refused'),
    );
  });
  readonly words = computed(() => {
    const { listening, total, refused, reports } = this.reports();
    const kept = [
      total === 0
        ? 'No audit event of this server is kept.'
        : byNumber(total, '# audit event is kept', '# audit events are kept'),
      refused === 0 ? '' : byNumber(refused, ', # of them a refusal', ', # of them refusals'),
      total === 0 ? '' : total > reports.length ? `; the newest ${reports.length} are shown.` : '.',
    ].join('');
    return listening ? `${listening.says} ${kept}` : kept;
  });

  listen(): void {
    const minutes = Number(this.form.getRawValue().minutes);
    this.store.dispatch(accountsActions.listen({ serverId: this.serverId(), minutes }));
    this.isAsking.set(false);
  }

  end = (): void => this.store.dispatch(accountsActions.listenNoMore({ serverId: this.serverId() }));
}
