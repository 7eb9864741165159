import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Recordings } from './recordings.js';

const wish = { items: [{ nodeId: 'ns=1;s=A', name: 'A' }], shape: 'changes' as const, everyMs: 500, seconds: 60 };
const nothing = { add: () => Promise.resolve([]), remove: () => Promise.resolve(), end: () => Promise.resolve() };
const recorded = { owner: 'engineer', linkName: 'Display to Lehr', ended: new AbortController().signal };

describe('recordings', () => {
  let folder = '';
  beforeAll(async () => void (folder = await mkdtemp(join(tmpdir(), 'recordings-'))));
  afterAll(() => rm(folder, { recursive: true, force: true }));

  it('that could not begin hold no place, and leave nothing behind', async () => {
    const recordings = new Recordings(folder);
    const lost = { subscribe: () => Promise.reject(new Error('The session was lost.')) };
    for (let time = 0; time < 25; time += 1)
      await expect(recordings.begin(lost, wish, recorded)).rejects.toThrow('The session was lost.');
    expect(recordings.of('engineer')).toEqual([]);
    expect(await readdir(folder)).toEqual([]);
    const begun = await recordings.begin({ subscribe: () => Promise.resolve(nothing) }, wish, recorded);
    expect(begun.state).toBe('running');
    expect(() => recordings.stop(begun.id, 'somebody else')).toThrow();
    expect(recordings.stop(begun.id, 'engineer').state).toBe('stopped');
  });
});
