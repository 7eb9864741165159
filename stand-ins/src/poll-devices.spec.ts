import { wordsFor } from '@loyal-hinge/core/field';
import type { ValueForm } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import { DevicePoller } from './poll-devices.js';

const form: ValueForm = { type: 'float32', order: 'low-first', scale: 1, offset: 0, bits: null };
const place = 30;
const devices: FieldDevice[] = [];
const pollers: DevicePoller[] = [];
afterEach(async () => {
  for (const poller of pollers.splice(0)) poller.stop();
  for (const device of devices.splice(0)) await device.stop();
});

let value = 71.5;
async function polled(unit = 1): Promise<{ readonly device: FieldDevice; readonly poller: DevicePoller }> {
  const device = await FieldDevice.start('127.0.0.1', 0, {
    units: [1],
    otherUnits: 'exception',
    at: (table, at) => (table === 'holding' ? (wordsFor(value, form)[at - place] ?? null) : null),
  });
  devices.push(device);
  const { port } = device;
  const poller = new DevicePoller({ deviceId: 'panel', address: '127.0.0.1', port, unit, place, form });
  pollers.push(poller);
  await poller.begun;
  return { device, poller };
}

/** Waits for as many requests more. */
async function asked(device: FieldDevice, times: number): Promise<void> {
  const until = device.requests + times;
  while (device.requests < until) await new Promise((resolve) => setTimeout(resolve, 20));
}

describe('a server that polls a device', () => {
  it('has its value by the time it has begun, and goes on over the same connection', async () => {
    const { device, poller } = await polled();
    expect(poller.value).toBe(71.5);
    value = 72.25;
    await asked(device, 2);
    expect(poller.value).toBe(72.25);
    expect(device.connections).toBe(1);
  });

  it('has none where the device refuses the unit', async () => {
    const { poller } = await polled(7);
    expect(poller.value).toBeNull();
  });

  it('dials again after a connection was broken off', async () => {
    const { device, poller } = await polled();
    device.shape = { ...device.shape, fault: 'resets-after' };
    await asked(device, 2);
    device.shape = { ...device.shape, fault: undefined };
    await asked(device, 2);
    expect(device.connections).toBeGreaterThan(1);
    expect(poller.value).toBe(value);
  });

  it('has begun, and has nothing, where nobody is there', async () => {
    const { device } = await polled();
    const { port } = device;
    await device.stop();
    const poller = new DevicePoller({ deviceId: 'panel', address: '127.0.0.1', port, unit: 1, place, form });
    pollers.push(poller);
    await poller.begun;
    expect(poller.value).toBeNull();
  });
});
