import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { RouterLink, RouterLinkActive } from '@angular/router';

/** The pages of a place, in the order in which they are used. */
@Component({
  selector: 'hinge-places',
  imports: [RouterLink, RouterLinkActive],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <nav [attr.aria-label]="label()">
      @for (place of places(); track place.path) {
        <a
          [routerLink]="place.path"
          routerLinkActive="here"
          [routerLinkActiveOptions]="$first ? exactly : within"
          ariaCurrentWhenActive="page"
          >{{ place.name }}</a
        >
      }
    </nav>
  `,
  styles: `
    nav {
      display: flex;
      gap: 1.5rem;
      border-bottom: 1px solid var(--line);
      margin-bottom: 0.9rem;
    }
    a {
      color: var(--faint);
      text-decoration: none;
      padding: 0.1rem 0 0.4rem;
      border-bottom: 3px solid transparent;
      margin-bottom: -1px;
    }
    a:hover {
      color: var(--ink);
    }
    a.here {
      color: var(--ink);
      font-weight: 600;
      border-bottom-color: var(--weak);
    }
  `,
})
export class Places {
  readonly label = input.required<string>();
  readonly places = input.required<readonly { readonly path: string; readonly name: string }[]>();
  /** What is filtered or chosen on a page does not make it another one; the first place is above all others. */
  readonly exactly = { paths: 'exact', queryParams: 'ignored', matrixParams: 'ignored', fragment: 'ignored' } as const;
  readonly within = { ...this.exactly, paths: 'subset' } as const;
}
