import type { LinkDetail } from '@loyal-hinge/contract';
import { check, detail, row } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';

const origin: NonNullable<LinkDetail['behind'][number]['origin']> = {
  deviceId: 'panel',
  port: 502,
  unit: 3,
  table: 'holding',
  address: '40108',
  convention: 'from-1-with-digit',
  form: { type: 'float32', order: 'low-first', scale: 1, offset: 0, bits: null },
  within: null,
};
const mapping = {
  kind: 'set-mapping' as const,
  serverId: 'furnace-server',
  path: 'Crown/Temperature',
  before: 'unit 3, holding register 40109, float',
  after: 'unit 3, holding register 40108, float',
};
const behind: LinkDetail['behind'] = [
  { path: 'Crown/Temperature', origin, device: 'Burner panel', served: '71.5', atDevice: '62', agrees: false, mapping },
  { path: 'Crown/Draught', origin: null, device: null, served: null, atDevice: null, agrees: null, mapping: null },
];
const kept = {
  serverId: 'furnace-server',
  path: 'Crown/Draught',
  origin,
  device: 'Burner panel',
  sharesWith: null,
  changedBy: 'engineer',
  changedAt: '2026-11-20T10:00:00Z',
};
const answers = {
  link: detail({}, { behind }),
  linkRow: row('display--furnace', 'Display to Furnace'),
  checkLink: check(),
  plantChoices: { fitting: 1, choices: [{ id: 'panel', name: 'Burner panel', port: null }] },
  putOrigin: kept,
  removeOrigins: {},
};
const open = (more: object = {}) => Site.open('/links/display--furnace', { ...answers, ...more });
const rows = (site: Site): string[] =>
  site
    .all('hinge-link-origins tbody tr')
    .map((row) =>
      [...row.children].map(({ textContent }) => (textContent ?? '').replace(/\s+/g, ' ').trim()).join(' | '),
    );

describe('what is behind a server', () => {
  it('stands beside what the server gives', async () => {
    const site = await open();
    expect(rows(site)).toEqual([
      'Crown/Temperature | 71.5 | 62 | Burner panel, port 502, unit 3, holding register 40108 float, low word firstThe two differ. Propose a work order | Change … Find …Many alike … Remove',
      'Crown/Draught | – | – | not stated | State … Find …',
    ]);
    // The strip goes on behind the server.
    expect(site.all('hinge-step-strip .title').map(({ textContent }) => textContent)).toContain('Origin');
  });

  it('has no steps where nobody has stated an origin', async () => {
    const site = await open({ link: detail({}, { behind: behind.slice(1) }) });
    expect(site.all('hinge-step-strip .title').map(({ textContent }) => textContent)).not.toContain('Origin');
  });

  it('is stated in a form that says what is wrong at its field', async () => {
    const site = await open();
    await site.press(/State …/);
    await site.fill(/^Address$/, '30001');
    await site.fill(/^Device$/, 'Burner panel');
    await site.press(/^Save$/);
    expect(site.asked('putOrigin')).toEqual([]);
    expect(site.text).toContain('The address of a holding register begins with 4');
    await site.fill(/^Address$/, '40001');
    await site.fill(/^Scale$/, '0.1');
    await site.press(/^Save$/);
    expect(site.asked('putOrigin')).toEqual([
      {
        path: 'Crown/Draught',
        origin: {
          deviceId: 'panel',
          port: 502,
          unit: 1,
          table: 'holding',
          address: '40001',
          convention: 'from-1-with-digit',
          form: { type: 'uint16', order: 'high-first', scale: 0.1, offset: 0, bits: null },
          within: null,
        },
      },
    ]);
    expect(site.text).toContain('The origin of Crown/Draught is saved.');
    expect(site.all('hinge-origin-form')).toEqual([]);
  });

  it('begins with what is known, and loses nothing when it is refused', async () => {
    const site = await open({ putOrigin: refused('The server is busy.', 503) });
    await site.press(/Change …/);
    expect([site.filled(/^Address$/), site.filled(/^Unit$/)]).toEqual(['40108', '3']);
    await site.press(/^Save$/);
    expect(site.text).toContain('The server is busy.');
    expect(site.filled(/^Address$/)).toBe('40108');
  });

  it('is stated for many alike by a pattern', async () => {
    const site = await open({ putOriginPattern: { kept: 8 } });
    await site.press(/^Many alike …$/);
    await site.fill(/^Items$/, 'Lehr/Zone/Temperature');
    await site.fill(/^To number$/, '8');
    await site.press(/^Save$/);
    expect(site.asked('putOriginPattern')).toEqual([]);
    expect(site.text).toContain('Write {n} where the number is');
    await site.fill(/^Items$/, 'Lehr/Zone {n}/Temperature');
    await site.press(/^Save$/);
    expect(site.asked('putOriginPattern')).toEqual([
      { path: 'Lehr/Zone {n}/Temperature', from: 1, to: 8, step: 1, origin },
    ]);
    expect(site.text).toContain('The origins of 8 items are saved.');
  });

  it('is removed once somebody says so', async () => {
    const site = await open();
    await site.press(/^Remove$/);
    expect(site.asked('removeOrigins')).toEqual([]);
    site.one('[role=alertdialog] button.main, [role=alertdialog] .p-confirmdialog-accept-button').click();
    await site.settle();
    expect(site.asked('removeOrigins')).toEqual([{ paths: ['Crown/Temperature'] }]);
  });

  it('becomes a work order where the server reads another register', async () => {
    const site = await open();
    await site.press(/^Propose a work order$/);
    expect(site.asked('proposeOrder')).toEqual([
      {
        title: 'Set the register of Crown/Temperature at Furnace server',
        lines: [
          {
            change: mapping,
            why: expect.stringContaining('the server reads unit 3, holding register 40109') as string,
            linkIds: ['display--furnace'],
          },
        ],
      },
    ]);
  });

  it('is not changed by those who only look', async () => {
    const site = await Site.open('/links/display--furnace', answers, 'viewer');
    const buttons = site.all('hinge-link-origins tbody button');
    expect(buttons).toHaveLength(5);
    expect(buttons.every((button) => (button as HTMLButtonElement).disabled)).toBe(true);
  });
});
