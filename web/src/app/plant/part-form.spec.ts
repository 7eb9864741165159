import { Shown } from '../../testing/show';
import type { Offered } from './fields';
import { PartForm } from './part-form';
import type { Editing } from './state';

const offered: Offered = {
  zones: [{ id: 'hot-end', name: 'Hot End', order: 1 }],
  choices: { machines: null, clients: null, servers: null },
  known: [],
};
const editing = (differs: Partial<Editing> = {}): Editing => ({
  part: 'zones',
  row: null,
  ...differs,
});

describe('the form for a part of the plant', () => {
  it('makes an id of the name, until one is typed by hand', async () => {
    const shown = Shown.of(PartForm, { editing: editing(), offered });
    await shown.fixture.whenStable();
    await shown.type('#name', 'Cold End');
    expect(shown.part.draft()['id']).toBe('cold-end');
    await shown.type('#id', 'cold');
    await shown.type('#name', 'Cold End 2');
    expect(shown.part.draft()['id']).toBe('cold');
  });

  it('keeps what was typed where the server refuses, and shows what is wrong', async () => {
    const shown = Shown.of(PartForm, { editing: editing(), offered });
    await shown.fixture.whenStable();
    await shown.type('#name', 'Cold End');
    const problem = {
      title: 'Not valid',
      detail: 'No.',
      remedy: 'Change it.',
      faults: [{ place: 'name', says: 'Taken.' }],
    };
    shown.give({ problem });
    expect(shown.all('[role=alert]')[0]?.textContent).toContain('Taken.');
    expect(shown.part.draft()['name']).toBe('Cold End');
  });

  it('hands over what stands in it', async () => {
    const shown = Shown.of(PartForm, {
      editing: editing({ row: { id: 'hot-end', name: 'Hot End', order: 1 } }),
      offered,
    });
    await shown.fixture.whenStable();
    const kept = shown.heard(shown.part.kept);
    await shown.type('#name', 'Hotter End');
    shown.press(/^Save$/);
    expect(kept).toEqual([{ id: 'hot-end', name: 'Hotter End', order: 1 }]);
  });
});
