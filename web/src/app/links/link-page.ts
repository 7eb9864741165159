import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import { fromAddress } from '../shell/page-address';
import { Store } from '@ngrx/store';
import { leadingFindings, linkKinds, stepPosition } from '@loyal-hinge/core';
import type { ChosenEndpoint, Remedy, StepId, StepVerdict, Verdict } from '@loyal-hinge/core';
import { Choose } from '../forms/choose';
import { ProblemNotice } from '../http/problem-notice';
import { may, roleNow } from '../session/may';
import { Keys } from '../shell/keys';
import { CopyText } from '../signs/copy-text';
import { HingeSign, toneOf } from '../signs/hinge-sign';
import { VerdictBar, verdictWords } from '../signs/verdict-bar';
import { ExplainDrawer } from './explain-drawer';
import { FindingView } from './finding-view';
import { LinkHistory } from './link-history';
import { MendDialog } from './mend-dialog';
import { linkActions, linksFeature } from './state';
import { Waiting } from '../shell/waiting';

const passwordWords = { none: 'missing', kept: 'kept', 'for another target': 'kept for another target' } as const;

/** One link: two leaves, the strip of steps between them, what was found and what to do. */
@Component({
  selector: 'hinge-link-page',
  imports: [
    Waiting,
    FormsModule,
    Choose,
    RouterLink,
    HingeSign,
    VerdictBar,
    CopyText,
    ProblemNotice,
    ExplainDrawer,
    FindingView,
    LinkHistory,
    MendDialog,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-problem [problem]="problem()" />
      @if (detail(); as told) {
        <p class="crumb">
          <a routerLink="/links">Links</a><span class="faint">&nbsp;/ {{ told.link.name }}</span>
        </p>
        <header class="page-head">
          <div>
            <p class="state" [class]="tones[told.assessment.state]">
              <hinge-sign [state]="told.assessment.state" [size]="26" /> <strong>{{ told.assessment.state }}</strong>
            </p>
            <h1>{{ told.assessment.headline }}</h1>
          </div>
          <div class="actions">
            @if (running(); as checkId) {
              <span class="faint" role="status">{{ workingWords() }}</span>
              <button type="button" class="act" (click)="cancel(checkId)">Cancel</button>
            } @else {
              @if (usable()) {
                <a class="act" [routerLink]="['/bench', told.link.id]">Open in the bench</a>
              }
              <button type="button" class="act main" [disabled]="!mayMend()" (click)="check()">Check now</button>
            }
          </div>
        </header>
        @if (mending().says; as says) {
          <p class="done" role="status">
            {{ says }}
            @if (mending().orderId; as orderId) {
              <a [routerLink]="['/orders', orderId]">Look at the work order</a>
            } @else {
              The check runs again to prove it.
            }
          </p>
        }
        @if (told.changedSince) {
          <p class="changed">The link was changed after this check; what you see was true before the change.</p>
        }
        <div class="leaves">
          <section class="leaf">
            <h2>{{ told.client.application }}</h2>
            <p class="faint">client on {{ told.client.machine }}, {{ told.client.zone }}</p>
            <hinge-copy [text]="told.client.addresses[0] ?? ''" />
            <p class="faint">{{ identityWords() }}; must be {{ floorWords() }}</p>
          </section>
          <ol class="strip" aria-label="Steps">
            @for (step of strip(); track step.id) {
              <li [class]="step.verdict" [class.chosen]="chosen()?.step === step.id">
                <button
                  type="button"
                  (click)="choose(step.id)"
                  [attr.aria-label]="step.title + ': ' + words[step.verdict]"
                  [attr.aria-pressed]="chosen()?.step === step.id"
                >
                  <hinge-bar [verdict]="step.verdict" [working]="step.working" aria-hidden="true" />
                  <span class="title">{{ step.title }}</span>
                </button>
              </li>
            }
          </ol>
          <section class="leaf">
            <h2>{{ told.server.application }}</h2>
            <p class="faint">server on {{ told.server.machine }}, {{ told.server.zone }}</p>
            <hinge-copy [text]="told.link.endpointUrl" />
            @if (told.link.pinnedAddress; as pinned) {
              <p class="faint">
                pinned to <span class="mono">{{ pinned }}</span>
              </p>
            }
            <p class="faint">
              needs {{ told.link.needs.length }} {{ told.link.needs.length === 1 ? 'item' : 'items' }}
            </p>
          </section>
        </div>
        <div class="two">
          <section>
            <h2>What was found</h2>
            @for (finding of leading(); track finding.step + finding.causeId) {
              <hinge-finding [finding]="finding" [role]="role()" (mend)="consider($event)" />
            } @empty {
              <p>
                {{ told.assessment.state === 'Untried' ? 'Nothing yet: check the link.' : 'Nothing blocks this link.' }}
              </p>
            }
            @if (told.usableEndpoints.length > 1 || told.link.chosenEndpoint) {
              <h2>Endpoint</h2>
              <p class="endpoint">
                <hinge-choose
                  label="Use"
                  [inline]="true"
                  [disabled]="!mayMend()"
                  [ngModel]="consideredEndpoint()"
                  (ngModelChange)="chooseEndpoint($event)"
                  [choices]="endpointChoices()"
                />
              </p>
            }
          </section>
          <hinge-history
            [kind]="told.link.kind"
            [checks]="told.checks"
            [details]="checks()"
            (read)="readCheck($event)"
          />
        </div>
        <hinge-explain
          [kind]="told.link.kind"
          [verdict]="chosen()"
          [role]="role()"
          (closed)="choose(null)"
          (mend)="consider($event)"
        />
        <hinge-mend
          [mending]="mending()"
          [signsInAs]="keptFor()"
          [mayRelease]="mayRelease()"
          (aside)="putAside()"
          (carryOut)="mend($event)"
        />
      } @else if (!problem()) {
        <hinge-waiting />
      } @else {
        <a class="act" routerLink="/links">Back to the links</a>
      }
    </div>
  `,
  styles: `
    .crumb {
      margin: 0 0 0.4rem;
    }
    .state {
      display: flex;
      gap: 0.5rem;
      align-items: center;
      margin: 0 0 0.15rem;
    }
    h1 {
      font-size: 1.22rem;
      max-width: 58rem;
    }
    .leaves {
      display: grid;
      grid-template-columns: 14.5rem minmax(0, 1fr) 14.5rem;
      border: 1px solid var(--line);
      background: var(--panel);
      margin-bottom: 1.1rem;
    }
    .leaf {
      padding: 0.8rem 0.9rem;
      background: var(--wash);
      min-width: 0;
    }
    .leaf p {
      margin: 0.1rem 0 0.3rem;
      font-size: 0.9rem;
    }
    .strip {
      list-style: none;
      margin: 0;
      padding: 0.7rem 0.3rem 0;
      display: grid;
      grid-template-columns: repeat(13, minmax(0, 1fr));
      align-items: start;
      border: 2px solid var(--weak);
      border-width: 0 2px;
    }
    .strip button {
      all: unset;
      cursor: pointer;
      display: grid;
      justify-items: center;
      gap: 0.4rem;
      padding: 0.4rem 0;
      width: 100%;
      border-radius: 3px;
    }
    .strip button:hover,
    .strip .chosen button {
      background: var(--wash);
    }
    .strip button:focus-visible {
      outline: 2px solid var(--lake);
    }
    .strip .title {
      writing-mode: vertical-rl;
      transform: rotate(180deg);
      color: var(--ink);
      font-size: 0.9rem;
      height: 8.6rem;
      text-align: end;
    }
    .two {
      display: grid;
      grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
      gap: 1.6rem;
    }
    .two h2 {
      margin-bottom: 0.5rem;
    }
    .done {
      background: var(--panel);
      border-left: 4px solid var(--holds);
      padding: 0.5rem 0.9rem;
    }
    .changed {
      background: var(--panel);
      border-left: 4px solid var(--weak);
      padding: 0.5rem 0.9rem;
    }
  `,
})
export class LinkPage {
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  /** From the address. */
  readonly linkId = input.required<string>();
  readonly step = input('', { transform: fromAddress });

  readonly tones = toneOf;
  readonly words = verdictWords;
  readonly detail = this.store.selectSignal(linksFeature.selectDetail);
  readonly problem = this.store.selectSignal(linksFeature.selectDetailProblem);
  readonly mending = this.store.selectSignal(linksFeature.selectMending);
  readonly checks = this.store.selectSignal(linksFeature.selectChecks);
  private readonly row = this.store.selectSignal(linksFeature.selectDetailRow);
  private readonly workingStep = this.store.selectSignal(linksFeature.selectDetailWorking);
  readonly mayMend = may('engineer');
  readonly role = roleNow();
  readonly mayRelease = may('approver');
  /** The user whose password is kept; null: none is. */
  readonly keptFor = computed(() => {
    const told = this.detail();
    return told && told.passwordState !== 'none' && told.link.identity.kind === 'user'
      ? told.link.identity.userName
      : null;
  });
  readonly running = computed(() => this.row()?.checkId ?? null);
  readonly usable = computed(() => ['Sound', 'Strained'].includes(this.detail()?.assessment.state ?? ''));
  readonly chosen = computed<StepVerdict | null>(
    () => this.detail()?.assessment.steps.find((verdict) => verdict.step === this.step()) ?? null,
  );
  private readonly steps = computed(() => linkKinds[this.detail()?.link.kind ?? 'ua'].steps);
  readonly leading = computed(() => leadingFindings(this.detail()?.assessment ?? null));
  readonly strip = computed(() => {
    const live = this.running() === null ? null : this.row()?.verdicts;
    const kept = this.detail()?.assessment.steps ?? [];
    return this.steps().map(
      ({ id, title }, index): { id: StepId; title: string; verdict: Verdict; working: boolean } => ({
        id,
        title,
        verdict: live?.[index] ?? kept[index]?.verdict ?? 'unknown',
        working: this.running() !== null && this.workingStep() === id,
      }),
    );
  });
  readonly workingWords = computed(() => {
    const [step, steps] = [this.workingStep(), this.steps()];
    const at = steps.findIndex(({ id }) => id === step);
    const waitsFor = this.row()?.waitsFor;
    if (waitsFor) return `The machine is in use by ${waitsFor}. The check begins when it is free …`;
    return at >= 0 ? `Trying step ${at + 1} of ${steps.length}: ${steps[at]?.title ?? ''}` : 'Waiting for its turn …';
  });
  readonly identityWords = computed(() => {
    const identity = this.detail()?.link.identity;
    if (identity?.kind !== 'user') return 'anonymous';
    return `as “${identity.userName}”, password ${passwordWords[this.detail()?.passwordState ?? 'none']}`;
  });
  readonly floorWords = computed(
    () =>
      ({ any: 'nothing in particular', signed: 'signed', encrypted: 'encrypted' })[this.detail()?.link.floor ?? 'any'],
  );

  constructor() {
    effect(() => {
      const linkId = this.linkId();
      this.store.dispatch(linkActions.open({ linkId }));
      this.store.dispatch(linkActions.loadRow({ linkId }));
    });
    const remove = inject(Keys).add({
      c: { does: 'check the link now', run: () => this.check() },
      x: {
        does: 'explain the step that matters most',
        run: () => this.explain(),
      },
      j: { does: 'next step', run: () => this.walk(1) },
      k: { does: 'step before', run: () => this.walk(-1) },
      Escape: { does: 'close the explanation', run: () => this.choose(null) },
    });
    inject(DestroyRef).onDestroy(() => {
      remove();
      this.store.dispatch(linkActions.leave());
    });
  }

  choose(step: StepId | null): void {
    void this.router.navigate([], { queryParams: { step }, queryParamsHandling: 'merge', replaceUrl: true });
  }

  explain(): void {
    const told = this.detail();
    if (told) this.choose(this.chosen() ? null : (told.assessment.partedAt ?? this.steps()[0]?.id ?? null));
  }

  check(): void {
    if (this.mayMend() && this.running() === null) this.store.dispatch(linkActions.check({ linkIds: [this.linkId()] }));
  }

  cancel(checkId: string): void {
    this.store.dispatch(linkActions.cancel({ checkId }));
  }

  consider(remedy: Remedy): void {
    this.store.dispatch(linkActions.considerRemedy({ remedy }));
  }

  putAside(): void {
    this.store.dispatch(linkActions.putRemedyAside());
  }

  mend({ change, password }: { change: Remedy['change']; password?: string }): void {
    this.store.dispatch(
      linkActions.mend({ linkId: this.linkId(), change, ...(password === undefined ? {} : { password }) }),
    );
  }

  readCheck(checkId: string): void {
    this.store.dispatch(linkActions.readCheck({ checkId }));
  }

  endpointKey = (endpoint: ChosenEndpoint | null): string => (endpoint ? `${endpoint.policy} ${endpoint.mode}` : '');

  readonly endpointChoices = computed(() => [
    { key: '', word: endpointWords(null) },
    ...(this.detail()?.usableEndpoints ?? []).map((one) => ({ key: this.endpointKey(one), word: endpointWords(one) })),
  ]);
  /** What is chosen in the field, until it is done or left. */
  readonly consideredEndpoint = linkedSignal<{ isOpen: boolean; chosen: ChosenEndpoint | null }, string>({
    source: () => ({ isOpen: this.mending().remedy !== null, chosen: this.detail()?.link.chosenEndpoint ?? null }),
    computation: ({ isOpen, chosen }, before) => (isOpen && before ? before.value : this.endpointKey(chosen)),
  });

  chooseEndpoint(key: string): void {
    const told = this.detail();
    if (!told) return;
    this.consideredEndpoint.set(key);
    const before = told.link.chosenEndpoint;
    const after = told.usableEndpoints.find((endpoint) => this.endpointKey(endpoint) === key) ?? null;
    this.consider({
      title: 'Choose another endpoint',
      target: told.link.name,
      before: endpointWords(before),
      after: endpointWords(after),
      change: { kind: 'choose-endpoint', linkId: told.link.id, before, after },
      restart: false,
      undo: 'Choose the old one again.',
    });
  }

  private walk(by: number): void {
    const [steps, chosen] = [this.steps(), this.chosen()];
    const at = chosen ? stepPosition(this.detail()?.link.kind ?? 'ua', chosen.step) : -1;
    this.choose(steps[Math.min(steps.length - 1, Math.max(0, at + by))]?.id ?? null);
  }
}

const endpointWords = (endpoint: ChosenEndpoint | null): string =>
  endpoint ? `${endpoint.policy} (${endpoint.mode})` : 'the best that both sides have';
