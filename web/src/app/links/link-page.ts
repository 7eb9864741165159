import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, input, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { isFieldStep, leadingFindings, linkKinds, stepPosition } from '@loyal-hinge/core';
import type { Remedy, StepId, StepVerdict } from '@loyal-hinge/core';
import { Message } from 'primeng/message';
import { ProblemNotice } from '../http/problem-notice';
import { may, roleNow } from '../session/may';
import { Keys } from '../shell/keys';
import { fromAddress } from '../shell/page-address';
import { PagePath } from '../shell/path';
import { Waiting } from '../shell/waiting';
import { HingeSign, toneOf } from '../signs/hinge-sign';
import { EndpointChoice } from './endpoint-choice';
import { ExplainDrawer } from './explain-drawer';
import { ReportForm } from '../hand-outs/report-form';
import { FindingView } from './finding-view';
import { LinkOrigins } from '../field/link-origins';
import { LinkHistory } from './link-history';
import { LinkLeaves } from './link-leaves';
import { MendDialog } from './mend-dialog';
import { linkActions, linksFeature } from './state';
import { StepStrip } from './step-strip';
import type { StripStep } from './step-strip';
import { WriteProofPanel } from './write-proof';

/** One link: two leaves, the strip of steps between them, what was found and what to do. */
@Component({
  selector: 'hinge-link-page',
  imports: [
    EndpointChoice,
    ExplainDrawer,
    FindingView,
    HingeSign,
    LinkHistory,
    LinkLeaves,
    LinkOrigins,
    MendDialog,
    Message,
    PagePath,
    ProblemNotice,
    ReportForm,
    RouterLink,
    StepStrip,
    Waiting,
    WriteProofPanel,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <hinge-problem [problem]="problem()" />
      @if (detail(); as told) {
        <hinge-path above="Links" way="/links" [here]="told.link.name" />
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
              <button type="button" class="act" (click)="isReporting.set(true)">Report …</button>
              <button type="button" class="act main" [disabled]="!mayMend()" (click)="check()">Check now</button>
            }
          </div>
        </header>
        @if (isReporting()) {
          <hinge-report-form about="link" [id]="told.link.id" (left)="isReporting.set(false)" />
        }
        @if (mending().order; as order) {
          <p-message severity="success">
            {{ order.says }} <a [routerLink]="['/orders', order.id]">Open the work order</a>
          </p-message>
        }
        @if (told.changedSince) {
          <p-message severity="warn"
            >The link was changed after this check; what you see was true before the change.</p-message
          >
        }
        <hinge-link-leaves [told]="told">
          <hinge-step-strip [steps]="strip()" [chosen]="chosen()?.step ?? null" (choose)="choose($event)" />
        </hinge-link-leaves>
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
            @if (mustWrite()) {
              <hinge-write-proof [told]="told" [busy]="running() !== null" />
            }
            @if (told.usableEndpoints.length > 1 || told.link.chosenEndpoint) {
              <hinge-endpoint-choice
                [told]="told"
                [mayMend]="mayMend()"
                [considering]="mending().remedy !== null"
                (consider)="consider($event)"
              />
            }
          </section>
          <hinge-history
            [kind]="told.link.kind"
            [checks]="told.checks"
            [details]="checks()"
            (read)="readCheck($event)"
          />
        </div>
        @if (told.behind.length > 0) {
          <hinge-link-origins [told]="told" />
        }
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
    .two {
      display: grid;
      grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
      gap: 1.6rem;
    }
    .two h2 {
      margin-bottom: 0.5rem;
    }
  `,
})
export class LinkPage {
  readonly isReporting = signal(false);
  private readonly store = inject(Store);
  private readonly router = inject(Router);

  /** From the address. */
  readonly linkId = input.required<string>();
  readonly step = input('', { transform: fromAddress });

  readonly tones = toneOf;
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
  readonly mustWrite = computed(() => this.detail()?.link.needs.some(({ uses }) => uses.includes('write')) ?? false);
  readonly running = computed(() => this.row()?.checkId ?? null);
  /** Whether a session can be opened on it by hand: on links of OPC UA. */
  readonly usable = computed(
    () => this.detail()?.link.kind === 'ua' && ['Sound', 'Strained'].includes(this.detail()?.assessment.state ?? ''),
  );
  readonly chosen = computed<StepVerdict | null>(
    () => this.detail()?.assessment.steps.find((verdict) => verdict.step === this.step()) ?? null,
  );
  /** Those behind the server only where an item states where its value comes from. */
  private readonly steps = computed(() => {
    const told = this.detail();
    const isBehind = told?.behind.some(({ origin }) => origin !== null) ?? false;
    return linkKinds[told?.link.kind ?? 'ua'].steps.filter(({ id }) => isBehind || !isFieldStep(id));
  });
  readonly leading = computed(() => leadingFindings(this.detail()?.assessment ?? null));
  readonly strip = computed<readonly StripStep[]>(() => {
    const live = this.running() === null ? null : this.row()?.verdicts;
    const kept = this.detail()?.assessment.steps ?? [];
    return this.steps().map(({ id, title }, index) => ({
      id,
      title,
      verdict: live?.[index] ?? kept[index]?.verdict ?? (isFieldStep(id) ? 'not-needed' : 'unknown'),
      working: this.running() !== null && this.workingStep() === id,
    }));
  });
  readonly workingWords = computed(() => {
    const [step, steps] = [this.workingStep(), this.steps()];
    const at = steps.findIndex(({ id }) => id === step);
    const waitsFor = this.row()?.waitsFor;
    if (waitsFor) return `The machine is in use by ${waitsFor}. The check begins when it is free …`;
    return at >= 0 ? `Trying step ${at + 1} of ${steps.length}: ${steps[at]?.title ?? ''}` : 'Waiting for its turn …';
  });
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

  private walk(by: number): void {
    const [steps, chosen] = [this.steps(), this.chosen()];
    const at = chosen ? stepPosition(this.detail()?.link.kind ?? 'ua', chosen.step) : -1;
    this.choose(steps[Math.min(steps.length - 1, Math.max(0, at + by))]?.id ?? null);
  }
}
