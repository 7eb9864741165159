import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  signal,
} from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { ProgressBar } from 'primeng/progressbar';
import type { FoundRegister, RegisterSearchWish } from '@loyal-hinge/contract';
import { ProblemNotice } from '../http/problem-notice';
import { linkActions, linksFeature } from '../links/state';
import { may } from '../session/may';
import { Ask } from '../shell/ask';
import { LedgerCell } from '../shell/ledger/cell';
import { Ledger } from '../shell/ledger/ledger';
import type { Column } from '../shell/ledger/ledger';
import { fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { SearchChart } from './search-chart';
import { SearchForm } from './search-form';
import { fieldActions, fieldFeature } from './state';

const surenessWords: Readonly<Record<FoundRegister['sureness'], string>> = {
  proved: 'follows it, and no other does',
  likely: 'likely; wait for more changes',
  alike: 'others say the same so far',
  near: 'stays with it; it moves too fast to be sure',
  unmoved: 'holds it now; the value did not change',
};

/** The search for the register from which an item’s value comes. */
@Component({
  selector: 'hinge-search-page',
  imports: [Ledger, LedgerCell, PagePath, ProblemNotice, ProgressBar, RouterLink, SearchChart, SearchForm, Waiting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-problem [problem]="problem()" />
      @if (detail(); as told) {
        <hinge-path [above]="told.link.name" [way]="'/links/' + told.link.id" here="Find the register" />
        <header class="page-head">
          <div>
            <h1>{{ headline() }}</h1>
            <p class="faint">
              <code>{{ path() }}</code> at {{ told.server.application }}
            </p>
          </div>
          <div class="actions">
            @if (search()?.state === 'running') {
              <button type="button" class="act" [disabled]="!mayChange()" (click)="end()">Stop</button>
            } @else if (search() && !isAsking()) {
              <button type="button" class="act main" [disabled]="!mayChange()" (click)="isAsking.set(true)">
                Search again …
              </button>
            }
            <a class="act" [routerLink]="['/links', told.link.id]">Back to the link</a>
          </div>
        </header>
        @if (isAsking()) {
          <hinge-search-form [told]="told" [path]="path()" (begun)="begin($event)" (left)="leaveForm()" />
        }
        @if (search(); as one) {
          @if (one.state === 'running') {
            <p role="status">{{ one.says }} {{ one.taken }} of {{ one.wish.samples }} samples.</p>
            <p-progressbar [value]="progress()" [showValue]="false" />
          }
          @if (one.values.length > 1) {
            <hinge-search-chart [values]="one.values" [chosen]="chosen()" />
          }
          @if (one.found.length > 0) {
            <hinge-ledger
              [columns]="columns()"
              [rows]="one.found"
              [idOf]="idOf"
              [plain]="one.found.length < 2"
              [(find)]="find"
              what="register, form, how sure"
              name="registers"
              fileName="registers-found"
            >
              <ng-template hingeCell="register" [hingeCellOf]="one.found" let-found>
                <button
                  type="button"
                  class="plain mono"
                  [class.chosen]="found === chosen()"
                  [attr.aria-pressed]="found === chosen()"
                  (click)="shown.set(idOf(found))"
                >
                  {{ found.address }}
                </button>
              </ng-template>
              <ng-template hingeCell="acts" [hingeCellOf]="one.found" let-found>
                <button type="button" class="act" [disabled]="!mayChange()" (click)="accept(found)">
                  Use as origin …
                </button>
              </ng-template>
            </hinge-ledger>
          }
        }
      } @else if (!problem()) {
        <hinge-waiting />
      }
    </div>
  `,
  styles: `
    .chosen {
      font-weight: 600;
      text-decoration: underline;
    }
    h1 {
      font-size: 1.22rem;
    }
  `,
})
export class SearchPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly ask = inject(Ask);
  /** From the address. */
  readonly linkId = input.required<string>();
  readonly path = input('', { transform: fromAddress });
  readonly detail = this.store.selectSignal(linksFeature.selectDetail);
  private readonly linkProblem = this.store.selectSignal(linksFeature.selectDetailProblem);
  private readonly fieldProblem = this.store.selectSignal(fieldFeature.selectProblem);
  readonly problem = computed(() => this.linkProblem() ?? this.fieldProblem());
  private readonly searches = this.store.selectSignal(fieldFeature.selectSearches);
  readonly mayChange = may('engineer');
  readonly search = computed(() => this.searches().shown?.find(({ wish }) => wish.path === this.path()) ?? null);
  /** Where nothing was searched yet, the form is there at once. */
  readonly isAsking = linkedSignal(() => this.searches().shown !== null && this.search() === null);
  readonly find = signal('');
  readonly idOf = ({ place, says }: FoundRegister): string => `${place} ${says}`;
  /** The candidate that is drawn over the value; null: the best one. */
  readonly shown = linkedSignal<string | undefined, string | null>({
    source: () => this.search()?.id,
    computation: () => null,
  });
  readonly chosen = computed(() => {
    const found = this.search()?.found ?? [];
    return found.find((one) => this.idOf(one) === this.shown()) ?? found[0] ?? null;
  });
  readonly columns = computed<readonly Column<FoundRegister>[]>(() => {
    const changesSeen = this.search()?.changesSeen ?? 0;
    return [
      { key: 'register', title: 'Register', text: ({ address }) => address, order: ({ place }) => place },
      { key: 'form', title: 'Read as', text: ({ says }) => says },
      {
        key: 'explains',
        title: 'Explains',
        text: ({ explained, compared }) => `${explained} of ${compared} values`,
        order: ({ explained }) => explained,
      },
      {
        key: 'changes',
        title: 'Changes',
        text: ({ changes }) => `${changes} of ${changesSeen}`,
        order: ({ changes }) => changes,
      },
      {
        key: 'sureness',
        title: 'How sure',
        text: ({ sureness }) => surenessWords[sureness],
        order: ({ sureness }) => Object.keys(surenessWords).indexOf(sureness),
      },
    ];
  });
  readonly progress = computed(() => {
    const one = this.search();
    return one ? Math.round((100 * one.taken) / one.wish.samples) : 0;
  });
  readonly headline = computed(() => {
    const one = this.search();
    if (!one) return `From which register does ${this.path()} come?`;
    return one.state === 'running' ? `Watching ${this.path()} and ${one.device}.` : one.says;
  });

  constructor() {
    effect(() => {
      const linkId = this.linkId();
      this.store.dispatch(linkActions.open({ linkId }));
      this.store.dispatch(fieldActions.showSearches({ linkId }));
    });
    inject(DestroyRef).onDestroy(() => this.store.dispatch(fieldActions.leaveSearches()));
  }

  begin(wish: RegisterSearchWish): void {
    this.store.dispatch(fieldActions.search({ linkId: this.linkId(), wish }));
  }

  leaveForm(): void {
    if (this.search()) this.isAsking.set(false);
    else void this.router.navigate(['/links', this.linkId()]);
  }

  end(): void {
    const one = this.search();
    if (one) this.store.dispatch(fieldActions.endSearch({ id: one.id }));
  }

  accept(found: FoundRegister): void {
    const [told, one] = [this.detail(), this.search()];
    if (!told || !one) return;
    const before = told.behind.find(({ path }) => path === this.path())?.origin ?? null;
    const { deviceId, port, unit, table } = one.wish;
    const origin = {
      deviceId,
      port,
      unit,
      table,
      address: found.address,
      convention: before?.convention ?? ('from-1-with-digit' as const),
      form: found.form,
      within: before?.within ?? null,
    };
    this.ask.first({
      title: 'Use as origin',
      says: `The plant then states that ${this.path()} comes from ${one.device}, unit ${unit}, ${found.address} (${found.says}). Nothing changes at the server or the device.`,
      does: 'Use as origin',
      run: () => {
        this.store.dispatch(
          fieldActions.save({
            linkId: told.link.id,
            serverId: told.link.serverId,
            wish: { path: this.path(), origin },
          }),
        );
        void this.router.navigate(['/links', told.link.id]);
      },
    });
  }
}
