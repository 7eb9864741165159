import { createServer, connect } from 'node:net';
import type { AddressInfo, Server, Socket } from 'node:net';
import { networkInterfaces } from 'node:os';
import { assess, usualRules } from '@loyal-hinge/core';
import type { Fact, LinkAssessment, LinkInPlant } from '@loyal-hinge/core';
import { meansOf, memoryLog, subjectOf } from '../testing/by-hand.js';
import { derOf, given, inPlant, plantGiven } from '../testing/given.js';
import { startOneServer } from '../testing/one-server.js';
import { silenceLibrary } from '../ua/quiet.js';
import type { CheckMeans } from './means.js';
import { walkLink } from './walk-link.js';
import { walks } from './walks.js';

silenceLibrary();
const taken = plantGiven();
given('HINGE_TEST_URL');

async function walk(
  subject: LinkInPlant,
  differs: Partial<CheckMeans> = {},
): Promise<LinkAssessment & { readonly kinds: readonly string[] }> {
  const log = memoryLog();
  const { kind } = subject.link;
  await walks[kind](subject, { ...meansOf(taken, subject), ...differs }, log, new AbortController().signal);
  return {
    ...assess(subject, log.facts, usualRules, new Date().toISOString()),
    kinds: log.facts.map((fact) => fact.kind),
  };
}

/** What a fact says of the far side, without what differs from one walk to the next. */
const essenceOf = (fact: Fact): string =>
  JSON.stringify(
    ['kind', 'purpose', 'outcome', 'code', 'failure', 'problem'].map(
      (key) => Object.entries(fact).find(([name]) => name === key)?.[1] ?? null,
    ),
  );

const expected: Readonly<Record<string, readonly [LinkAssessment['state'], string | null, string | null]>> = {
  'line-display--furnace': ['Sound', null, null],
  'line-display--tin-bath': ['Sound', null, null],
  'history--lehr': ['Sound', null, null],
  'line-display--lehr': ['Sound', null, null],
  'maintenance--tin-bath': ['Parted', 'write', 'write-denied'],
  'energy--furnace': ['Sound', null, null],
  'history--batch-scales': ['Parted', 'name', 'name-unknown'],
  'history--furnace': ['Parted', 'name', 'url-malformed'],
  'energy--batch-scales': ['Parted', 'reach', 'port-refused'],
  'line-display--silo-levels': ['Parted', 'reach', 'port-silent'],
  'energy--weighbridge': ['Parted', 'hello', 'not-ua'],
  'line-display--cutter': ['Parted', 'endpoints', 'advertised-unreachable'],
  'old-recorder--lehr': ['Parted', 'policy', 'no-common-policy'],
  'history--tin-bath': ['Parted', 'server-certificate', 'not-trusted'],
  'history--inspection': ['Parted', 'server-certificate', 'expired'],
  'energy--stacker': ['Parted', 'server-certificate', 'host-mismatch'],
  'maintenance--furnace': ['Parted', 'secure-channel', 'lying-in-rejected'],
  'maintenance--lehr': ['Parted', 'identity', 'user-refused'],
  'line-display--batch-scales': ['Parted', 'browse', 'item-missing'],
  'energy--dust-filter': ['Strained', null, 'unsecured-chosen'],
  'old-recorder--cullet-crusher': ['Strained', null, 'policy-deprecated'],
  'energy--lehr': ['Strained', null, 'many-addresses'],
  'energy--gas-meter': ['Strained', null, 'expires-soon'],
  'quality--glass-lab': ['Parted', 'secure-channel', 'chain-incomplete'],
  'quality--cooling-water': ['Parted', 'secure-channel', 'wrong-list'],
  'quality--cullet-sorter': ['Parted', 'secure-channel', 'crl-missing'],
  'energy--recipes': ['Strained', null, 'watch-slowed'],
  'line-display--recipes': ['Parted', 'browse', 'item-missing'],
  'history--archive': ['Sound', null, null],
  'history--field-data': ['Sound', null, null],
  'energy--field-data': ['Parted', 'origin-value', 'register-off-by-one'],
  'line-display--field-data': ['Parted', 'read', 'device-silent'],
  'maintenance--field-data': ['Sound', null, null],
  'quality--archive': ['Sound', null, null],
  'quality--crane': ['Parted', 'secure-channel', 'channel-refused'],
  'trend--lehr-data': ['Sound', null, null],
  'trend--lehr-data-belt': ['Parted', 'name', 'name-unknown'],
  'trend--lehr-data-night': ['Parted', 'sign-in', 'account-refused'],
  'trend--lehr-data-recipe': ['Parted', 'class', 'program-unknown'],
  'trend--lehr-data-exhaust': ['Parted', 'read', 'item-quality'],
  'trend--furnace-data': ['Parted', 'activation', 'launch-refused'],
  'trend--port-data': ['Parted', 'activation', 'level-too-low'],
  'trend--cutter-data': ['Parted', 'activation', 'launch-refused'],
  'trend--batch-data': ['Parted', 'activation', 'launch-refused'],
  'trend--crusher-data': ['Parted', 'activation', 'start-failed'],
  'trend--roller-data': ['Parted', 'object-port', 'object-port-closed'],
  'trend--tin-data': ['Parted', 'access', 'access-refused'],
  'trend--silo-data': ['Parted', 'watch', 'way-back-blocked'],
};

