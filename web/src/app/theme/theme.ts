import { Injectable, effect, signal } from '@angular/core';

const key = 'hinge-theme';

/** Paper by day, dark by night; the choice stays with the browser. */
@Injectable({ providedIn: 'root' })
export class Theme {
  readonly night = signal(localStorage.getItem(key) === 'night');

  constructor() {
    effect(() => {
      document.documentElement.classList.toggle('night', this.night());
      localStorage.setItem(key, this.night() ? 'night' : 'day');
    });
  }
}
