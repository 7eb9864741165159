import { assess, usualRules } from '@loyal-hinge/core';
import { meansOf, memoryLog, subjectOf } from '../testing/by-hand.js';
import { derOf, inPlant, plantGiven } from '../testing/given.js';
import { startOneServer } from '../testing/one-server.js';
import { walkLink } from '../probe/walk-link.js';
import { silenceLibrary } from '../ua/quiet.js';
import { SpaceWalk } from './walk-space.js';
import type { SeenNode } from './walk-space.js';

silenceLibrary();
const taken = plantGiven();

const display = subjectOf(taken, 'line-display--furnace');
const clientPem = taken.clients.find(({ applicationId }) => applicationId === display.client.id)?.certificatePem ?? '';
const password = 'a password of its own';
const address = inPlant('98.3');

/** The furnace’s server beside the made-up plant, with many nodes, and a link to it. */
async function largeServer() {
  const server = await startOneServer({
    id: display.server.id,
    address,
    hosts: [new URL(display.link.endpointUrl.replace('opc.tcp', 'http')).hostname],
    trusted: [clientPem],
    passwords: { display: password },
    devices: 250,
    operationLimit: 20,
  });
  const subject = { ...display, link: { ...display.link, pinnedAddress: address } };
  const clientTrust = { trusted: [derOf(server.certificatePem)], issuers: [], crls: [] };
  return { server, subject, means: { ...meansOf(taken, subject), clientTrust, password, readServerLists: null } };
}
const isValue = ({ path }: SeenNode): boolean => /^Devices\/Area \d\/Device \d+\/Value \d$/.test(path.join('/'));

describe('a server with many nodes that takes few at once', () => {
  it('is walked through whole, by the rights of who asks', async () => {
    const { server, subject, means } = await largeServer();
    const walk = new SpaceWalk();
    const seen: SeenNode[] = [];
    const log = memoryLog();
    try {
      await walkLink(subject, means, log, new AbortController().signal, (session) =>
        walk.goOn(session, (some) => Promise.resolve(void seen.push(...some)), new AbortController().signal),
      );
    } finally {
      await server.stop();
    }
    expect(log.facts.find(({ kind }) => kind === 'check-stopped')).toBeUndefined();
    expect([walk.isWhole, walk.refused]).toEqual([true, []]);
    const values = seen.filter(isValue);
    expect(values).toHaveLength(2500);
    expect(new Set(values.map(({ attributes }) => attributes.userAccessLevel))).toEqual(new Set([1]));
    expect(new Set(seen.map(({ nodeId }) => nodeId)).size).toBe(seen.length);
  });

  it('whose nodes are gone between browsing and reading is seen without them, and said to be so', async () => {
    const { server, subject, means } = await largeServer();
    const walk = new SpaceWalk();
    const seen: SeenNode[] = [];
    let isGone = false;
    const hear = async (some: readonly SeenNode[]): Promise<void> => {
      seen.push(...some);
      if (isGone || !seen.some(isValue)) return;
      isGone = true;
      await server.behave({ vanishes: true });
    };
    try {
      await walkLink(subject, means, memoryLog(), new AbortController().signal, (session) =>
        walk.goOn(session, hear, new AbortController().signal),
      );
    } finally {
      await server.stop();
    }
    expect(walk.isWhole).toBe(true);
    expect(seen.filter(isValue).length).toBeLessThan(2500);
    // Nodes that were browsed and could not be read any more are no nodes without rights.
    expect(
      seen.filter(({ attributes }) => attributes.nodeClass === 'Variable' && attributes.accessLevel === null),
    ).toEqual([]);
    const codes = new Set(walk.refused.map(({ code }) => code));
    expect([...codes]).toEqual(['BadNodeIdUnknown']);
  });
});

describe('a server that takes subscriptions and never sends a value', () => {
  it('is found to do so by a check, which does not wait for ever', async () => {
    const { server, subject, means } = await largeServer();
    const log = memoryLog();
    try {
      await server.behave({ neverPublishes: true });
      await walkLink(subject, means, log, new AbortController().signal);
    } finally {
      await server.stop();
    }
    const watched = log.facts.filter((fact) => fact.kind === 'item-watched');
    expect(watched.length).toBeGreaterThan(0);
    for (const fact of watched) expect(fact).toMatchObject({ code: 'Good', firstNotificationMs: null, changes: 0 });
    const told = assess(subject, log.facts, usualRules, new Date().toISOString());
    const step = told.steps.find(({ step: id }) => id === 'watch');
    expect([step?.verdict, step?.findings.map(({ causeId }) => causeId)]).toEqual(['fails', ['watch-silent']]);
  });
});
