import type { DeviceView } from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';

const form = { type: 'float32' as const, order: 'high-first' as const, scale: 1, offset: 0, bits: null };
const item = (
  path: string,
  address: string,
  differs: Partial<DeviceView['items'][number]> = {},
): DeviceView['items'][number] => ({
  serverId: 'furnace-server',
  server: 'Furnace server',
  path,
  linkId: 'display--furnace',
  origin: {
    deviceId: 'panel',
    port: 502,
    unit: 3,
    table: 'holding',
    address,
    convention: 'from-1-with-digit',
    form,
    within: null,
  },
  comesFrom: `unit 3, holding register ${address}, float`,
  served: null,
  atDevice: null,
  agrees: null,
  sharesWith: null,
  ...differs,
});
const device: DeviceView = {
  id: 'panel',
  name: 'Burner panel',
  zone: 'Hot End',
  addresses: ['10.0.0.40'],
  ports: [
    {
      port: 502,
      outcome: 'open',
      ms: 2,
      at: '2026-11-20T10:00:00Z',
      units: [
        { unit: 1, answers: false, says: 'It did not answer.', ms: 3000, at: '2026-11-20T10:00:00Z' },
        { unit: 3, answers: true, says: 'It answered.', ms: 4, at: '2026-11-20T10:00:00Z' },
      ],
    },
  ],
  items: [
    item('Burner/Air', '40001', { served: '63', atDevice: '71', agrees: false }),
    item('Burner/Gas', '40002', { sharesWith: 'Burner/Air' }),
  ],
};
const readers = {
  probes: [
    { id: 'probe-dmz', name: 'DMZ probe', machine: 'History', isConnected: true },
    { id: 'probe-away', name: 'Far probe', machine: 'Yard', isConnected: false },
  ],
  nearest: 'probe-dmz' as string | null,
};
const noReaders = { probes: [], nearest: null };
const answers = {
  device,
  deviceReaders: noReaders,
  readDevice: { places: [7, null], says: 'Burner panel has 1 of 2 places.', slowestMs: 4 },
};
const open = (more: object = {}, role: 'engineer' | 'viewer' = 'engineer') =>
  Site.open('/plant/devices/panel', { ...answers, ...more }, role);

