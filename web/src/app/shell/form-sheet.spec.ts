import { Component, signal } from '@angular/core';
import { FormGroup } from '@angular/forms';
import { Shown } from '../../testing/show';
import { FormSheet } from './form-sheet';

@Component({
  imports: [FormSheet],
  template: `<button type="button" (click)="isOpen.set(true)">Open</button>
    @if (isOpen()) {
      <hinge-form-sheet heading="A form" does="Send" [form]="form"><input aria-label="Name" /></hinge-form-sheet>
    }`,
})
class WithSheet {
  readonly form = new FormGroup({});
  readonly isOpen = signal(false);
}

@Component({
  imports: [FormSheet],
  template: `<hinge-form-sheet heading="A form" does="Send" [form]="form"
    ><input aria-label="Name"
  /></hinge-form-sheet>`,
})
class BeginsWithSheet {
  readonly form = new FormGroup({});
}

describe('a form within a page', () => {
  it('has the focus where somebody opened it', () => {
    const shown = Shown.of(WithSheet, {});
    shown.button(/^Open$/).focus();
    shown.press(/^Open$/);
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Name');
  });

  it('leaves it to the page where that begins with it', () => {
    (document.activeElement as HTMLElement | null)?.blur();
    Shown.of(BeginsWithSheet, {});
    expect(document.activeElement).toBe(document.body);
  });
});
