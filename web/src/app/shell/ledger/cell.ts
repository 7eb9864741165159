import { Directive, TemplateRef, inject, input } from '@angular/core';

/**
 * How a row stands in a column of a ledger, where plain words are not enough. Two places are no columns: `acts`, what can
 * be done with a row, and `below`, what stands under a row while it is open.
 */
@Directive({ selector: 'ng-template[hingeCell]' })
export class LedgerCell<Row> {
  readonly template = inject<TemplateRef<{ readonly $implicit: Row }>>(TemplateRef);
  /** The key of the column. */
  readonly hingeCell = input.required<string>();
  /** The rows of the ledger that it stands in: they tell which type a row has. */
  readonly hingeCellOf = input.required<readonly Row[]>();

  static ngTemplateContextGuard<Row>(_cell: LedgerCell<Row>, context: unknown): context is { readonly $implicit: Row } {
    return context !== null;
  }
}

/** The heading of a column, where a word is not enough. */
@Directive({ selector: 'ng-template[hingeHeading]' })
export class LedgerHeading {
  readonly template = inject<TemplateRef<unknown>>(TemplateRef);
  readonly hingeHeading = input.required<string>();
}
