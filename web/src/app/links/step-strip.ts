import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { StepId, Verdict } from '@loyal-hinge/core';
import { VerdictBar, verdictWords } from '../signs/verdict-bar';

/** One step of a link, as the strip shows it. */
export interface StripStep {
  readonly id: StepId;
  readonly title: string;
  readonly verdict: Verdict;
  /** It is being tried just now. */
  readonly working: boolean;
}

/** The steps of a link side by side: whole up to where it breaks. One of them can be chosen. */
@Component({
  selector: 'hinge-step-strip',
  imports: [VerdictBar],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ol aria-label="Steps" [style.grid-template-columns]="'repeat(' + steps().length + ', minmax(0, 1fr))'">
      @for (step of steps(); track step.id) {
        <li [class]="step.verdict" [class.chosen]="chosen() === step.id">
          <button
            type="button"
            (click)="choose.emit(step.id)"
            [attr.aria-label]="step.title + ': ' + words[step.verdict]"
            [attr.aria-pressed]="chosen() === step.id"
          >
            <hinge-bar [verdict]="step.verdict" [working]="step.working" aria-hidden="true" />
            <span class="title">{{ step.title }}</span>
          </button>
        </li>
      }
    </ol>
  `,
  styles: `
    ol {
      list-style: none;
      margin: 0;
      padding: 0.7rem 0.3rem 0;
      height: 100%;
      display: grid;
      align-items: start;
      border: 2px solid var(--weak);
      border-width: 0 2px;
    }
    button {
      all: unset;
      cursor: pointer;
      display: grid;
      grid-template-columns: minmax(0, 1fr);
      justify-items: center;
      gap: 0.4rem;
      padding: 0.4rem 0.1rem;
      box-sizing: border-box;
      width: 100%;
      border-radius: 3px;
    }
    button:hover,
    .chosen button {
      background: var(--wash);
    }
    button:focus-visible {
      outline: 2px solid var(--lake);
    }
    .title {
      writing-mode: vertical-rl;
      transform: rotate(180deg);
      color: var(--ink);
      font-size: 0.9rem;
      height: 8.6rem;
      text-align: end;
    }
  `,
})
export class StepStrip {
  readonly steps = input.required<readonly StripStep[]>();
  readonly chosen = input<StepId | null>(null);
  readonly choose = output<StepId>();
  readonly words = verdictWords;
}
