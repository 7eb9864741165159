import { meansOf, memoryLog, subjectOf } from '../testing/by-hand.js';
import { derOf, inPlant, plantGiven } from '../testing/given.js';
import { startOneServer } from '../testing/one-server.js';
import { walkLink } from '../probe/walk-link.js';
import { silenceLibrary } from '../ua/quiet.js';
import { SpaceWalk } from './walk-space.js';
import type { SeenNode } from './walk-space.js';

silenceLibrary();
const taken = plantGiven();

describe('a server with many nodes that takes few at once', () => {
  it('is walked through whole, by the rights of who asks', async () => {
    const address = inPlant('98.3');
    const display = subjectOf(taken, 'line-display--furnace');
    const clientPem =
      taken.clients.find(({ applicationId }) => applicationId === display.client.id)?.certificatePem ?? '';
    const password = 'a password of its own';
    const large = await startOneServer({
      id: display.server.id,
      address,
      hosts: [new URL(display.link.endpointUrl.replace('opc.tcp', 'http')).hostname],
      trusted: [clientPem],
      passwords: { display: password },
      devices: 250,
      operationLimit: 20,
    });
    const subject = { ...display, link: { ...display.link, pinnedAddress: address } };
    const clientTrust = { trusted: [derOf(large.certificatePem)], issuers: [], crls: [] };
    const means = { ...meansOf(taken, subject), clientTrust, password, readServerLists: null };
    const walk = new SpaceWalk();
    const seen: SeenNode[] = [];
    const log = memoryLog();
    try {
      await walkLink(subject, means, log, new AbortController().signal, (session) =>
        walk.goOn(session, (some) => Promise.resolve(void seen.push(...some)), new AbortController().signal),
      );
    } finally {
      await large.stop();
    }
    expect(log.facts.find(({ kind }) => kind === 'check-stopped')).toBeUndefined();
    expect([walk.isWhole, walk.refused]).toEqual([true, []]);
    const values = seen.filter(({ path }) => /^Devices\/Area \d\/Device \d+\/Value \d$/.test(path.join('/')));
    expect(values).toHaveLength(2500);
    expect(new Set(values.map(({ attributes }) => attributes.userAccessLevel))).toEqual(new Set([1]));
    expect(new Set(seen.map(({ nodeId }) => nodeId)).size).toBe(seen.length);
  });
});
