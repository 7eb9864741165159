import type { TrustChange } from '@loyal-hinge/core';
import { give, renew, take } from '../../../../core/src/testing/changes.js';
import { batchesOf } from '../../orders/batches.js';
import type { Doubt } from './renewal-proof.js';
import { StageGate } from './stage-gate.js';
import type { LineRow } from '../../orders/store.js';

const links = [
  { clientId: 'display', serverId: 'furnace' },
  { clientId: 'display', serverId: 'lehr' },
];

type Standing = readonly [TrustChange, LineRow['state']];

/** What each line that is still to be carried out waits for, by its target and stage; and which renewals were tried. */
async function gateAt(standing: readonly Standing[], doubts: readonly Doubt[] = []) {
  const lines = standing.map(([change, state], index) => ({ position: index + 1, change, state }) as LineRow);
  const tried: number[][] = [];
  const gate = new StageGate(
    links,
    async () => lines,
    async (renewals) => {
      tried.push(renewals.map(({ position }) => position));
      return doubts;
    },
  );
  const waits: Record<string, string | null> = {};
  for (const batch of batchesOf(lines.filter(({ state }) => state === 'waiting')))
    waits[`${batch.target} ${batch.stage}`] = await gate.heldBackBy(batch);
  return { waits, tried };
}

describe('what holds a line back', () => {
  it('is what it waits for and what is not done; everything else goes on', async () => {
    const { waits } = await gateAt([
      [give('display'), 'failed'],
      [give('furnace'), 'proved'],
      [renew('furnace'), 'waiting'],
      [take('furnace'), 'waiting'],
      [take('display'), 'waiting'],
    ]);
    expect(waits).toEqual({
      'furnace 1': 'It waits for 1 line that is not done (1).',
      'furnace 2': null,
      'display 2': 'It waits for 2 lines that are not done (1 and 3).',
    });
  });

  it('is a person who has not done a line yet, and a line that was undone', async () => {
    const { waits } = await gateAt([
      [give('lehr'), 'undone'],
      [renew('furnace'), 'by hand'],
      [take('display'), 'waiting'],
      [take('lehr'), 'waiting'],
    ]);
    expect(waits).toEqual({
      'display 2': 'It waits for 1 line that is not done (2).',
      'lehr 2': 'It waits for 1 line that is not done (1).',
    });
  });

  it('is a new certificate that nothing has proved since', async () => {
    const { waits, tried } = await gateAt([
      [renew('furnace'), 'done'],
      [take('display'), 'waiting'],
    ]);
    expect(waits['display 2']).toContain('Kept until what replaces it is proved');
    expect(tried).toEqual([]);
  });

  it('is a new certificate that is not accepted, where it is not accepted', async () => {
    const standing: readonly Standing[] = [
      [renew('furnace'), 'proved'],
      [renew('lehr'), 'proved'],
      [renew('display'), 'proved'],
      [take('furnace'), 'waiting'],
      [take('lehr'), 'waiting'],
    ];
    const { waits, tried } = await gateAt(standing, [{ between: ['display', 'lehr'], says: 'It is refused.' }]);
    expect(waits).toEqual({
      'furnace 2': null,
      'lehr 2': 'Kept, since a new certificate is not accepted here. It is refused.',
    });
    expect(tried).toEqual([[1, 2, 3]]);
  });

  it('is nothing where no certificate changes: what was given there is enough', async () => {
    const { waits, tried } = await gateAt([
      [give('furnace'), 'done'],
      [take('furnace'), 'waiting'],
    ]);
    expect([waits, tried]).toEqual([{ 'furnace 2': null }, []]);
  });
});
