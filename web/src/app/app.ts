import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Router, RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';
import { Store } from '@ngrx/store';
import { SearchIcon } from 'primeng/icons/search';
import { mayActAs } from '@loyal-hinge/contract';
import type { Role } from '@loyal-hinge/contract';
import { DroppedFiles, isRecorded } from './files/dropped-files';
import { linksFeature } from './links/state';
import { sessionActions, sessionFeature } from './session/state';
import { Keys } from './shell/keys';
import { KeysDialog } from './shell/keys-dialog';
import { Notices } from './shell/notices';
import { CommandField } from './search/command-field';
import type { Found } from './search/found';
import { HingeSign } from './signs/hinge-sign';
import { Theme } from './theme/theme';
import { Telling } from './shell/telling';

/** Where the rail leads to, for those who may look at it. */
interface Place {
  readonly path: string;
  readonly name: string;
  readonly key: string;
  readonly role?: Role;
}

/** Pages that the rail does not name. */
const morePages: readonly Place[] = [
  { path: '/entry/identities', name: 'Identities', key: '' },
  { path: '/entry/user-certificates', name: 'User certificates', key: '' },
  { path: '/entry/rights', name: 'Rights', key: '' },
  { path: '/entry/rights/writers', name: 'Who can write in the plant', key: '' },
  { path: '/entry/floor', name: 'What the plant accepts', key: '' },
  { path: '/casebook/evidence', name: 'Captures and logs', key: '' },
  { path: '/plant/discovery', name: 'Find servers', key: '' },
  { path: '/trust/set-aside', name: 'Certificates set aside', key: '' },
  { path: '/trust/horizon', name: 'Expiry horizon', key: '' },
  { path: '/trust/plan', name: 'Plan of trust', key: '' },
  { path: '/trust/authority', name: 'Certificate authorities', key: '' },
  { path: '/trust/tickets', name: 'Tickets for certificates', key: '' },
  { path: '/trust/files', name: 'Files to recognise', key: '' },
  { path: '/account', name: 'Your account', key: '' },
];

