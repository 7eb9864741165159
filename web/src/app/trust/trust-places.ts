import { ChangeDetectionStrategy, Component } from '@angular/core';
import { RouterLink, RouterLinkActive } from '@angular/router';

/** The pages of this place, in the order in which they are used. */
@Component({
  selector: 'hinge-trust-places',
  imports: [RouterLink, RouterLinkActive],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <nav aria-label="Trust">
      @for (place of places; track place.path) {
        <a
          [routerLink]="place.path"
          routerLinkActive="here"
          [routerLinkActiveOptions]="exactly"
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
export class TrustPlaces {
  /** What is filtered or chosen on a page does not make it another one. */
  readonly exactly = { paths: 'exact', queryParams: 'ignored', matrixParams: 'ignored', fragment: 'ignored' } as const;
  readonly places = [
    { path: '/trust', name: 'Who trusts whom' },
    { path: '/trust/set-aside', name: 'Set aside' },
    { path: '/trust/horizon', name: 'Horizon' },
    { path: '/trust/plan', name: 'Plan' },
    { path: '/trust/authority', name: 'Authority' },
    { path: '/trust/tickets', name: 'Tickets' },
    { path: '/trust/files', name: 'Files' },
  ];
}
