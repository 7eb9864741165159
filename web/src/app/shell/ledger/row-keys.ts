import { Directive, ElementRef, inject } from '@angular/core';

/**
 * Rows of a table that are reached by keyboard: one of them can be reached by Tab, the arrows, Home and End lead to the others,
 * and Enter presses the first link or button of the row.
 */
@Directive({ selector: '[hingeRowKeys]', host: { '(keydown)': 'hear($event)', '(focusin)': 'remember($event)' } })
export class RowKeys {
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;

  hear(event: KeyboardEvent): void {
    const row = event.target;
    if (!(row instanceof HTMLTableRowElement)) return;
    if (event.key === 'Enter') {
      event.preventDefault();
      row.querySelector<HTMLElement>('a, button:enabled')?.click();
      return;
    }
    const rows = this.rows();
    const place = placeAfter(event.key, rows.indexOf(row), rows.length);
    if (place === null) return;
    event.preventDefault();
    rows[place]?.focus();
  }

  /** Tab comes back to the row where one was last. */
  remember({ target }: FocusEvent): void {
    const row = target instanceof HTMLElement ? target.closest('tr') : null;
    if (!row?.hasAttribute('tabindex')) return;
    for (const other of this.rows()) other.tabIndex = other === row ? 0 : -1;
  }

  private rows = (): HTMLTableRowElement[] => [
    ...this.host.querySelectorAll<HTMLTableRowElement>('tbody > tr[tabindex]'),
  ];
}

/** The row to which a key leads; null: it leads to none. */
export function placeAfter(key: string, at: number, rows: number): number | null {
  if (key === 'ArrowDown') return Math.min(at + 1, rows - 1);
  if (key === 'ArrowUp') return Math.max(at - 1, 0);
  if (key === 'Home') return 0;
  if (key === 'End') return rows - 1;
  return null;
}
