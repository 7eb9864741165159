import { tunnelConfiguration } from '@loyal-hinge/contract/line';
import { revisionOf } from '../outposts/revision.js';
import { endConfiguration } from './configured.js';
import type { PlannedTunnel } from './configured.js';

const limits = {
  streams: 8,
  streamBytesPerSecond: null,
  bytesPerSecond: null,
  idleMs: null,
  connectMs: 5_000,
  silenceMs: 15_000,
  drainMs: 10_000,
};
const planned = (differs: Partial<PlannedTunnel> = {}): PlannedTunnel => ({
  id: 'hot-end',
  address: '10.1.0.9',
  port: 48_500,
  limits,
  fingerprints: { listens: ['A'.repeat(64)], dials: ['B'.repeat(64), 'C'.repeat(64)] },
  links: [
    {
      linkId: 'energy--furnace',
      side: 'dials',
      entrance: { address: '10.4.0.5', port: 48_400 },
      target: { address: '10.1.0.5', port: 4840 },
    },
    {
      linkId: 'Ofen: Zone 1',
      side: 'listens',
      entrance: { address: '10.1.0.9', port: 4841 },
      target: { address: '10.4.0.8', port: 4841 },
    },
  ],
  ...differs,
});

describe('What the ends of a tunnel hold', () => {
  it('fits together: each entrance of one leads to a target of the other, whichever way', () => {
    const [listens, dials] = (['listens', 'dials'] as const).map((side) =>
      tunnelConfiguration.parse(endConfiguration(planned(), side, true)),
    );
    for (const [one, other] of [
      [listens, dials],
      [dials, listens],
    ])
      for (const { target } of one?.entrances ?? [])
        expect(other?.targets.filter(({ name }) => name === target)).toHaveLength(1);
    expect(dials?.entrances).toHaveLength(1);
    expect(listens?.entrances).toHaveLength(1);
    expect(listens?.meets).toEqual({ by: 'listening', address: '10.1.0.9', port: 48_500 });
    expect(dials?.meets.by).toBe('dialling');
  });

  it('names whoever may be at the other end, the certificate before the newest, too', () => {
    expect(endConfiguration(planned(), 'listens', false)?.peers.map(({ fingerprint }) => fingerprint[0])).toEqual([
      'B',
      'C',
    ]);
    expect(endConfiguration(planned(), 'listens', false)?.revokedFile).toBeUndefined();
  });

  it('is nothing as long as nobody may be at the other end', () => {
    expect(
      endConfiguration(planned({ fingerprints: { listens: [], dials: ['B'.repeat(64)] } }), 'dials', true),
    ).toBeNull();
  });

  it('has another revision when it is something else', () => {
    const one = endConfiguration(planned(), 'dials', true);
    expect(revisionOf(endConfiguration(planned(), 'dials', true))).toBe(revisionOf(one));
    expect(revisionOf(endConfiguration(planned({ port: 1 }), 'dials', true))).not.toBe(revisionOf(one));
  });
});
