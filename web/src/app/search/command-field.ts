import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { AutoComplete } from 'primeng/autocomplete';
import { Dialog } from 'primeng/dialog';
import { Keys } from '../shell/keys';
import { foundGroups } from './found';
import type { Found } from './found';
import { searchActions, searchFeature } from './state';

/** Finds anything that has a name, and goes there: machines, applications, links, certificates, work orders, pages, actions. */
@Component({
  selector: 'hinge-command-field',
  imports: [FormsModule, AutoComplete, Dialog],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Find anything"
      [visible]="true"
      (visibleChange)="closed.emit()"
      [modal]="true"
      [dismissableMask]="true"
      [focusOnShow]="false"
      [draggable]="false"
      position="top"
      [style]="{ width: '38rem' }"
    >
      <p-autocomplete
        [suggestions]="$any(groups())"
        [group]="true"
        optionGroupLabel="label"
        optionGroupChildren="items"
        optionLabel="name"
        (completeMethod)="look($event.query)"
        (onSelect)="go($event.value)"
        (onFocus)="takeEarly($event)"
        [minQueryLength]="1"
        [delay]="120"
        [autoOptionFocus]="true"
        [autofocus]="true"
        [fluid]="true"
        [showEmptyMessage]="true"
        emptyMessage="Nothing matches these words."
        scrollHeight="26rem"
        ariaLabel="Find anything"
        placeholder="A machine, application, link, certificate, work order, page or action"
        appendTo="body"
      >
        <ng-template #item let-one>
          <span class="hit"
            >{{ one.name }} <span class="faint">{{ one.about }}</span></span
          >
        </ng-template>
      </p-autocomplete>
      @if (isAway()) {
        <p class="weak" role="status">The server does not answer: only pages and actions are found.</p>
      }
    </p-dialog>
  `,
  styles: `
    .hit {
      display: flex;
      gap: 1rem;
      justify-content: space-between;
      width: 100%;
    }
    p {
      margin: 0.6rem 0 0;
    }
  `,
})
export class CommandField {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly keys = inject(Keys);
  readonly pages = input.required<readonly Found[]>();
  readonly closed = output();
  private readonly found = this.store.selectSignal(searchFeature.selectSearchState);
  readonly isAway = computed(() => this.found().isAway);
  /** What the page’s own keys do; those that lead to pages are among the pages. */
  private readonly actions = computed<readonly Found[]>(() =>
    this.keys
      .help()
      .filter(({ keys }) => !keys.startsWith('g ') && keys !== 'Ctrl K')
      .map(({ keys, does }) => ({ name: does.charAt(0).toUpperCase() + does.slice(1), about: keys, way: null, keys })),
  );
  readonly groups = computed(() => {
    const { find, hits } = this.found();
    return foundGroups(find, this.pages(), this.actions(), hits);
  });

  look(find: string): void {
    this.store.dispatch(searchActions.look({ find }));
  }

  /** What was typed before the field was there stands in it. */
  takeEarly({ target }: Event): void {
    const early = this.keys.typedEarly();
    if (early === '' || !(target instanceof HTMLInputElement)) return;
    target.value = early + target.value;
    target.dispatchEvent(new Event('input', { bubbles: true }));
  }

  go({ way, keys }: Found): void {
    this.closed.emit();
    if (way) void this.router.navigate([...way.path], { queryParams: way.query });
    else this.keys.run(keys);
  }
}
