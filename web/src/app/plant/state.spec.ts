import type { Action } from '@ngrx/store';
import type { PlantView } from '@loyal-hinge/contract';
import { plantActions, plantFeature } from './state';
import type { PlantState } from './state';

const { reducer } = plantFeature;
const problem = {
  title: 'Not valid',
  detail: 'd',
  remedy: 'r',
  faults: [{ place: 'name', says: 'A name is needed.' }],
};
const row = { id: 'hot-end', name: 'Hot End', order: 1 };

const of = (...actions: readonly Action[]): PlantState =>
  actions.reduce<PlantState>((state, action) => reducer(state, action), reducer(undefined, { type: 'begin' }));
const state = { plant: of() };
const seen = (plant: PlantState) => ({
  editing: plant.editing,
  isSaving: plantFeature.selectIsSaving({ ...state, plant }),
  atForm: plantFeature.selectFormProblem({ ...state, plant }),
  onPage: plantFeature.selectProblem({ ...state, plant }),
});

describe('editing the plant', () => {
  const edited = [plantActions.edit({ editing: { part: 'zones', row } }), plantActions.save({ part: 'zones', row })];

  it('keeps the form open, with what is wrong, where the server refuses', () => {
    expect(seen(of(...edited))).toMatchObject({ editing: { row }, isSaving: true, atForm: null });
    expect(seen(of(...edited, plantActions.failed({ does: 'save', problem })))).toEqual({
      editing: { part: 'zones', row },
      isSaving: false,
      atForm: problem,
      onPage: null,
    });
  });

  it('closes the form where it was saved', () => {
    const saved = plantActions.changed({ does: 'save', says: 'Hot End was saved.' });
    expect(seen(of(...edited, saved))).toEqual({ editing: null, isSaving: false, atForm: null, onPage: null });
  });

  it('leaves the form open where something else is done meanwhile', () => {
    const other = plantActions.changed({ does: 'import machines', says: '2 machines were added or changed.' });
    expect(seen(of(...edited, other))).toMatchObject({ editing: { row }, isSaving: true });
  });

  it('shows the rows that were wished last, whatever is answered later', () => {
    const [old, wish] = [
      { part: 'machines', find: 'a', from: 0, by: '', descending: '' },
      { part: 'machines', find: 'ab', from: 0, by: '', descending: '' },
    ] as const;
    const view = { find: 'a' } as unknown as PlantView;
    expect(
      of(plantActions.look({ wish: old }), plantActions.look({ wish }), plantActions.loaded({ wish: old, view })).view,
    ).toBeNull();
  });
});
