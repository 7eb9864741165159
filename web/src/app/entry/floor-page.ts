import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { ReactiveFormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { acceptsAll, byNumber, sayFloor } from '@loyal-hinge/core';
import type { ExceptionView } from '@loyal-hinge/contract';
import { contractForm, isComplete } from '../forms/contract-form';
import { onceMore } from '../http/once-more';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { Waiting } from '../shell/waiting';
import { Moment } from '../signs/moment';
import { EntryHead } from './entry-head';
import { ExceptionForm } from './exception-form';
import { FloorFields, asTyped, floorBeginning, floorShape } from './floor-fields';
import { entryActions, entryFeature, isRunning } from './state';

const columns: readonly Column<ExceptionView>[] = [
  { key: 'subject', title: 'For', text: ({ subject, of }) => `${of} ${subject}` },
  { key: 'floor', title: 'Accepted there', text: ({ floor }) => sayFloor(floor) },
  { key: 'until', title: 'Until', text: ({ until }) => until, short: true },
  { key: 'reason', title: 'Reason', text: ({ reason }) => reason },
  { key: 'by', title: 'By', text: ({ givenBy }) => givenBy },
  { key: 'state', title: 'State', text: ({ ended }) => (ended === null ? 'in force' : `ended by ${ended.by}`) },
];

/** What the plant accepts of endpoints and users, and for whom something else holds until a day. */
@Component({
  selector: 'hinge-floor-page',
  imports: [EntryHead, ExceptionForm, FloorFields, Ledger, LedgerCell, Moment, ReactiveFormsModule, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-entry-head [headline]="headline()" />
      @if (floors(); as known) {
        <form class="sheet" [formGroup]="form" (ngSubmit)="save($event)">
          <p class="faint">
            What is weaker than this is taken by no link: a check stops at the policy or at the identity, and says so.
            Doors below it are weak. It changes no server.
          </p>
          <div class="fields"><hinge-floor-fields [controls]="form.controls" /></div>
          <button type="submit" class="act main" [disabled]="!maySet() || isSaving()">
            {{ isSaving() ? 'Saving …' : 'Save' }}
          </button>
          @if (!maySet()) {
            <span class="faint"> Only approvers can change what the plant accepts.</span>
          }
        </form>
        <h2>Exceptions</h2>
        <hinge-ledger
          [columns]="columns"
          [rows]="known.exceptions"
          [idOf]="idOf"
          [(find)]="find"
          what="any server, link or reason"
          fileName="exceptions"
          empty="No exception was ever added."
        >
          <ng-template hingeCell="subject" [hingeCellOf]="known.exceptions" let-row>
            {{ row.subject }} <span class="faint">{{ row.of }}</span>
          </ng-template>
          <ng-template hingeCell="until" [hingeCellOf]="known.exceptions" let-row>
            <hinge-moment [at]="row.until" show="day" />
          </ng-template>
          <ng-template hingeCell="by" [hingeCellOf]="known.exceptions" let-row>
            {{ row.givenBy }} <span class="faint"><hinge-moment [at]="row.givenAt" show="day" /></span>
          </ng-template>
          <ng-template hingeCell="state" [hingeCellOf]="known.exceptions" let-row>
            @if (row.ended; as ended) {
              <span class="faint">
                ended <hinge-moment [at]="ended.at" show="day" /> ({{
                  ended.by === 'its date' ? 'by itself' : ended.by
                }})
              </span>
            } @else {
              <strong class="weak">in force</strong>
            }
          </ng-template>
          <ng-template hingeCell="acts" [hingeCellOf]="known.exceptions" let-row>
            @if (!row.ended) {
              <button type="button" class="plain" [disabled]="!maySet()" (click)="end(row)">End …</button>
            }
          </ng-template>
        </hinge-ledger>
        @if (making()) {
          <hinge-exception-form (left)="making.set(false)" />
        } @else {
          <button type="button" class="act" [disabled]="!maySet()" (click)="making.set(true)">
            Add an exception …
          </button>
        }
      } @else {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    form.sheet {
      margin-bottom: 1.2rem;
    }
    .fields {
      display: grid;
      grid-template-columns: repeat(4, minmax(0, 1fr));
      gap: 0.2rem 1.2rem;
    }
    h2 {
      margin-bottom: 0.5rem;
    }
    hinge-exception-form,
    button.act:not(.main) {
      display: block;
      margin-top: 0.8rem;
    }
    @media (width < 1100px) {
      .fields {
        grid-template-columns: repeat(2, minmax(0, 1fr));
      }
    }
  `,
})
export class FloorPage {
  private readonly store = inject(Store);
  private readonly asks = inject(Ask);
  readonly floors = this.store.selectSignal(entryFeature.selectFloors);
  readonly isSaving = this.store.selectSignal(isRunning('save floor'));
  readonly maySet = may('approver');
  readonly making = signal(false);
  readonly find = signal('');
  readonly columns = columns;
  readonly idOf = ({ id }: ExceptionView): string => String(id);
  readonly form = contractForm(floorShape, floorBeginning);
  readonly headline = computed(() => {
    const known = this.floors();
    if (!known) return 'What the plant accepts';
    const inForce = known.exceptions.filter(({ ended }) => ended === null).length;
    const accepted = acceptsAll(known.floor)
      ? 'The plant accepts every endpoint and every kind of user'
      : `The plant accepts: ${sayFloor(known.floor)}`;
    const clauses = [
      accepted,
      ...(inForce === 0 ? [] : [byNumber(inForce, '# exception is in force', '# exceptions are in force')]),
    ];
    return `${clauses.join('; ')}.`;
  });

  constructor() {
    this.store.dispatch(entryActions.showFloors());
    effect(() => {
      const known = this.floors();
      // What somebody types stays when something else was changed.
      if (known && this.form.pristine) this.form.reset(asTyped(known.floor));
    });
    onceMore(this.store.selectSignal(entryFeature.selectDone), () => {
      this.making.set(false);
      this.form.markAsPristine();
    });
  }

  save(sent: Event): void {
    if (isComplete(this.form, sent)) this.store.dispatch(entryActions.saveFloor({ floor: this.form.getRawValue() }));
  }

  end({ id, subject }: ExceptionView): void {
    this.asks.first({
      title: `End the exception for ${subject}?`,
      says: 'From now on it is held to what the plant accepts. Its links are checked at once.',
      does: 'End exception',
      run: () => this.store.dispatch(entryActions.endException({ id })),
    });
  }
}
