import type { FoundRegister, RegisterSearch } from '@loyal-hinge/contract';
import { detail, row } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';

const path = 'Crown/Temperature';
const wish = {
  path,
  deviceId: 'panel',
  port: 502,
  unit: 1,
  table: 'holding' as const,
  first: 0,
  count: 100,
  samples: 60,
  everyMs: 1000,
};
const found = (differs: Partial<FoundRegister> = {}): FoundRegister => ({
  place: 11,
  address: '40012',
  form: { type: 'int16', order: 'high-first', scale: 0.1, offset: 0, bits: null },
  says: '16-bit integer × 0.1',
  lag: 1,
  explained: 58,
  compared: 60,
  changes: 41,
  sureness: 'proved',
  series: [148, 149.5, null, 151],
  ...differs,
});
const search = (differs: Partial<RegisterSearch> = {}): RegisterSearch => ({
  id: 'one',
  linkId: 'display--furnace',
  wish,
  device: 'Lehr drive',
  state: 'done',
  says: 'One register follows the value, and no other does.',
  taken: 60,
  values: [148, 149.5, 150, 151].map((value, index) => ({ at: `2026-11-20T10:00:0${index}Z`, value })),
  changesSeen: 41,
  found: [
    found(),
    found({ address: '40031', says: 'float', explained: 40, changes: 12, sureness: 'likely', series: [1, 2, 3, 4] }),
  ],
  by: 'engineer',
  begunAt: '2026-11-20T10:00:00Z',
  ...differs,
});
const answers = {
  link: detail(),
  linkRow: row('display--furnace', 'Display to Furnace'),
  plantChoices: { fitting: 1, choices: [{ id: 'panel', name: 'Lehr drive', port: null }] },
  deviceReaders: {
    probes: [{ id: 'probe-dmz', name: 'DMZ probe', machine: 'History', isConnected: true }],
    nearest: null,
  },
  registerSearches: { searches: [search()] },
  registerSearch: search(),
  putOrigin: {
    serverId: 'furnace-server',
    path,
    origin: { ...wish, address: '40012', convention: 'from-1-with-digit' as const, form: found().form, within: null },
    device: 'Lehr drive',
    sharesWith: null,
    changedBy: 'engineer',
    changedAt: '2026-11-20T10:00:00Z',
  },
};
const address = `/links/display--furnace/register?path=${encodeURIComponent(path)}`;
const open = (more: object = {}, role: 'engineer' | 'viewer' = 'engineer') =>
  Site.open(address, { ...answers, ...more }, role);

describe('the search for a register', () => {
  it('says what was found, and draws it over the server’s value', async () => {
    const site = await open();
    expect(site.headline).toBe('One register follows the value, and no other does.');
    expect(site.text).toContain('58 of 60 values');
    expect(site.text).toContain('follows it, and no other does');
    const line = () => site.all('hinge-search-chart path.device')[0]?.getAttribute('d') ?? '';
    const drawn = line();
    // Of what was not read nothing is drawn.
    expect(drawn.match(/M/g)).toHaveLength(2);
    await site.press(/^40031$/);
    expect(line()).not.toBe(drawn);
    expect(site.all('hinge-search-chart svg')[0]?.getAttribute('aria-label')).toContain(
      'register 40031, which explains 40',
    );
  });

  it('takes one as the origin once somebody says so', async () => {
    const site = await open();
    site.all('hinge-search-page tbody button.act')[0]?.click();
    await site.settle();
    expect(site.asked('putOrigin')).toEqual([]);
    await site.press(/^Use as origin$/);
    expect(site.asked('putOrigin')).toEqual([
      {
        path,
        origin: {
          deviceId: 'panel',
          port: 502,
          unit: 1,
          table: 'holding',
          address: '40012',
          convention: 'from-1-with-digit',
          form: found().form,
          within: null,
        },
      },
    ]);
    expect(site.url).toBe('/links/display--furnace');
  });

  it('begins with a form, and says what is wrong with it at its field', async () => {
    const site = await open({
      registerSearches: { searches: [] },
      searchRegister: search({ state: 'running', says: 'Sampling.', taken: 3, found: [] }),
    });
    await site.fill(/^Device$/, 'Lehr drive');
    await site.fill(/^Places$/, '65536');
    await site.press(/^Begin$/);
    expect(site.asked('searchRegister')).toEqual([]);
    expect(site.text).toContain('more is no search, but a copy of the device');
    await site.fill(/^Places$/, '100');
    await site.press(/^Begin$/);
    expect(site.asked('searchRegister')).toEqual([{ ...wish, samples: 120, everyMs: 500 }]);
    expect(site.text).toContain('3 of 60 samples');
    expect(site.all('p-progressbar')).toHaveLength(1);
  });

  it('lets a probe read the device, where somebody says so', async () => {
    const site = await open({ registerSearches: { searches: [] }, searchRegister: search({ state: 'running' }) });
    expect(site.text).not.toContain('Read by');
    await site.fill(/^Device$/, 'Lehr drive');
    await site.fill(/^Read by$/, 'DMZ probe, on History');
    await site.press(/^Begin$/);
    expect(site.asked('searchRegister')).toEqual([{ ...wish, samples: 120, everyMs: 500, reader: 'probe-dmz' }]);
  });

  it('loses nothing when it can’t begin', async () => {
    const site = await open({
      registerSearches: { searches: [] },
      searchRegister: refused('A search at Lehr drive is under way already.', 409),
    });
    await site.fill(/^Device$/, 'Lehr drive');
    await site.fill(/^Unit$/, '3');
    await site.press(/^Begin$/);
    expect(site.text).toContain('under way already');
    expect(site.filled(/^Unit$/)).toBe('3');
  });

  it('is stopped, and only looked at by viewers', async () => {
    const running = search({ state: 'running', says: 'Sampling.', taken: 3 });
    const site = await open({
      registerSearches: { searches: [running] },
      stopRegisterSearch: {},
      registerSearch: search({ state: 'stopped', says: 'It was ended before enough was seen.', found: [] }),
    });
    await site.press(/^Stop$/);
    expect(site.headline).toBe('It was ended before enough was seen.');
    const viewer = await open({}, 'viewer');
    expect(viewer.all('hinge-search-page button.act').every((button) => (button as HTMLButtonElement).disabled)).toBe(
      true,
    );
  });
});
