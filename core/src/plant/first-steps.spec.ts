import { firstStepIds, firstSteps, nextFirstStep } from './first-steps.js';
import type { FirstStepId } from './first-steps.js';

describe('the first steps', () => {
  it('lead from nothing to a first check, one after the other', () => {
    const done = new Set<FirstStepId>();
    for (const id of firstStepIds) {
      expect(nextFirstStep(firstSteps(done))?.id).toBe(id);
      done.add(id);
    }
    expect(nextFirstStep(firstSteps(done))).toBeNull();
  });

  it('go back to what was left out', () => {
    const steps = firstSteps(new Set(['zone', 'machine', 'link']));
    expect(nextFirstStep(steps)?.id).toBe('ranges');
    expect(steps.filter(({ done }) => done).map(({ id }) => id)).toEqual(['zone', 'machine', 'link']);
  });
});
