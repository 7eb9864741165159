import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { Finding, Remedy } from '@loyal-hinge/core';
import { mayActAs } from '@loyal-hinge/contract';
import type { Role } from '@loyal-hinge/contract';

/** Causes that disappear when the right thing lies in the right list. */
const ofTrust: readonly string[] = [
  'not-trusted',
  'wrong-list',
  'chain-incomplete',
  'crl-missing',
  'crl-stale',
  'crl-unreadable',
];

@Component({
  selector: 'hinge-finding',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section [class]="finding().severity">
      <h3>
        {{ finding().title }}
        @if (finding().grave) {
          <span class="grave">grave</span>
        }
      </h3>
      <p>
        {{ finding().meaning }} <span class="faint mono">{{ finding().clause }}</span>
      </p>
      @if (finding().remedies.length > 0) {
        <h4>What to do</h4>
        <ul>
          @for (remedy of finding().remedies; track remedy.title) {
            <li>
              <strong>{{ remedy.title }}</strong>&nbsp;<span class="faint"
                >at {{ remedy.target }}{{ remedy.change.kind === 'by-hand' ? ', by hand' : ''
                }}{{ remedy.restart ? '; needs a restart' : '' }}</span
              >
              @if (remedy.change.kind !== 'by-hand') {
                <div>
                  <button type="button" class="act" [disabled]="!isOffered(remedy)" (click)="mend.emit(remedy)">
                    Do this …
                  </button>
                  @if (!isOffered(remedy)) {
                    <small class="faint">This needs the role {{ roleFor(remedy) }}.</small>
                  }
                </div>
              }
            </li>
          }
        </ul>
      }
      @if (plannable()) {
        <p>
          The <a routerLink="/trust/plan">Plan</a> of trust has the smallest change that mends this, as a work order.
        </p>
      }
      @for (folded of finding().folded; track folded.causeId) {
        <details>
          <summary>This also explains: {{ folded.title }}</summary>
          <p>{{ folded.meaning }}</p>
        </details>
      }
    </section>
  `,
  styles: `
    section {
      border-left: 4px solid currentColor;
      padding: 0.1rem 0 0.1rem 0.8rem;
      margin-bottom: 0.9rem;
    }
    section > * {
      color: var(--ink);
    }
    .faint {
      color: var(--faint);
    }
    h3 {
      margin-bottom: 0.2rem;
    }
    h4 {
      margin: 0.4rem 0 0.2rem;
      font-size: 0.88rem;
      color: var(--faint);
    }
    ul {
      margin: 0;
      padding-left: 1.1rem;
    }
    li {
      margin-bottom: 0.45rem;
    }
    .act {
      margin-top: 0.25rem;
    }
    .grave {
      color: var(--fails);
      border: 1px solid;
      border-radius: 3px;
      padding: 0 0.3rem;
      font-size: 0.8rem;
      margin-left: 0.4rem;
    }
    summary {
      cursor: pointer;
      color: var(--faint);
    }
  `,
})
export class FindingView {
  readonly finding = input.required<Finding>();
  readonly plannable = computed(() => ofTrust.includes(this.finding().causeId));
  /** Of the person who looks at it. */
  readonly role = input<Role>('administrator');
  readonly mend = output<Remedy>();

  roleFor(remedy: Remedy): Role {
    return remedy.change.kind === 'release-password' ? 'approver' : 'engineer';
  }

  isOffered(remedy: Remedy): boolean {
    return mayActAs(this.role(), this.roleFor(remedy));
  }
}