describe('a device’s page', () => {
  it('says what answers, which items come from it, and where values differ', async () => {
    const site = await open();
    expect(site.headline).toBe('Burner panel: 2 items come from it; 1 value differs.');
    expect(site.text).toContain('accepts connections in 2 ms');
    expect(site.text).toMatch(/Unit 1 does not answer\.\s+Unit 3 answers in 4 ms\./);
    expect(site.all('hinge-device-coverage rect')).toHaveLength(2);
    expect(site.all('hinge-device-coverage rect.shared')).toHaveLength(1);
    expect(site.text).toContain('differ');
  });

  it('is read by hand, within bounds', async () => {
    const site = await open();
    await site.fill(/^Places$/, '600');
    await site.press(/^Read$/);
    expect(site.asked('readDevice')).toEqual([]);
    expect(site.text).toContain('At most 500 at once.');
    await site.fill(/^Places$/, '2');
    await site.press(/^Read$/);
    expect(site.asked('readDevice')).toEqual([{ port: 502, unit: 3, table: 'holding', first: 0, count: 2 }]);
    expect(site.text).toContain('Burner panel has 1 of 2 places.');
    expect(site.all('.words span').map(({ textContent }) => textContent)).toEqual(['0: 7', '1: –']);
  });

  it('shows no places where none was read', async () => {
    const site = await open({ readDevice: { places: [null, null], says: 'The device broke off.', slowestMs: 4 } });
    await site.press(/^Read$/);
    expect(site.text).toContain('The device broke off.');
    expect(site.all('.words span')).toEqual([]);
  });

  it('is read by the nearest probe, or by whom somebody chooses', async () => {
    const asked = async (nearest: string | null, choose?: string) => {
      const site = await open({
        deviceReaders: { ...readers, nearest },
        askUnits: { answering: [], asked: 1, says: '' },
      });
      if (choose) await site.fill(/^Read by$/, choose);
      await site.press(/^Read$/);
      await site.fill(/^Units, from 1 to$/, '1');
      await site.press(/^Which units answer$/);
      return [site.asked('readDevice'), site.asked('askUnits')].map((sent) => (sent[0] as { reader?: string }).reader);
    };
    expect(await asked('probe-dmz')).toEqual(['probe-dmz', 'probe-dmz']);
    expect(await asked('probe-dmz', 'the server')).toEqual([undefined, undefined]);
    expect(await asked(null)).toEqual([undefined, undefined]);
    expect(await asked(null, 'Far probe (not connected)')).toEqual(['probe-away', 'probe-away']);
    const site = await open();
    expect(site.text).not.toContain('Read by');
  });

  it('says which units answer, on asking alone', async () => {
    const parts = [
      { answering: [3], asked: 4, says: 'Unit 3 of Burner panel answers.' },
      { answering: [], asked: 4, says: 'None of these 4 units of Burner panel answers.' },
      { answering: [10], asked: 2, says: 'Unit 10 of Burner panel answers.' },
    ];
    let part = 0;
    const site = await open({ askUnits: () => parts[part++] });
    await site.press(/^Read$/);
    expect(site.all('.words span')).toHaveLength(2);
    expect(site.asked('askUnits')).toEqual([]);
    await site.fill(/^Units, from 1 to$/, '0');
    await site.press(/^Which units answer$/);
    expect(site.asked('askUnits')).toEqual([]);
    expect(site.text).toContain('At least 1.');
    await site.fill(/^Units, from 1 to$/, '10');
    await site.press(/^Which units answer$/);
    expect(site.asked('askUnits')).toEqual([
      { port: 502, from: 1, to: 4 },
      { port: 502, from: 5, to: 8 },
      { port: 502, from: 9, to: 10 },
    ]);
    expect(site.text).toContain('Units 3, 10 of Burner panel answer.');
    // What was read before would seem to belong to it.
    expect(site.all('.words span')).toEqual([]);
  });

  it('tells how far it is while units are asked, and stops when it is told to', async () => {
    const stop = () => site.all('hinge-device-ask button').find(({ textContent }) => textContent?.trim() === 'Stop');
    let [part, said] = [0, ''];
    const site = await open({
      askUnits: () => {
        part += 1;
        if (part === 3) {
          said = site.text;
          (stop() as HTMLButtonElement).click();
        }
        return { answering: part === 1 ? [3] : [], asked: 4, says: '' };
      },
    });
    await site.press(/^Which units answer$/);
    expect(said).toMatch(/Asked [48] of 32 units\. Unit 3 of Burner panel answers\./);
    expect(part).toBe(3);
    expect(site.text).toContain('Stopped after 8 of 32 units. Unit 3 of Burner panel answers.');
    expect(stop()).toBeUndefined();
  });

  it('says what went wrong amid the units, and what was found before', async () => {
    let part = 0;
    const site = await open({
      askUnits: () =>
        ++part === 2 ? refused('Burner panel, 10.0.0.40 port 502: silent.') : { answering: [2], asked: 4, says: '' },
    });
    await site.press(/^Which units answer$/);
    expect(part).toBe(2);
    expect(site.text).toContain('10.0.0.40 port 502: silent.');
    expect(site.text).toContain('Stopped after 4 of 32 units. Unit 2 of Burner panel answers.');
  });

  it('says why it can’t be read', async () => {
    const site = await open({ readDevice: refused('Burner panel, 10.0.0.40 port 502: refused.', 409) });
    await site.press(/^Read$/);
    expect(site.text).toContain('port 502: refused.');
    const viewer = await open({}, 'viewer');
    expect(viewer.all('hinge-device-ask button.act').every((button) => (button as HTMLButtonElement).disabled)).toBe(
      true,
    );
  });
});

describe('an import of origins', () => {
  it('tells each line that is wrong, and loses nothing', async () => {
    const choices = { fitting: 1, choices: [{ id: 'furnace-server', name: 'Furnace server', port: 4840 }] };
    const site = await Site.open('/plant/devices', {
      devices: { devices: [] },
      plantChoices: choices,
      takeOrigins: { kept: 0, faults: [{ line: 3, says: 'unit: This must be a number.' }] },
    });
    await site.press(/^Import …$/);
    await site.press(/^Import$/);
    expect(site.asked('takeOrigins')).toEqual([]);
    await site.fill(/^Of the server$/, 'Furnace server');
    await site.choose(/^Choose a file … File$/, 'origins.csv', 'path,device,address');
    await site.press(/^Import$/);
    expect(site.asked('takeOrigins')).toEqual([{ csv: 'path,device,address', leaveOutWrong: false }]);
    expect(site.text).toContain('Nothing was kept: 1 line is wrong.');
    expect(site.text).toContain('Line 3, unit: This must be a number.');
  });
});

describe('the devices', () => {
  it('are those from which items come', async () => {
    const devices = [
      { id: 'panel', name: 'Burner panel', zone: 'Hot End', items: 2 },
      { id: 'scale', name: 'Cullet scale', zone: 'Batch House', items: 1 },
    ];
    const site = await Site.open('/plant/devices', { devices: { devices } });
    expect(site.headline).toBe('3 items come from 2 devices.');
    expect(site.all('tbody a').map(({ textContent }) => textContent)).toEqual(['Burner panel', 'Cullet scale']);
    const none = await Site.open('/plant/devices', { devices: { devices: [] } });
    expect(none.text).toContain('No item states where its value comes from.');
  });
});