@Component({
  selector: 'hinge-root',
  imports: [
    Telling,
    RouterOutlet,
    RouterLink,
    RouterLinkActive,
    HingeSign,
    SearchIcon,
    CommandField,
    KeysDialog,
    Notices,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    '(document:keydown)': 'keys.hear($event)',
    '(document:keydown.control.k)': 'find($event)',
    '(document:keydown.meta.k)': 'find($event)',
    '(window:dragover)': 'over($event)',
    '(window:drop)': 'drop($event)',
    '(window:dragleave)': 'carried.set(false)',
  },
  template: `
    @if (signedIn(); as person) {
      <div class="shell">
        <nav aria-label="Places">
          <a class="emblem" routerLink="/links"
            ><hinge-sign state="Sound" [size]="30" /><span class="unseen">Loyal Hinge</span></a
          >
          <button type="button" class="find" (click)="beginFinding()">
            <svg data-p-icon="search" aria-hidden="true"></svg> Find …
          </button>
          @for (place of places; track place.path) {
            <a [routerLink]="place.path" routerLinkActive="here" ariaCurrentWhenActive="page">{{ place.name }}</a>
          }
          <span class="gap"></span>
          @for (place of foot; track place.path) {
            @if (!place.role || mayActAs(person.role, place.role)) {
              <a [routerLink]="place.path" routerLinkActive="here" ariaCurrentWhenActive="page">{{ place.name }}</a>
            }
          }
          <button type="button" (click)="theme.night.set(!theme.night())">{{ theme.night() ? 'Day' : 'Night' }}</button>
          <button type="button" (click)="showKeys.set(true)">Keys <kbd>?</kbd></button>
          <a
            class="own"
            routerLink="/account"
            routerLinkActive="here"
            ariaCurrentWhenActive="page"
            [hingeTelling]="person.name + ', ' + person.role"
            ><span class="unseen">Your account: </span>{{ person.name }}</a
          >
          <button type="button" (click)="signOut()">Sign out</button>
        </nav>
        <main>
          @if (adrift()) {
            <p class="adrift" role="status">
              The connection to the server is lost. What you see may be out of date. Reconnecting …
            </p>
          }
          <router-outlet />
        </main>
      </div>
    } @else {
      <router-outlet />
    }
    @defer (when finding()) {
      @if (finding()) {
        <hinge-command-field [pages]="pages()" (closed)="finding.set(false)" />
      }
    }
    @defer (on idle) {
      <hinge-notices />
    }
    @if (carried()) {
      <p class="carried" aria-live="polite">
        Drop the files here. They are recognised, and you choose what to do with them.
      </p>
    }
    @defer (when showKeys()) {
      @if (showKeys()) {
        <hinge-keys-dialog (closed)="showKeys.set(false)" />
      }
    }
  `,
  styles: `
    .shell {
      display: grid;
      grid-template-columns: 7.3rem minmax(0, 1fr);
      min-height: 100vh;
    }
    nav {
      background: var(--panel);
      border-right: 1px solid var(--line);
      display: flex;
      flex-direction: column;
      padding: 0.9rem 0;
      position: sticky;
      top: 0;
      height: 100vh;
    }
    nav a,
    nav button {
      font: inherit;
      font-size: 0.95rem;
      padding: 0.42rem 0 0.42rem 1rem;
      color: var(--ink);
      text-decoration: none;
      border: 0;
      border-left: 4px solid transparent;
      background: none;
      text-align: left;
      cursor: pointer;
    }
    nav a:hover,
    nav button:hover {
      background: var(--wash);
    }
    nav a.here {
      border-left-color: var(--weak);
      font-weight: 650;
      background: var(--wash);
    }
    nav a.emblem {
      padding-bottom: 0.9rem;
    }
    nav a.own {
      font-size: 0.86rem;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    nav button {
      font-size: 0.86rem;
      color: var(--faint);
    }
    .find svg {
      width: 0.8rem;
      height: 0.8rem;
    }
    .gap {
      flex: 1;
    }
    .adrift {
      background: var(--wash);
      border-bottom: 1px solid var(--line);
      margin: 0;
      padding: 0.4rem 1.5rem;
      color: var(--fails);
    }
    .carried {
      position: fixed;
      inset: auto 0 0 0;
      z-index: 10;
      margin: 0;
      padding: 1rem;
      text-align: center;
      background: var(--lake);
      color: var(--on-lake);
    }
  `,
})
export class App {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  readonly theme = inject(Theme);
  readonly keys = inject(Keys);
  readonly showKeys = signal(false);
  private readonly dropped = inject(DroppedFiles);
  /** Files are being carried over the window. */
  readonly carried = signal(false);
  readonly signedIn = this.store.selectSignal(sessionFeature.selectSignedIn);
  private readonly live = this.store.selectSignal(linksFeature.selectLive);
  readonly adrift = computed(() => this.live() === 'broken');
  readonly places: readonly Place[] = [
    { path: '/plant', name: 'Plant', key: 'p' },
    { path: '/links', name: 'Links', key: 'l' },
    { path: '/trust', name: 'Trust', key: 't' },
    { path: '/entry', name: 'Entry', key: 'n' },
    { path: '/dcom', name: 'DCOM', key: 'd' },
    { path: '/passage', name: 'Passage', key: 'f' },
    { path: '/bench', name: 'Bench', key: 'b' },
    { path: '/casebook', name: 'Casebook', key: 'c' },
  ];
  readonly foot: readonly Place[] = [
    { path: '/orders', name: 'Work orders', key: 'o' },
    { path: '/trail', name: 'Audit trail', key: 'a', role: 'engineer' },
    { path: '/people', name: 'People', key: 'e', role: 'administrator' },
    { path: '/settings', name: 'Settings', key: 's' },
  ];
  readonly mayActAs = mayActAs;
  /** The command field is open. */
  readonly finding = signal(false);
  /** Pages that the person may look at, for the command field. */
  readonly pages = computed<readonly Found[]>(() =>
    [...this.places, ...this.foot, ...morePages]
      .filter(({ role }) => !role || mayActAs(this.signedIn()?.role ?? 'viewer', role))
      .map(({ path, name, key }) => ({ name, about: key && `g ${key}`, way: { path: [path], query: {} }, keys: '' })),
  );

  constructor() {
    const go = Object.fromEntries(
      [...this.places, ...this.foot].map(({ path, name, key }) => [
        `g ${key}`,
        { does: `go to ${name}`, run: () => void this.router.navigateByUrl(path) },
      ]),
    );
    this.keys.add({
      '?': { does: 'show the keys', run: () => this.showKeys.set(true) },
      'Ctrl K': { does: 'find anything', run: () => this.beginFinding() },
      // Where a page has words to look for of its own, these come first.
      '/': { does: 'find anything', run: () => this.signedIn() && this.beginFinding() },
      ...go,
    });
  }

  find(event: Event): void {
    if (!this.signedIn()) return;
    event.preventDefault();
    this.beginFinding();
  }

  beginFinding(): void {
    if (!this.finding()) this.keys.awaitField();
    this.finding.set(true);
  }

  over(event: DragEvent): void {
    if (!this.mayTake(event)) return;
    event.preventDefault();
    this.carried.set(true);
  }

  drop(event: DragEvent): void {
    if (!this.mayTake(event)) return;
    event.preventDefault();
    this.carried.set(false);
    const files = [...(event.dataTransfer?.files ?? [])];
    if (this.router.url.startsWith('/casebook') || files.every(({ name }) => isRecorded(name))) {
      this.dropped.recorded.set(files);
      void this.router.navigateByUrl('/casebook/evidence');
      return;
    }
    void this.dropped.take(files);
    void this.router.navigateByUrl('/trust/files');
  }

  private mayTake = ({ dataTransfer }: DragEvent): boolean =>
    (dataTransfer?.types.includes('Files') ?? false) && mayActAs(this.signedIn()?.role ?? 'viewer', 'engineer');

  signOut(): void {
    this.store.dispatch(sessionActions.signOut());
  }
}
