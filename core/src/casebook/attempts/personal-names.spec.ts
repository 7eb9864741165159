import { subject } from '../../testing/builders';
import type { Plant } from '../../plant/plant';
import type { Attempt } from './attempt';
import { personalNames, withoutNames } from './personal-names';

const found = subject({ identity: { kind: 'user', userName: 'display' } });
const plant: Plant = {
  name: 'Works',
  zones: [],
  machines: found.machines,
  applications: [found.client, found.server],
  links: [found.link],
};
const place = { address: null, name: null, port: null };
const as = (user: string | null): Attempt => ({
  kind: 'ua',
  from: place,
  to: place,
  as: user,
  start: 0,
  end: 0,
  ended: { hasFailed: true, code: '', says: '' },
  facts: [],
  remarks: [],
  evidence: [],
});

describe('names of people', () => {
  it('are those that no link of the plant signs in as', () => {
    const names = personalNames([as('WORKS\\ada'), as('WORKS\\Display'), as('ben'), as(null)], plant);
    expect([...names]).toEqual(['WORKS\\ada', 'ben']);
  });

  it('stand in no text, however they are written, and words that only begin so stay', () => {
    const row = {
      id: 'ada',
      as: 'WORKS\\ada',
      says: '“Ada” was refused, works\\ADA was locked, the adapter and ben_2 were not; ben’s turn.',
      attempts: [{ evidenceId: 'ben', says: 'as ben.' }],
      count: 3,
      when: null,
    };
    expect(withoutNames(row, new Set(['WORKS\\ada', 'ben']))).toEqual({
      id: 'ada',
      as: 'somebody',
      says: '“somebody” was refused, somebody was locked, the adapter and ben_2 were not; somebody’s turn.',
      attempts: [{ evidenceId: 'ben', says: 'as somebody.' }],
      count: 3,
      when: null,
    });
    expect(withoutNames(row, new Set())).toBe(row);
  });

  it('may be made of what patterns are made of', () => {
    expect(withoutNames('a.b (x) is here, aXb too', new Set(['a.b', '(x)']))).toBe(
      'somebody somebody is here, aXb too',
    );
  });
});