describe('a check of the made-up plant', () => {
  it('is expected for every link', () => {
    expect(new Set(Object.keys(expected))).toEqual(new Set(taken.plant.links.map((link) => link.id)));
  });

  it.each(Object.entries(expected))(
    'finds of %s what is really the matter',
    async (linkId, [state, partedAt, leadingCause]) => {
      const found = await walk(subjectOf(taken, linkId));
      expect({ state: found.state, partedAt: found.partedAt, leadingCause: found.leadingCause }).toEqual({
        state,
        partedAt,
        leadingCause,
      });
    },
  );
});

describe('a check of a server that misbehaves', () => {
  const healthy = subjectOf(taken, 'line-display--furnace');
  let server: Server | null = null;
  const sockets = new Set<Socket>();
  afterEach(async () => {
    for (const socket of sockets) socket.destroy();
    await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()));
    server = null;
  });

  const listen = (made: Server, host = '127.0.0.1'): Promise<LinkInPlant> =>
    new Promise((resolve) => {
      server = made.on('connection', (socket: Socket) => sockets.add(socket));
      made.listen(0, host, () => {
        const { port } = made.address() as AddressInfo;
        resolve({
          ...healthy,
          link: { ...healthy.link, endpointUrl: `opc.tcp://${host.includes(':') ? `[${host}]` : host}:${port}` },
          serverMachine: { ...healthy.serverMachine, addresses: [host] },
        });
      });
    });
  const near = { dialFromClientAddress: false };

  it('names garbage as another protocol', async () => {
    const subject = await listen(
      createServer((socket) => socket.on('error', () => undefined).end(Buffer.from([1, 2, 3, 4, 5, 250, 251]))),
    );
    expect(await walk(subject, near)).toMatchObject({ state: 'Parted', partedAt: 'hello', leadingCause: 'not-ua' });
  });

  it('gives up on one that accepts the connection and says nothing', async () => {
    const subject = await listen(createServer((socket) => socket.on('error', () => undefined)));
    const limits = { ...meansOf(taken, subject).limits, helloMs: 200 };
    expect(await walk(subject, { ...near, limits })).toMatchObject({ partedAt: 'hello', leadingCause: 'not-ua' });
  });

  /** Passes bytes to the furnace server until so many have come back, then breaks both lines. */
  const breaksAfter = (bytes: number): Server =>
    createServer((socket) => {
      const up = connect({ host: inPlant('20.11'), port: 4840 });
      let back = 0;
      const cut = (): void => {
        up.destroy();
        socket.destroy();
      };
      socket
        .on('data', (chunk) => up.write(chunk))
        .on('error', cut)
        .on('close', cut);
      up.on('data', (chunk) => {
        back += chunk.length;
        if (back > bytes) cut();
        else socket.write(chunk);
      })
        .on('error', cut)
        .on('close', cut);
    });

  it.each([30, 200, 1500, 9000])(
    'ends with facts where the line breaks after %i bytes, and never hangs',
    async (bytes) => {
      const subject = await listen(breaksAfter(bytes));
      const found = await walk(subject, near);
      expect(found.state).not.toBe('Sound');
      expect(found.kinds).toContain('hello');
    },
    300_000,
  );

  const hasIpv6 = Object.values(networkInterfaces()).some((ones) => ones?.some(({ address }) => address === '::1'));
  (hasIpv6 ? it : it.skip)('goes on over IPv6 from the first connection to the server’s endpoints', async () => {
    const subject = await listen(breaksAfter(Infinity), '::1');
    const log = memoryLog();
    const means = { ...meansOf(taken, subject), ...near, declaredRanges: ['127.0.0.0/8', '::1/128'] };
    await walkLink(subject, means, log, new AbortController().signal);
    expect(log.facts.find(({ kind }) => kind === 'tcp-connect')).toMatchObject({ address: '::1', outcome: 'open' });
    expect(log.facts.find(({ kind }) => kind === 'hello')).toMatchObject({ outcome: 'acknowledged' });
    expect(log.facts.find(({ kind }) => kind === 'endpoints')).not.toBeUndefined();
  });

  it('dials nothing outside the declared ranges', async () => {
    const found = await walk(healthy, { declaredRanges: ['10.0.0.0/8'] });
    expect(found.kinds).not.toContain('tcp-connect');
    expect(found.headline).toMatch(/declared/);
  });

  it.each(['line-display--furnace', 'trend--lehr-data', 'history--field-data'])(
    'stops where it is cancelled, and tells nothing that comes of that: %s',
    async (linkId) => {
      const subject = subjectOf(taken, linkId);
      const walked = async (afterMs: number | null): Promise<readonly Fact[]> => {
        const log = memoryLog();
        const controller = new AbortController();
        const cancel = (): void => controller.abort(new Error('it took too long.'));
        const timer = afterMs === null ? undefined : setTimeout(cancel, afterMs);
        await walks[subject.link.kind](subject, meansOf(taken, subject), log, controller.signal);
        clearTimeout(timer);
        const last = log.facts.at(-1);
        expect(last?.kind === 'check-stopped' ? last.reason : null).toBe(
          controller.signal.aborted ? 'it took too long.' : null,
        );
        return log.facts.filter(({ kind }) => kind !== 'check-stopped');
      };
      const begun = performance.now();
      const known = new Set((await walked(null)).map(essenceOf));
      const wholeMs = performance.now() - begun;
      for (let afterMs = 1; afterMs < wholeMs; afterMs = Math.ceil(afterMs * 1.7))
        expect([afterMs, (await walked(afterMs)).map(essenceOf).filter((one) => !known.has(one))]).toEqual([
          afterMs,
          [],
        ]);
    },
  );

  it('tells no server a password that it has no token for', async () => {
    const dust = subjectOf(taken, 'energy--dust-filter');
    const asUser = { ...dust, link: { ...dust.link, identity: { kind: 'user' as const, userName: 'display' } } };
    const log = memoryLog();
    await walkLink(asUser, { ...meansOf(taken, asUser), password: 'secret' }, log, new AbortController().signal);
    const { partedAt, leadingCause } = assess(asUser, log.facts, usualRules, new Date().toISOString());
    expect({ partedAt, leadingCause }).toEqual({ partedAt: 'identity', leadingCause: 'token-not-offered' });
    expect(log.facts.map(({ kind }) => kind)).not.toContain('session');
    expect(JSON.stringify(log.facts)).not.toContain('secret');
  });
});

