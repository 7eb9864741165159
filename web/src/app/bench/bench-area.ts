import { ChangeDetectionStrategy, Component, DestroyRef, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { Store } from '@ngrx/store';
import { benchActions } from './state';

/** All pages of the bench: whoever leaves them closes all sessions. */
@Component({
  selector: 'hinge-bench-area',
  imports: [RouterOutlet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<router-outlet />`,
})
export class BenchArea {
  constructor() {
    const store = inject(Store);
    inject(DestroyRef).onDestroy(() => store.dispatch(benchActions.closeAll()));
  }
}
