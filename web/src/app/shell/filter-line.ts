import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, inject, input, output, viewChild } from '@angular/core';
import { InputText } from 'primeng/inputtext';
import { Keys } from './keys';
import { valueOf } from './page-address';

/** The sentence above a list that says what of it is shown. What a page filters by beside words stands within it. */
@Component({
  selector: 'hinge-filter-line',
  imports: [InputText],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="filter" role="search">
      <label
        >Show
        <input
          pInputText
          #search
          type="search"
          aria-label="Words to look for"
          [placeholder]="what()"
          [value]="find()"
          (input)="findChange.emit(valueOf($event))"
      /></label>
      <ng-content />
      <span class="gap"></span>
      <ng-content select="[end]" />
      <button type="button" class="plain" (click)="save.emit()">Save as CSV</button>
    </div>
  `,
  styles: `
    .filter {
      display: flex;
      flex-wrap: wrap;
      gap: 0.5rem 0.9rem;
      align-items: center;
      margin-bottom: 0.7rem;
    }
    label {
      white-space: nowrap;
    }
    input {
      width: 15rem;
    }
    .gap {
      flex: 1;
    }
  `,
})
export class FilterLine {
  private readonly search = viewChild.required<ElementRef<HTMLInputElement>>('search');
  readonly find = input.required<string>();
  /** What the words are looked for in. */
  readonly what = input.required<string>();
  readonly findChange = output<string>();
  readonly save = output();
  readonly valueOf = valueOf;

  constructor() {
    const remove = inject(Keys).add({ '/': { does: 'search', run: () => this.search().nativeElement.focus() } });
    inject(DestroyRef).onDestroy(remove);
  }
}