describe('a server that the plant does not know', () => {
  const display = subjectOf(taken, 'line-display--furnace');
  const causesOfNoSession = ({ steps }: LinkAssessment) =>
    steps.find(({ step }) => step === 'identity')?.findings.map(({ causeId }) => causeId);

  it('gets no password where it calls itself another application, though its certificate is trusted', async () => {
    const other = { ...display, server: { ...display.server, applicationUri: 'urn:marrowby.example:other' } };
    expect(causesOfNoSession(await walk(other))).toEqual(['server-unproved']);
  });

  it('gets none where no channel looks at its certificate, and the client does not trust that', async () => {
    const address = inPlant('98.2');
    const { host } = new URL(display.link.endpointUrl.replace('opc.tcp', 'http'));
    const open = await startOneServer({
      id: display.server.id,
      address,
      hosts: [host.split(':')[0] ?? ''],
      unsecured: true,
      trusted: [],
      passwords: { display: 'another' },
    });
    try {
      const client = { ...display.client, securityPolicies: ['None' as const], securityModes: ['None' as const] };
      const subject = { ...display, client, link: { ...display.link, floor: 'any' as const, pinnedAddress: address } };
      expect(causesOfNoSession(await walk(subject))).toEqual(['server-unproved']);
      expect(open.heard).toEqual([]);
      const trusted = [derOf(open.certificatePem)];
      const trusting = await walk(subject, { clientTrust: { trusted, issuers: [], crls: [] } });
      expect(causesOfNoSession(trusting)).toEqual(['user-refused']);
      expect(open.heard).toHaveLength(1);
    } finally {
      await open.stop();
    }
  });
});

describe('a link that must write', () => {
  const path = 'Lehr/Roller speed wanted';
  const writing = (linkId: string): LinkInPlant => {
    const subject = subjectOf(taken, linkId);
    return { ...subject, link: { ...subject.link, needs: [{ path, uses: ['read', 'write'] }] } };
  };

  it('is parted where its user may only read, and nothing is written to find that out', async () => {
    const found = await walk(writing('history--lehr'));
    expect(found).toMatchObject({ state: 'Parted', partedAt: 'write', leadingCause: 'write-denied' });
    expect(found.kinds).toContain('item-rights');
  });

  it('is Sound where the server gives its user the right', async () => {
    const password = taken.passwords.find(({ linkId }) => linkId === 'maintenance--furnace')?.password ?? null;
    expect(await walk(writing('maintenance--lehr'), { password })).toMatchObject({ state: 'Sound', partedAt: null });
  });
});
