import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { Breadcrumb } from 'primeng/breadcrumb';

/** Where a page stands: the page above it, and its own name. */
@Component({
  selector: 'hinge-path',
  imports: [Breadcrumb],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<p-breadcrumb [model]="steps()" ariaLabel="Where this page stands" />`,
})
export class PagePath {
  readonly above = input.required<string>();
  /** Where the page above is. */
  readonly way = input.required<string>();
  readonly here = input.required<string>();
  readonly steps = computed(() => [{ label: this.above(), routerLink: this.way() }, { label: this.here() }]);
}
