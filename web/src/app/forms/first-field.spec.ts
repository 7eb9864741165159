import { Component } from '@angular/core';
import { Shown } from '../../testing/show';
import { FirstField } from './first-field';

@Component({
  imports: [FirstField],
  template: `<form hingeFirstField>
    <button type="button">Copy</button><input aria-label="URL" /><input aria-label="Password" />
    <div class="actions"><button type="button">Carry it out</button><button type="button">Cancel</button></div>
  </form>`,
})
class WithFields {}

@Component({
  imports: [FirstField],
  template: `<div hingeFirstField>
    <button type="button">Copy</button>
    <div class="actions"><button type="button">Carry it out</button><button type="button">Cancel</button></div>
  </div>`,
})
class WithoutFields {}

describe('what stands in a dialog', () => {
  it('has the focus on its first field', () => {
    Shown.of(WithFields, {});
    expect(document.activeElement?.getAttribute('aria-label')).toBe('URL');
  });

  it('has it on the button that does nothing where there is no field', () => {
    Shown.of(WithoutFields, {});
    expect(document.activeElement?.textContent).toBe('Cancel');
  });
});
