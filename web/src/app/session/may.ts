import type { Signal } from '@angular/core';
import { computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { mayActAs } from '@loyal-hinge/contract';
import type { Role } from '@loyal-hinge/contract';
import { sessionFeature } from './state';

/** Whether the person who is signed in may act in this role. The server judges again; the pages only don’t offer in vain. */
export function may(role: Role): Signal<boolean> {
  const own = roleNow();
  return computed(() => mayActAs(own(), role));
}

/** The role of the person who is signed in. */
export function roleNow(): Signal<Role> {
  const person = inject(Store).selectSignal(sessionFeature.selectSignedIn);
  return computed(() => person()?.role ?? 'viewer');
}
