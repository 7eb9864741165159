import { Shown } from '../../testing/show';
import { TurnsView } from './turns-view';

const turn = {
  linkId: 'l',
  name: 'Display to Furnace',
  before: 'refused',
  after: 'trusted',
  why: 'It was not trusted.',
} as const;

describe('which links would turn', () => {
  it('is being calculated at first', () => {
    expect(Shown.of(TurnsView, { turns: null }).text).toContain('Calculating');
  });

  it('is none', () => {
    expect(Shown.of(TurnsView, { turns: [] }).text).toContain('No link would change.');
  });

  it('is told with the reason only where a link is lost', () => {
    expect(Shown.of(TurnsView, { turns: [turn] }).text).not.toContain('It was not trusted.');
    const lost = { ...turn, before: 'trusted', after: 'refused', why: 'Furnace refuses it.' } as const;
    expect(Shown.of(TurnsView, { turns: [lost] }).text).toContain(
      'would change from trusted to refused. Furnace refuses it.',
    );
  });
});
