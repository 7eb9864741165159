import { FieldDevice, readPlaces } from '@loyal-hinge/field';
import type { DeviceShape, PlacesLine } from '@loyal-hinge/field';
import { fromOutpost, fromServer } from '@loyal-hinge/contract/line';
import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import type { Database } from '../database/database.js';
import { ProbeReadings } from './read-for-server';
import { RemoteDevices } from './remote-devices';

const row = {
  id: 'shop-floor',
  kind: 'probe',
  name: 'Shop floor',
  processId: 'one',
  heardAt: '',
  told: { kind: 'probe', ranges: ['127.0.0.0/8'], readsDevices: true },
};
type Row = { [Key in keyof typeof row]: (typeof row)[Key] | null };
type Told = Extract<FromOutpost, { readonly visitId: string }>;

interface Given {
  readonly probe?: Partial<Row> | null;
  readonly ranges?: readonly string[];
  readonly isConnected?: boolean;
  /** Changes what the probe tells, as one might that lies; null: it is not told. */
  readonly told?: (message: Told) => Told | null;
}

const devices: FieldDevice[] = [];
afterEach(() => Promise.all(devices.splice(0).map((device) => device.stop())));
async function deviceLike(shape: Partial<DeviceShape> = {}): Promise<FieldDevice> {
  const device = await FieldDevice.start('127.0.0.1', 0, {
    at: (_, place) => (place < 9 ? 100 + place : null),
    ...shape,
  });
  devices.push(device);
  return device;
}

/** Both ends of a line, without the connection between them: each message is held against what the line allows. */
function bothEnds({ probe = {}, ranges = ['127.0.0.0/8'], isConnected = true, told = (one) => one }: Given = {}) {
  const db = {
    select: () => ({
      from: () => ({
        where: () => Promise.resolve(probe ? [{ ...row, heardAt: new Date().toISOString(), ...probe }] : []),
      }),
    }),
  } as unknown as Database;
  const said: FromServer[] = [];
  const reading = new ProbeReadings(ranges, (message) => {
    const heard = told(fromOutpost.parse(JSON.parse(JSON.stringify(message))) as Told);
    if (heard) far.hear('shop-floor', heard);
  });
  const far = new RemoteDevices(db, {
    has: () => isConnected,
    say: (_, message) => {
      said.push(message);
      reading.hear(fromServer.parse(JSON.parse(JSON.stringify(message))));
      return true;
    },
  });
  const open = ({ port }: { readonly port: number }, signal = new AbortController().signal, address = '127.0.0.1') =>
    far.open('shop-floor', { name: 'Lehr drive', address, port, connectMs: 1_000, answerMs: 150 }, signal);
  const opened = async (device: FieldDevice, signal?: AbortSignal): Promise<PlacesLine> => {
    const line = await open(device, signal);
    if (typeof line === 'string') throw new Error(line);
    return line;
  };
  return { far, said, open, opened };
}

const wish = { unit: 1, table: 'holding', first: 4, count: 3 } as const;
const goesOn = () => new AbortController().signal;

