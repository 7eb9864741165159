import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { nextFirstStep } from '@loyal-hinge/core';
import type { FirstStepId } from '@loyal-hinge/core';
import { firstStepsActions, firstStepsFeature } from './state';

interface Place {
  readonly word: string;
  readonly link: string;
  readonly query: Readonly<Record<string, string>>;
}

const part = (word: string, name: string): Place => ({ word, link: '/plant', query: { part: name, adding: 'yes' } });

/** Where each of the first steps is done. */
const places: Readonly<Record<FirstStepId, readonly Place[]>> = {
  ranges: [{ word: 'Open Settings', link: '/settings', query: {} }],
  zone: [part('Add a zone', 'zones')],
  machine: [part('Add a machine', 'machines'), { word: 'Find servers', link: '/plant/discovery', query: {} }],
  server: [{ word: 'Find servers', link: '/plant/discovery', query: {} }, part('Add an application', 'applications')],
  client: [part('Add an application', 'applications')],
  certificate: [{ word: 'Open Settings', link: '/settings', query: {} }],
  link: [part('Add a link', 'links')],
  check: [{ word: 'Open Links', link: '/links', query: {} }],
};

/** The way from an empty plant to its first check, with what is done; nothing once the plant is under way. */
@Component({
  selector: 'hinge-first-steps',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (next(); as coming) {
      <section aria-labelledby="first-steps" [class.whole]="whole()">
        <h2 id="first-steps">{{ whole() ? 'The first steps' : 'What comes next' }}</h2>
        <ol [class.single]="!whole()">
          @for (step of whole() ? steps() : [coming]; track step.id) {
            <li [class.done]="step.done" [attr.aria-current]="step.id === coming.id ? 'step' : null">
              <strong>{{ step.title }}</strong>
              <span class="faint">{{ step.done ? 'done' : step.why }}</span>
              @if (step.id === coming.id) {
                <span class="actions">
                  @for (place of places[step.id]; track place.word; let isFirst = $first) {
                    <a class="act" [class.main]="isFirst" [routerLink]="place.link" [queryParams]="place.query">{{
                      place.word
                    }}</a>
                  }
                </span>
              }
            </li>
          }
        </ol>
      </section>
    }
  `,
  styles: `
    section {
      margin: 0.8rem 0;
    }
    .whole {
      max-width: 46rem;
      margin: 1rem 0;
    }
    h2 {
      font-size: 1rem;
      margin-bottom: 0.4rem;
    }
    ol {
      list-style-position: inside;
      padding: 0;
      margin: 0;
      border-top: 1px solid var(--line);
    }
    .single {
      list-style: none;
    }
    li {
      padding: 0.55rem 0.2rem;
      border-bottom: 1px solid var(--line);
    }
    li strong {
      font-weight: 600;
      margin-right: 0.6rem;
    }
    li.done strong {
      font-weight: 400;
      color: var(--faint);
    }
    li > .actions {
      display: flex;
      gap: 0.5rem;
      margin: 0.5rem 0 0.2rem 1.2rem;
    }
    .single li {
      display: flex;
      flex-wrap: wrap;
      gap: 0.3rem 0.8rem;
      align-items: center;
    }
    .single .faint {
      flex: 1 1 20rem;
    }
    .single .actions {
      margin: 0;
    }
    .single strong {
      margin: 0;
    }
  `,
})
export class FirstSteps {
  private readonly store = inject(Store);
  /** Whether all steps are shown, or the coming one alone. */
  readonly whole = input(false);
  protected readonly places = places;
  protected readonly steps = this.store.selectSignal(firstStepsFeature.selectSteps);
  protected readonly next = computed(() => {
    const steps = this.steps();
    return steps && nextFirstStep(steps);
  });

  constructor() {
    this.store.dispatch(firstStepsActions.load());
  }
}
