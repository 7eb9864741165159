import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { plantGiven, thumbprintIn } from '../testing/given.js';

let viewer: Caller;
beforeAll(async () => {
  viewer = await signIn('viewer');
});

const namesOf = async (find: string): Promise<readonly string[]> =>
  (await viewer.query('search', { find })).hits.map(({ kind, name }) => `${kind}: ${name}`);

describe('the search', () => {
  it('finds machines, applications and links by all of the words, in any case', async () => {
    const found = await namesOf('LEHR');
    expect(found).toEqual(expect.arrayContaining(['machine: Lehr control', 'application: Lehr server']));
    expect(await namesOf('COLLECTOR lehr')).toEqual(['link: History collector to Lehr']);
    expect(found.findIndex((name) => name.startsWith('link'))).toBeGreaterThan(
      found.indexOf('application: Lehr server'),
    );
    expect(await namesOf('lehr furnace nothing')).toEqual([]);
    // Batch scales weighs cullet, as its description says; this one is named so.
    expect((await namesOf('cullet scale'))[0]).toBe('machine: Cullet scale');
  });

  it('finds a machine by its address, and a certificate by its thumbprint', async () => {
    const { clients, plant } = plantGiven();
    const machine = plant.machines.find(({ id }) => id === 'lehr');
    expect(await namesOf(machine?.addresses[0] ?? '')).toContain('machine: Lehr control');
    const [client] = clients;
    const thumbprint = thumbprintIn(client?.certificatePem ?? '');
    const { hits } = await viewer.query('search', { find: thumbprint.slice(0, 16).toLowerCase() });
    expect(hits).toMatchObject([{ kind: 'certificate', id: thumbprint }]);
  });

  it('tells a few of each kind, and takes what the database has a meaning for as a letter', async () => {
    const { hits } = await viewer.query('search', { find: 'e' });
    expect(hits.filter(({ kind }) => kind === 'link')).toHaveLength(6);
    expect(await namesOf('%_\\')).toEqual([]);
    expect(await namesOf('   ')).toEqual([]);
  });
});
