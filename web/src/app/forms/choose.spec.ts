import { Component, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Shown } from '../../testing/show';
import { Choose } from './choose';
import type { Choice } from './choose';

@Component({
  imports: [FormsModule, Choose],
  template: `<hinge-choose
    label="Role"
    placeholder="which role?"
    [(ngModel)]="role"
    [disabled]="off()"
    [choices]="choices()"
    [looksElsewhere]="elsewhere()"
    (looked)="looked.set($event)"
  />`,
})
class Form {
  readonly role = signal<string | null>(null);
  readonly off = signal(false);
  readonly elsewhere = signal(false);
  readonly looked = signal('');
  readonly choices = signal<readonly Choice[]>([
    { key: 'viewer', word: 'a viewer' },
    { key: 'engineer', word: 'an engineer' },
  ]);
}

const settled = async ({ fixture }: Shown<Form>): Promise<void> => {
  for (let turn = 0; turn < 4; turn += 1) {
    await new Promise((resolve) => setTimeout(resolve, 2));
    fixture.detectChanges();
  }
};
const box = (shown: Shown<Form>): HTMLElement => shown.all('[role=combobox]')[0] as HTMLElement;
const open = async (shown: Shown<Form>): Promise<void> => {
  await settled(shown);
  box(shown).click();
  await settled(shown);
};
const words = (shown: Shown<Form>) => shown.all('[role=option]').map(({ textContent }) => textContent?.trim());

describe('a field that lets one of several be chosen', () => {
  it('is named by its label, and tells its form what was chosen', async () => {
    const shown = Shown.of(Form, {});
    await open(shown);
    expect(document.getElementById(box(shown).getAttribute('aria-labelledby') ?? '')?.textContent).toBe('Role');
    expect(words(shown)).toEqual(['a viewer', 'an engineer']);
    shown.all('[role=option]')[1]?.click();
    await settled(shown);
    expect([shown.part.role(), box(shown).textContent?.trim()]).toEqual(['engineer', 'an engineer']);
  });

  it('shows what its form says, and what is missing', async () => {
    const shown = Shown.of(Form, {});
    await settled(shown);
    expect(box(shown).textContent?.trim()).toBe('which role?');
    shown.part.role.set('viewer');
    await settled(shown);
    expect(box(shown).textContent?.trim()).toBe('a viewer');
  });

  it('can’t be opened while it is off', async () => {
    const shown = Shown.of(Form, {});
    shown.part.off.set(true);
    await open(shown);
    expect(words(shown)).toEqual([]);
  });

  it('lets many be looked for by words, here or where they come from', async () => {
    const shown = Shown.of(Form, {});
    const many = Array.from({ length: 12 }, (_, place) => ({ key: String(place), word: `Role ${place}` }));
    shown.part.choices.set(many);
    await open(shown);
    await shown.type('.p-select-filter', '11');
    await settled(shown);
    expect(words(shown)).toEqual(['Role 11']);
    shown.part.elsewhere.set(true);
    await settled(shown);
    await shown.type('.p-select-filter', 'words of another');
    await settled(shown);
    expect([shown.part.looked(), words(shown).length]).toEqual(['words of another', 12]);
  });
});
