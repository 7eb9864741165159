import { Shown } from '../../../testing/show';
import { Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { By } from '@angular/platform-browser';
import { Router } from '@angular/router';
import { MultiSelect } from 'primeng/multiselect';
import { LedgerCell, LedgerHeading } from './cell';
import { Ledger } from './ledger';
import type { Column } from './ledger';
import { savedFiles } from '../../../testing/saved-files';

interface Row {
  readonly id: string;
  readonly name: string;
  readonly port: string;
}
const rows: readonly Row[] = [
  { id: 'b', name: 'Lehr', port: '4841' },
  { id: 'a', name: 'Furnace', port: '4840' },
  { id: 'c', name: 'Furnace crown', port: '50000' },
];
const columns = [
  { key: 'name', title: 'Name', text: (row: Row) => row.name },
  { key: 'port', title: 'Port', text: (row: Row) => row.port },
];
const table = (differs: Readonly<Record<string, unknown>> = {}): Shown<Ledger<Row>> =>
  Shown.of<Ledger<Row>>(Ledger, { columns, rows, ...differs });
/** What is looked at is kept in the address, which changes a moment later. */
const settled = async ({ fixture }: Shown<Ledger<Row>>): Promise<void> => {
  await fixture.whenStable();
  await new Promise((resolve) => setTimeout(resolve));
  fixture.detectChanges();
};
const sortBy = async (shown: Shown<Ledger<Row>>, title: string): Promise<void> => {
  shown
    .all('th')
    .find(({ textContent }) => textContent?.trim() === title)
    ?.click();
  await settled(shown);
};
const names = (shown: Shown<Ledger<Row>>) =>
  shown.all('tbody tr').map((row) => row.querySelector('td')?.textContent?.trim());

describe('the ledger table', () => {
  it('keeps the order that it was given until a heading is pressed, then turns it round', async () => {
    const shown = table();
    expect(names(shown)).toEqual(['Lehr', 'Furnace', 'Furnace crown']);
    await sortBy(shown, 'Name');
    expect(names(shown)).toEqual(['Furnace', 'Furnace crown', 'Lehr']);
    await sortBy(shown, 'Name');
    expect(names(shown)).toEqual(['Lehr', 'Furnace crown', 'Furnace']);
    expect(TestBed.inject(Router).url).toBe('/?sort=-name');
    expect(shown.all('th[aria-sort]').map((head) => head.getAttribute('aria-sort'))).toEqual(['descending', 'none']);
  });

  it('sorts numbers as numbers', async () => {
    const shown = table({ rows: [...rows, { id: 'd', name: 'Old', port: '102' }] });
    await sortBy(shown, 'Port');
    expect(names(shown)[0]).toBe('Old');
  });

  it('shows what fits all of the words, and says how many of how many', () => {
    const shown = table({ find: 'furnace 4840' });
    expect(names(shown)).toEqual(['Furnace']);
    expect(shown.text).toContain('1 of 3');
    shown.give({ find: 'nothing like it' });
    expect(shown.text).toContain('Nothing matches these words.');
  });

  it('hides a column, and shows it again', async () => {
    const shown = table();
    const chooses = shown.fixture.debugElement.query(By.directive(MultiSelect)).componentInstance as MultiSelect;
    chooses.updateModel(['name']);
    await settled(shown);
    expect(shown.text).not.toContain('50000');
    expect(TestBed.inject(Router).url).toBe('/?hide=port');
    chooses.updateModel(['name', 'port']);
    await settled(shown);
    expect(shown.text).toContain('50000');
    expect(TestBed.inject(Router).url).toBe('/');
  });

  it('saves what it shows, and no more', async () => {
    const textOf = savedFiles();
    const shown = table({ find: 'lehr' });
    shown.press(/Save as CSV/);
    expect(await textOf(0)).toMatch(/^Name,Port\r?\nLehr,4841\r?\n$/);
  });

  it('sorts by what the page says, where that is not the text', async () => {
    const byLength = [
      { key: 'name', title: 'Name', text: ({ name }: Row) => name, order: ({ name }: Row) => -name.length },
    ];
    const shown = table({ columns: byLength });
    await sortBy(shown, 'Name');
    expect(names(shown)).toEqual(['Furnace crown', 'Furnace', 'Lehr']);
  });

  it('draws two hundred of more rows at a time, and begins again when others are shown', async () => {
    const many = Array.from({ length: 450 }, (_, place) => ({ id: String(place), name: `Row ${place}`, port: '1' }));
    const shown = table({ rows: many });
    expect([names(shown).length, names(shown)[0]]).toEqual([200, 'Row 0']);
    shown.all('.p-paginator-next')[0]?.click();
    await settled(shown);
    expect([names(shown).length, names(shown)[0]]).toEqual([200, 'Row 200']);
    shown.give({ find: 'row 449' });
    await settled(shown);
    expect(names(shown)).toEqual(['Row 449']);
  });

  it('leads from row to row by the arrows, and presses the first link or button of one by Enter', () => {
    const shown = Shown.of(Page, {});
    const rowsOf = () => shown.all('tbody tr[tabindex]');
    const press = (key: string) =>
      document.activeElement?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
    expect(rowsOf().map(({ tabIndex }) => tabIndex)).toEqual([0, -1, -1]);
    rowsOf()[0]?.focus();
    press('ArrowDown');
    expect(document.activeElement).toBe(rowsOf()[1]);
    expect(rowsOf().map(({ tabIndex }) => tabIndex)).toEqual([-1, 0, -1]);
    press('Enter');
    shown.fixture.detectChanges();
    expect(shown.text).toContain('below Furnace');
    press('End');
    press('ArrowDown');
    expect(document.activeElement).toBe(rowsOf()[2]);
    press('Home');
    expect(document.activeElement).toBe(rowsOf()[0]);
  });

  it('keeps a row, and the focus in it, when it comes again', () => {
    const shown = table();
    const [first] = shown.all('tbody tr');
    first?.focus();
    shown.give({ rows: rows.map((row) => ({ ...row, port: '50001' })) });
    expect([shown.all('tbody tr')[0] === first, document.activeElement === first]).toEqual([true, true]);
    expect(first?.textContent).toContain('50001');
  });

  it('says what belongs there while there is nothing', () => {
    expect(table({ rows: [], empty: 'Here stand the machines.' }).text).toContain('Here stand the machines.');
  });

  it('shows cells, headings, deeds and what stands below as the page wants them', () => {
    const shown = Shown.of(Page, {});
    expect(names(shown as unknown as Shown<Ledger<Row>>)[0]).toBe('LEHR');
    expect(shown.all('thead th').map((head) => head.textContent?.trim())).toEqual(['Name', 'the port', 'Actions']);
    shown.press(/^Open Furnace$/);
    expect(shown.all('tbody td[colspan="3"]').map(({ textContent }) => textContent?.trim())).toEqual(['below Furnace']);
  });
});

@Component({
  selector: 'hinge-test-page',
  imports: [Ledger, LedgerCell, LedgerHeading],
  template: `
    <hinge-ledger [columns]="columns" [rows]="rows" [open]="open()">
      <ng-template hingeHeading="port">the port</ng-template>
      <ng-template hingeCell="name" [hingeCellOf]="rows" let-row>{{ row.name.toUpperCase() }}</ng-template>
      <ng-template hingeCell="acts" [hingeCellOf]="rows" let-row>
        <button type="button" (click)="open.set(row.id)">Open {{ row.name }}</button>
      </ng-template>
      <ng-template hingeCell="below" [hingeCellOf]="rows" let-row>below {{ row.name }}</ng-template>
    </hinge-ledger>
  `,
})
class Page {
  readonly columns: readonly Column<Row>[] = columns;
  readonly rows = rows;
  readonly open = signal<string | null>(null);
}
