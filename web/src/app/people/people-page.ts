import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { byNumber, counted } from '@loyal-hinge/core';
import type { Person } from '@loyal-hinge/contract';
import { onceMore } from '../http/once-more';
import { ProblemNotice } from '../http/problem-notice';
import { may } from '../session/may';
import { sessionFeature } from '../session/state';
import { ChoiceField } from '../shell/choice';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { addressWriter, fromAddress } from '../shell/page-address';
import { Moment } from '../signs/moment';
import { PersonForm } from './person-form';
import type { PersonWish } from './person-form';
import { SessionsTable } from './sessions-table';
import { isRunning, peopleActions, peopleFeature } from './state';
import type { PeopleCommand } from './state';
import { Waiting } from '../shell/waiting';

/** Who can sign in, in which role and since when: for administrators. */
@Component({
  selector: 'hinge-people-page',
  imports: [Waiting, ProblemNotice, Ledger, LedgerCell, ChoiceField, Moment, PersonForm, SessionsTable],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>{{ headline() }}</h1>
        <span class="actions">
          <button type="button" class="act main" [disabled]="!mayKeep()" (click)="open({ form: 'add' })">
            Add a person
          </button>
        </span>
      </header>
      @if (!mayKeep()) {
        <p class="faint">
          Only administrators see who can sign in. Your own password and sessions are on your own page.
        </p>
      } @else if (loaded()) {
        @if (wish() === null) {
          <hinge-problem [problem]="problem()" />
        }
        <hinge-ledger
          [columns]="columns"
          [rows]="shown()"
          [idOf]="nameOf"
          [find]="find()"
          [open]="opened()?.name ?? null"
          what="any name or role"
          fileName="people"
          empty="Nobody matches."
          (findChange)="go({ find: $event })"
        >
          <hinge-choice
            word="of"
            label="Which people"
            [choices]="choices"
            [chosen]="only()"
            (chose)="go({ only: $event })"
          />
          <ng-template hingeCell="state" [hingeCellOf]="shown()" let-person>
            <span [class.fails]="person.isDisabled" [class.weak]="!person.isDisabled && person.mustChangePassword">{{
              stateOf(person)
            }}</span>
          </ng-template>
          <ng-template hingeCell="lastSignedInAt" [hingeCellOf]="shown()" let-person>
            @if (person.lastSignedInAt) {
              <hinge-moment [at]="person.lastSignedInAt" />
            } @else {
              <span class="faint">never</span>
            }
          </ng-template>
          <ng-template hingeCell="sessions" [hingeCellOf]="shown()" let-person>
            <button
              type="button"
              class="plain"
              [attr.aria-expanded]="opened()?.name === person.name"
              (click)="toggle(person.name)"
            >
              {{ sessionsOf(person) }}
            </button>
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="shown()" let-person>
            <button type="button" class="plain" (click)="open({ form: 'change', person })">Change</button>
            <button
              type="button"
              class="plain"
              [disabled]="person.name === own()?.name"
              (click)="open({ form: 'reset', person })"
            >
              New first password
            </button>
          </ng-template>
          <ng-template hingeCell="below" [hingeCellOf]="shown()" let-person>
            @if (opened()?.sessions; as sessions) {
              <hinge-sessions-table
                [sessions]="sessions"
                (ends)="carryOut({ does: 'end session', name: person.name, id: $event })"
              />
            }
          </ng-template>
        </hinge-ledger>
      } @else {
        <hinge-waiting />
      }
      @if (wish(); as form) {
        <hinge-person-form
          [wish]="form"
          [busy]="isSaving()"
          [problem]="problem()"
          (left)="open(null)"
          (saved)="carryOut($event)"
        />
      }
    </div>
  `,
})
export class PeoplePage {
  private readonly store = inject(Store);
  readonly go = addressWriter();
  readonly find = input('', { transform: fromAddress });
  readonly only = input('', { transform: fromAddress });
  readonly own = this.store.selectSignal(sessionFeature.selectSignedIn);
  readonly rows = this.store.selectSignal(peopleFeature.selectRows);
  readonly loaded = this.store.selectSignal(peopleFeature.selectLoaded);
  readonly opened = this.store.selectSignal(peopleFeature.selectOpened);
  readonly isSaving = this.store.selectSignal(isRunning('add', 'change', 'reset'));
  readonly problem = this.store.selectSignal(peopleFeature.selectProblem);
  readonly mayKeep = may('administrator');
  readonly wish = signal<PersonWish | null>(null);
  readonly columns = columns;
  readonly choices = choices.map(({ key, word }) => ({ key, word }));
  readonly stateOf = stateOf;
  readonly sessionsOf = sessionsOf;
  readonly nameOf = ({ name }: Person): string => name;
  readonly shown = computed(() => {
    const fits = choices.find(({ key }) => key === this.only())?.fits ?? (() => true);
    return this.rows().filter(fits);
  });
  readonly headline = computed(() => {
    const all = this.rows();
    if (!this.loaded()) return 'People';
    const able = all.filter(({ isDisabled }) => !isDisabled);
    const parts = [
      [able.filter(({ mustChangePassword }) => mustChangePassword).length, 'must change the first password'],
      [all.length - able.length, 'disabled'],
    ] as const;
    const more = parts.filter(([many]) => many > 0).map(([many, word]) => `${many} ${word}`);
    return [byNumber(able.length, '# person can sign in', '# people can sign in'), ...more].join('; ') + '.';
  });

  constructor() {
    if (this.mayKeep()) this.store.dispatch(peopleActions.showPeople());
    // The form stays with what was typed until it was taken.
    onceMore(this.store.selectSignal(peopleFeature.selectDone), () => this.wish.set(null));
  }

  open(wish: PersonWish | null): void {
    this.store.dispatch(peopleActions.putAside());
    this.wish.set(wish);
  }

  toggle(name: string): void {
    this.store.dispatch(peopleActions.openPerson({ name: this.opened()?.name === name ? null : name }));
  }

  carryOut(command: PeopleCommand): void {
    this.store.dispatch(peopleActions.command({ command }));
  }
}

const choices: readonly { readonly key: string; readonly word: string; readonly fits: (person: Person) => boolean }[] =
  [
    { key: '', word: 'all people', fits: () => true },
    { key: 'able', word: 'those who can sign in', fits: ({ isDisabled }) => !isDisabled },
    { key: 'first', word: 'those with a first password', fits: ({ mustChangePassword }) => mustChangePassword },
    { key: 'single', word: 'those without a second factor', fits: ({ hasSecondFactor }) => !hasSecondFactor },
    { key: 'in', word: 'those who are signed in', fits: ({ sessions }) => sessions > 0 },
    { key: 'disabled', word: 'those who are disabled', fits: ({ isDisabled }) => isDisabled },
  ];

const stateOf = ({ isDisabled, mustChangePassword }: Person): string =>
  isDisabled ? 'disabled' : mustChangePassword ? 'must change password' : 'can sign in';

const sessionsOf = ({ sessions }: Person): string => (sessions === 0 ? 'none' : counted(sessions, 'session'));

const columns: readonly Column<Person>[] = [
  { key: 'name', title: 'Name', text: ({ name }) => name },
  { key: 'role', title: 'Role', text: ({ role }) => role },
  { key: 'state', title: 'State', text: stateOf },
  { key: 'secondFactor', title: 'Second factor', text: ({ hasSecondFactor }) => (hasSecondFactor ? 'codes' : 'none') },
  {
    key: 'lastSignedInAt',
    title: 'Last signed in',
    text: ({ lastSignedInAt }) => lastSignedInAt ?? 'never',
    order: ({ lastSignedInAt }) => lastSignedInAt ?? '',
  },
  { key: 'sessions', title: 'Open sessions', text: sessionsOf, order: ({ sessions }) => sessions },
];
