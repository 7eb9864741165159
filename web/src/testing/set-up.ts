import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { watchWhatComes } from './soon';
import { undrawn } from './undrawn';
import { setupZonelessTestEnv } from 'jest-preset-angular/setup-env/zoneless';

setupZonelessTestEnv({ errorOnUnknownElements: true, errorOnUnknownProperties: true });

watchWhatComes();

/** What a site told in passing stands beside its pages, where nobody clears it away. */
afterEach(() => document.querySelectorAll('hinge-notices').forEach((old) => old.remove()));

/** Parts link to pages; in a test there are none. */
beforeEach(() => TestBed.configureTestingModule({ providers: [provideRouter([]), undrawn] }));

Object.assign(Element.prototype, { scrollIntoView: () => undefined });
/** Nothing is ever resized where nothing is drawn. */
class StillSizes {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
Object.assign(globalThis, { ResizeObserver: StillSizes });

/** jsdom has no screen, and nothing that is drawn there moves. */
Object.assign(window, {
  matchMedia: (media: string) => ({
    media,
    matches: media.includes('prefers-reduced-motion'),
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  }),
});