describe('a device that a probe reads for the server', () => {
  it('says what it says to whoever is there, and is left again', async () => {
    const device = await deviceLike();
    const { opened, said } = bothEnds();
    const line = await opened(device);
    const asked = await line.read(wish, goesOn());
    expect(asked).toMatchObject({ outcome: 'values', values: [104, 105, 106] });
    expect(asked.ms).toBeGreaterThan(0);
    // Parts that it does not have are found out over the same connection.
    const { places } = await readPlaces(line, { ...wish, count: 8, pauseMs: 0 }, goesOn());
    expect(places).toEqual([104, 105, 106, 107, 108, null, null, null]);
    expect([device.connections, line.isOpen]).toEqual([1, true]);
    line.close();
    expect([line.isOpen, said.at(-1)?.kind]).toEqual([false, 'leave-device']);
    expect(await line.read(wish, goesOn())).toMatchObject({ outcome: 'closed', received: 0 });
  });

  it.each([
    ['takes no answer for one that never came', 'mute', 'silent'],
    ['tells that what answers speaks another protocol', 'other-protocol', 'foreign'],
  ] as const)('%s, and asks no more over that connection', async (_, fault, outcome) => {
    const device = await deviceLike({ fault });
    const { opened } = bothEnds();
    const line = await opened(device);
    expect(await line.read(wish, goesOn())).toMatchObject({ outcome });
    expect(line.isOpen).toBe(false);
  });

  it('is known to be gone when it ends the connection after an answer, as some do', async () => {
    const device = await deviceLike({ fault: 'resets-after' });
    const { opened, said } = bothEnds();
    const line = await opened(device);
    expect(await line.read(wish, goesOn())).toMatchObject({ outcome: 'values' });
    while (line.isOpen) await new Promise((done) => setTimeout(done, 1));
    expect(said.at(-1)?.kind).toBe('leave-device');
  });

  it('is not dialled outside the ranges that the probe’s own folder allows', async () => {
    const device = await deviceLike();
    const { open } = bothEnds({ ranges: ['10.0.0.0/8'] });
    expect(await open(device)).toBe(
      'The probe Shop floor may not dial 127.0.0.1: see the ranges that its folder allows.',
    );
    expect(device.connections).toBe(0);
  });

  it('is named with how dialling it went, as the probe saw it', async () => {
    const { open } = bothEnds();
    expect(await open({ port: 1 })).toBe('Lehr drive, 127.0.0.1 port 1, from the probe Shop floor: refused.');
  });

  it.each([
    [{ probe: null }, 'The probe that should read it was removed.'],
    [{ probe: { kind: 'gateway' } }, 'The probe that should read it was removed.'],
    [{ isConnected: false }, 'The probe Shop floor is connected to another process of the server.'],
    [{ isConnected: false, probe: { processId: null } }, 'The probe Shop floor is not connected.'],
    [
      { probe: { told: { ...row.told, readsDevices: false } } },
      'The probe Shop floor is of an older version, which reads no devices.',
    ],
  ] as const)('is not asked where the probe can’t: %j', async (given: Given, says) => {
    const { open, said } = bothEnds(given);
    expect([await open({ port: 502 }), said]).toEqual([says, []]);
  });

  it('says nothing of the device where the probe vanishes in the midst', async () => {
    const device = await deviceLike({ fault: 'mute' });
    const { far, opened } = bothEnds();
    const line = await opened(device);
    const asked = line.read(wish, goesOn());
    far.gone('another');
    far.gone('shop-floor');
    await expect(asked).rejects.toThrow('The probe Shop floor said nothing more in the midst of it.');
    expect(line.isOpen).toBe(false);
    const dialling = bothEnds({ told: () => null });
    const never = dialling.open(device);
    await new Promise((done) => setTimeout(done, 5));
    dialling.far.gone('shop-floor');
    await expect(never).rejects.toThrow('said nothing more');
  });

  it('is left when nobody waits any more, be it while it is dialled or asked', async () => {
    const device = await deviceLike({ fault: 'mute' });
    const stop = new AbortController();
    const { opened, said } = bothEnds();
    const line = await opened(device, stop.signal);
    const asked = line.read(wish, stop.signal);
    stop.abort();
    expect(await asked).toMatchObject({ outcome: 'cancelled' });
    expect(said.at(-1)?.kind).toBe('leave-device');
    expect(await bothEnds().open(device, stop.signal)).toContain('cancelled');
  });

  it('is not believed where the probe tells other than what was asked', async () => {
    const device = await deviceLike();
    const less = bothEnds({
      told: (message) =>
        message.kind === 'device-read' && message.asked.outcome === 'values'
          ? { ...message, asked: { ...message.asked, values: [1] } }
          : message,
    });
    expect(await (await less.opened(device)).read(wish, goesOn())).toMatchObject({
      outcome: 'malformed',
      why: '1 places came of 3',
    });
    // Another probe’s word on this visit is none.
    const { far, said, opened } = bothEnds({ told: (message) => (message.kind === 'device-read' ? null : message) });
    const line = await opened(device);
    const stop = new AbortController();
    const asked = line.read(wish, stop.signal);
    const visitId = said.flatMap((one) => (one.kind === 'read-device' ? [one.visitId] : []))[0] ?? '';
    far.hear('another', { kind: 'device-read', visitId, askId: 1, asked: { outcome: 'exception', ms: 1, code: 2 } });
    stop.abort();
    expect(await asked).toMatchObject({ outcome: 'cancelled' });
  });

  it('is not asked what its protocol has no request for, and the probe lives on', async () => {
    const device = await deviceLike();
    const { opened } = bothEnds();
    const line = await opened(device);
    expect(await line.read({ ...wish, count: 126 }, goesOn())).toMatchObject({ outcome: 'malformed' });
    expect(device.requests).toBe(0);
    expect(await (await opened(device)).read(wish, goesOn())).toMatchObject({ outcome: 'values' });
  });

  it('is one of a few at once', async () => {
    const device = await deviceLike();
    const { open } = bothEnds();
    const lines = await Promise.all(Array.from({ length: 17 }, () => open(device)));
    expect(lines.filter((line) => typeof line === 'string')).toEqual([
      'The probe Shop floor visits enough devices at the moment.',
    ]);
    for (const line of lines) if (typeof line !== 'string') line.close();
    expect(typeof (await open(device))).toBe('object');
  });
});
