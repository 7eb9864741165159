import type { TunnelChange } from '@loyal-hinge/core';
import { TunnelDesk } from './desk.js';

const led: TunnelChange = {
  kind: 'lead-through-tunnel',
  tunnelId: 'warm',
  tunnel: 'Warm end tunnel',
  machineId: 'board',
  linkId: 'board--furnace',
  client: 'Board',
  host: 'furnace',
  port: 4840,
  entranceAddress: '10.4.0.5',
  entrancePort: 4841,
};
const end: TunnelChange = {
  kind: 'take-down-tunnel-end',
  tunnelId: 'warm',
  tunnel: 'Warm end tunnel',
  machineId: 'board',
  outpostId: 'warm-dials',
  side: 'dials',
  address: '10.1.0.5',
  port: 4850,
};

/** Where the link goes, and what is done to it. @param entrance null: straight to its server */
function begun(entrance: { readonly entranceAddress: string; readonly entrancePort: number } | null) {
  const done: string[] = [];
  const desk = new TunnelDesk({
    entranceOf: () => Promise.resolve(entrance),
    lead: (tunnelId, { linkId, entranceAddress, entrancePort }, actor) => {
      done.push(`${actor} leads ${linkId} through ${tunnelId} at ${entranceAddress} ${entrancePort}`);
      return Promise.resolve();
    },
    leadStraight: (tunnelId, linkId, actor) => {
      done.push(`${actor} leads ${linkId} straight, not through ${tunnelId}`);
      return Promise.resolve();
    },
  });
  return { desk, done };
}
const here = { entranceAddress: '10.4.0.5', entrancePort: 4841 };

describe('what was done by hand at a machine of a tunnel', () => {
  it.each([
    ['lead-straight', here, ['engineer leads board--furnace straight, not through warm']],
    ['lead-straight', null, []],
    ['lead-through-tunnel', null, ['engineer leads board--furnace through warm at 10.4.0.5 4841']],
    ['lead-through-tunnel', here, []],
    [
      'lead-through-tunnel',
      { ...here, entrancePort: 4999 },
      ['engineer leads board--furnace through warm at 10.4.0.5 4841'],
    ],
  ] as const)('is so in the plant, too: %s of a link whose entrance is %j', async (kind, entrance, wanted) => {
    const { desk, done } = begun(entrance);
    await desk.afterHand([{ ...led, kind } as TunnelChange], 'engineer');
    expect(done).toEqual(wanted);
  });

  it('changes nothing here where an end was stopped: what the end tells shows that', async () => {
    const { desk, done } = begun(here);
    await desk.afterHand([end], 'engineer');
    expect(done).toEqual([]);
  });

  it('is never done from here', async () => {
    const { desk } = begun(null);
    expect(desk.isAlwaysByHand).toBe(true);
    await expect(desk.carry()).rejects.toMatchObject({ problem: { status: 409 } });
    expect(await desk.byHand('warm-dials', [end])).toContain('Do it at the machine');
  });
});
