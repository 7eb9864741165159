import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { byNumber } from '@loyal-hinge/core';
import type { KnownMatches } from '@loyal-hinge/contract';
import { Moment } from '../../signs/moment';

/** What the needed items stand for, as far as snapshots of the server’s nodes have seen: how many variables, and which. */
@Component({
  selector: 'hinge-needs-preview',
  imports: [Moment],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let known = told();
    <div class="preview" role="status">
      @if (known.seenAt; as at) {
        <ul>
          @for (one of shown(); track $index) {
            <li>
              <span class="mono">{{ one.path }}</span>
              <span [class]="one.count === 0 ? 'weak' : 'faint'">{{ one.says }}</span>
            </li>
          }
        </ul>
        <p class="faint">As {{ known.as || 'anonymous' }} saw it, <hinge-moment [at]="at" />.</p>
      } @else {
        <p class="faint">
          Which nodes this server has is not known yet: a snapshot of its rights tells, or the bench. A check tries each
          item in any case.
        </p>
      }
    </div>
  `,
  styles: `
    .preview {
      font-size: 0.86rem;
      margin: -0.5rem 0 0.9rem;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      gap: 0 0.7rem;
    }
    p {
      margin: 0.2rem 0 0;
    }
  `,
})
export class NeedsPreview {
  readonly told = input.required<KnownMatches>();
  readonly shown = computed(() =>
    this.told().paths.map(({ path, isPattern, count, examples }) => {
      if (!isPattern) return { path, count, says: count === 0 ? 'was not seen' : 'is there' };
      const more = count > examples.length ? ` and ${count - examples.length} more` : '';
      const which = examples.length === 0 ? '' : `: ${examples.join(', ')}${more}`;
      return { path, count, says: `${byNumber(count, '# variable matches', '# variables match')}${which}` };
    }),
  );
}
