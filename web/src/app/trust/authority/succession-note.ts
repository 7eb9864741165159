import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { counted, dayOf, listed } from '@loyal-hinge/core';
import type { AuthorityView } from '@loyal-hinge/contract';
import { Telling } from '../../shell/telling';

type Succession = NonNullable<AuthorityView['succession']>;

/** How far the plant has moved from an authority to the one that follows it, and what is left to do. */
@Component({
  selector: 'hinge-succession',
  imports: [Telling, RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="note" [class.over]="succession().isOver">
      <p>
        {{ finding() }}
        <a [routerLink]="['/trust/certificates', succession().after]">Show its successor</a>
      </p>
      @if (!succession().isOver) {
        <ul>
          @for (what of left(); track what.says) {
            <li tabindex="0" [hingeTelling]="what.names.join(', ')">{{ what.says }}</li>
          }
        </ul>
        <a class="act" routerLink="/trust/plan" [queryParams]="{ by: 'authority' }">Plan what is left</a>
      }
    </div>
  `,
  styles: `
    .note {
      border-left: 4px solid var(--weak);
      background: var(--paper);
      padding: 0.5rem 0.9rem;
      margin: 0.6rem 0;
    }
    .over {
      border-left-color: var(--holds);
    }
    p,
    ul {
      margin: 0 0 0.4rem;
    }
    .over p {
      margin: 0;
    }
  `,
})
export class SuccessionNote {
  readonly succession = input.required<Succession>();
  readonly finding = computed(() => {
    const { isOver, afterName, afterSince } = this.succession();
    return isOver
      ? 'Nothing depends on it any more: no known list trusts it, and no certificate in use needs it.'
      : `Its successor is ${afterName} of ${dayOf(afterSince)}; this one is still needed.`;
  });
  readonly left = computed(() => {
    const { trustOnlyBefore, trustBoth, showBefore } = this.succession();
    return [
      {
        names: trustOnlyBefore,
        says: `${these(trustOnlyBefore, 'trusts', 'trust')} this one, and not yet the one after it.`,
      },
      { names: trustBoth, says: `${these(trustBoth, 'trusts', 'trust')} both.` },
      { names: showBefore, says: `${these(showBefore, 'shows', 'show')} a certificate that only this one signed.` },
    ].filter(({ names }) => names.length > 0);
  });
}

const fewNames = 4;

/** A few by their names, many by their number. */
const these = (names: readonly string[], one: string, many: string): string =>
  names.length <= fewNames
    ? `${listed(names)} ${names.length === 1 ? one : many}`
    : `${counted(names.length, 'application')} ${many}`;
