import { firstStepIds, firstSteps, nextFirstStep } from './first-steps.js';
import type { PlantProgress } from './first-steps.js';

const nothing: PlantProgress = {
  declaredRanges: 0,
  zones: 0,
  machines: 0,
  servers: 0,
  clients: 0,
  clientCertificates: 0,
  links: 0,
  checks: 0,
};

describe('the first steps', () => {
  it('lead from nothing to a first check, one after the other', () => {
    const order = [
      'declaredRanges',
      'zones',
      'machines',
      'servers',
      'clients',
      'clientCertificates',
      'links',
      'checks',
    ] as const;
    let told = nothing;
    for (const [index, key] of order.entries()) {
      expect(nextFirstStep(firstSteps(told))?.id).toBe(firstStepIds[index]);
      told = { ...told, [key]: 1 };
    }
    expect(nextFirstStep(firstSteps(told))).toBeNull();
  });

  it('go back to what was left out', () => {
    const steps = firstSteps({ ...nothing, zones: 2, machines: 5, links: 1 });
    expect(nextFirstStep(steps)?.id).toBe('ranges');
    expect(steps.filter(({ done }) => done).map(({ id }) => id)).toEqual(['zone', 'machine', 'link']);
  });
});
