import { plantActions, plantFeature } from './state';

const { reducer } = plantFeature;
const problem = {
  title: 'Not valid',
  detail: 'd',
  remedy: 'r',
  faults: [{ place: 'name', says: 'A name is needed.' }],
};
const row = { id: 'hot-end', name: 'Hot End', order: 1 };

describe('editing the plant', () => {
  it('keeps the form open, with what is wrong, where the server refuses', () => {
    let state = reducer(undefined, plantActions.edit({ part: 'zones', row }));
    state = reducer(state, plantActions.save({ part: 'zones', row }));
    expect(state.editing?.busy).toBe(true);
    state = reducer(state, plantActions.saveFailed({ problem }));
    expect(state.editing).toMatchObject({ row, busy: false, problem });
  });

  it('closes the form and says what was done where it is kept', () => {
    const state = reducer(
      reducer(undefined, plantActions.edit({ part: 'zones', row })),
      plantActions.changed({ says: 'Hot End was saved.' }),
    );
    expect(state).toMatchObject({ editing: null, says: 'Hot End was saved.', problem: null });
  });
});
