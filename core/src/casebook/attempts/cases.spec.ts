import fc from 'fast-check';
import { usualRules } from '../../links/cause';
import type { FactBody } from '../../links/facts';
import type { Plant } from '../../plant/plant';
import { Dialogue, pcap } from '../../testing/captures';
import type { Frame, Peer } from '../../testing/captures';
import { subject } from '../../testing/builders';
import { certify, party } from '../../testing/pki';
import {
  acknowledge,
  chunk,
  createSession,
  errorMessage,
  fault,
  hello,
  opening,
  openRequest,
  request,
  response,
  signInByPassword,
} from '../../testing/ua-messages';
import { CaptureReading } from '../capture/read-capture';
import { LogReading } from '../log/read-log';
import { uaTcp } from '../ua-tcp/ua-listener';
import type { Attempt, AttemptPlace } from './attempt';
import { casesOf, rhythmOf } from './cases';
import type { Case } from './cases';
import type { Fall } from './fall';
import { happeningOfEvent } from './happening';
import type { Happening } from './happening';
import { joinAttempts } from './join-attempts';
import { joinParts } from './join-parts';
import { LinkFinder } from './link-of-attempt';
import { attemptOfReport } from './of-report';
import type { HeardRefusal } from './of-report';
import { attemptOfConversation } from './of-conversation';
import { attemptOfEvent } from './of-event';

const night = Date.parse('2026-11-20T02:10:00Z');
const hour = 3_600_000;
const url = 'opc.tcp://furnace.works.example:4840';
const display: Peer = { address: '10.0.0.2', port: 50_100 };
const furnace: Peer = { address: '10.0.0.1', port: 4840 };

const found = subject();
const classic = subject({
  id: 'classic',
  kind: 'classic',
  endpointUrl: 'classic://furnace:135/Works.Furnace',
  identity: { kind: 'user', userName: 'trend' },
});
const plant: Plant = {
  name: 'Works',
  zones: [{ id: 'hot-end', name: 'Hot end', order: 1 }],
  machines: found.machines,
  applications: [found.client, found.server],
  links: [found.link, classic.link],
};

const talk = (at: number, from = display, to = furnace): Dialogue => new Dialogue(at * 1000, from, to);
const opened = (at: number, port = 50_100): Dialogue =>
  talk(at, { ...display, port })
    .opened()
    .says(0, hello(url))
    .says(1, acknowledge())
    .says(0, opening(1, 1, openRequest()))
    .says(1, opening(1, 1, response('OpenSecureChannel')));
const refused = (at: number, port = 50_100): Dialogue =>
  opened(at, port)
    .says(0, chunk(2, 2, createSession('urn:works.example:display', url)))
    .says(1, chunk(2, 2, response('CreateSession')))
    .says(0, chunk(3, 3, signInByPassword('display', 'secret-1', null)))
    .says(1, chunk(3, 3, fault(0x801f0000)))
    .closed();

function ofCapture(frames: readonly Frame[], fileId = 'capture', clockAheadMs = 0): Attempt[] {
  const attempts: Attempt[] = [];
  const reading = new CaptureReading([uaTcp], (conversation) =>
    attempts.push(attemptOfConversation(conversation, { fileId, clockAheadMs })),
  );
  reading.take(pcap([...frames].sort((one, other) => one.at - other.at)));
  reading.end();
  return attempts;
}
function ofLog(lines: string, fileId = 'log', clockAheadMs = 0): Attempt[] {
  const attempts: Attempt[] = [];
  const reading = new LogReading({ zone: 0, latest: night + 24 * hour }, null, (event) => {
    const attempt = attemptOfEvent(event, { fileId, clockAheadMs });
    if (attempt) attempts.push(attempt);
  });
  reading.take(new TextEncoder().encode(lines));
  reading.end();
  return attempts;
}
const cases = (...attempts: readonly Attempt[]): readonly Case[] =>
  casesOf(joinAttempts(attempts), plant, usualRules).cases;
const only = (...attempts: readonly Attempt[]): Case => {
  const all = cases(...attempts);
  expect(all).toHaveLength(1);
  return all[0] as Case;
};

const dropped = (second: string, port: number): string =>
  `2026-11-20T02:10:${second}Z door-1 kernel: OPC-DROP IN=a OUT=b SRC=10.0.0.2 DST=10.0.0.1 PROTO=TCP SPT=${port} DPT=4840 SYN\n`;

describe('a case', () => {
  it('of a link is judged by the causes of live checks, with their words and remedies', () => {
    const told = only(...ofCapture(refused(night).frames));
    expect(told).toMatchObject({
      kind: 'link',
      linkId: 'display--furnace',
      as: 'display',
      step: 'identity',
      causeId: 'user-refused',
      count: 1,
      first: night,
      remarks: ['A password went over the connection in clear text.'],
    });
    expect(told.says).toContain('Furnace server does not let “display” in.');
    expect(told.findings[0]?.remedies.length).toBeGreaterThan(0);
    expect(JSON.stringify(told)).not.toContain('secret-1');
  });

  it.each([
    ['nothing answered', talk(night).packet(0, { syn: true }).again(), 'reach', 'port-silent'],
    [
      'the port was refused',
      talk(night).packet(0, { syn: true }).packet(1, { rst: true, ack: true }),
      'reach',
      'port-refused',
    ],
    ['no UA answered', talk(night).opened().says(0, hello(url)).closed(), 'hello', 'not-ua'],
    [
      'the Hello was refused',
      talk(night).opened().says(0, hello(url)).says(1, errorMessage(0x80830000, 'url')).closed(),
      'hello',
      'hello-refused',
    ],
    [
      'the channel was refused',
      talk(night)
        .opened()
        .says(0, hello(url))
        .says(1, acknowledge())
        .says(0, opening(1, 1, openRequest()))
        .says(1, errorMessage(0x80130000, ''))
        .closed(),
      'secure-channel',
      'channel-refused',
    ],
  ])('of a link says where it ended: %s', (_, dialogue, step, causeId) => {
    expect(only(...ofCapture(dialogue.frames))).toMatchObject({ linkId: 'display--furnace', step, causeId });
  });

  it.each([
    ['has expired', { to: '2026-11-20T02:00:00Z' }, 'expired', 'refused'],
    ['is not yet valid', { from: '2026-11-21', to: '2027-11-21' }, 'not-yet-valid', 'refused'],
    ['says nothing against it', {}, 'channel-refused', 'refused'],
    ['has expired, and the server lets it in', { to: '2026-11-20T02:00:00Z' }, null, 'let in'],
    ['has expired, and the client ends it first', { to: '2026-11-20T02:00:00Z' }, 'expired', 'given up'],
    ['says nothing against it, and the client ends it first', {}, null, 'given up'],
  ])('of a secured channel looks at the client’s certificate: it %s', async (_, wish, causeId, outcome) => {
    const client = await party('Furnace display');
    const secured = {
      policyUri: 'http://opcfoundation.org/UA/SecurityPolicy#Basic256Sha256',
      certificate: await certify(client, client, wish),
      receiverThumbprint: new Uint8Array(20),
    };
    const hidden = Uint8Array.from({ length: 64 }, (__, index) => (index * 7 + 3) & 255);
    const dialogue = talk(night)
      .opened()
      .says(0, hello(url))
      .says(1, acknowledge())
      .says(0, opening(1, 1, hidden, secured))
      .says(1, opening(1, 1, hidden, { ...secured, certificate: null }));
    const ended =
      outcome === 'given up'
        ? dialogue.closed()
        : outcome === 'refused'
          ? dialogue.packet(1, { rst: true })
          : dialogue.says(0, chunk(2, 2, hidden)).closed();
    const book = casesOf(ofCapture(ended.frames), plant, usualRules);
    expect(book.cases.map((one) => [one.step, one.causeId])).toEqual(
      causeId === null ? [] : [['secure-channel', causeId]],
    );
  });

  it('of a server that can’t call back is one of its classic link', () => {
    const call = (port: number, client = furnace.address): Dialogue =>
      talk(night, { address: client, port: 49_200 }, { address: display.address, port }).packet(0, { syn: true });
    expect(only(...ofCapture(call(50_400).frames))).toMatchObject({
      kind: 'link',
      linkId: 'classic',
      from: 'display',
      to: 'furnace',
      causeId: 'way-back-blocked',
    });
    expect(only(...ofCapture(call(445).frames)).kind).toBe('stranger');
    expect(only(...ofCapture(call(50_400, '10.0.0.66').frames)).kind).toBe('stranger');
  });

  it('has as many attempts as there were, and a rhythm', () => {
    const attempts = [0, 1, 2, 3, 4].flatMap((index) =>
      ofCapture(refused(night + index * 30_000, 50_000 + index).frames, `file ${index}`),
    );
    expect(only(...attempts)).toMatchObject({
      count: 5,
      first: night,
      rhythm: { everyMs: 30_000, isRegular: true },
    });
  });

  it('is over after a day without an attempt', () => {
    const times = [night, night + hour, night + 60 * hour];
    const attempts = times.flatMap((at, index) => ofCapture(refused(at, 50_000 + index).frames, `file ${index}`));
    expect(cases(...attempts).map(({ count }) => count)).toEqual([1, 2]);
  });

  it('says of a silence that was recorded no more than that', () => {
    const silent = talk(night).packet(0, { syn: true });
    expect(only(...ofCapture(silent.frames)).says).toBe(
      'furnace did not answer display on port 4840: the machine was off, or a firewall between the two dropped it.',
    );
  });

  it('is none where only wishes for changes were left when the session was closed', () => {
    const ending = (closed: boolean): Dialogue => {
      const dialogue = opened(night)
        .says(0, chunk(2, 2, request('Publish')))
        .says(1, chunk(2, 2, fault(0x80790000)));
      return closed ? dialogue.closed() : dialogue.packet(1, { rst: true });
    };
    expect(cases(...ofCapture(ending(true).frames))).toEqual([]);
    expect(only(...ofCapture(ending(false).frames)).says).toContain('Bad_NoSubscription');
  });

  it('is none where all worked', () => {
    const well = opened(night).closed();
    const book = casesOf(ofCapture(well.frames), plant, usualRules);
    expect(book.cases).toEqual([]);
    expect([...book.worked.keys()]).toEqual(['display--furnace']);
  });

  it('of a stranger says that no link allows it', () => {
    const stranger = talk(night, { address: '10.0.0.66', port: 1 })
      .packet(0, { syn: true })
      .packet(1, { rst: true, ack: true });
    expect(only(...ofCapture(stranger.frames))).toMatchObject({
      kind: 'stranger',
      linkId: null,
      from: '10.0.0.66',
      to: 'furnace',
      ports: [4840],
      says: '10.0.0.66 tried to reach furnace, port 4840. The machine refused the connection: nothing listens at the port. No link of the plant says that it may.',
    });
  });

  it('of a scan is one, however many ports were tried, and spares who tries the same port often', () => {
    const scanner = { address: '10.0.0.66', port: 40_000 };
    const scan = Array.from({ length: 40 }, (_, index) =>
      talk(night + index * 500, { ...scanner, port: 40_000 + index }, { address: '10.0.0.1', port: 100 + index })
        .packet(0, { syn: true })
        .packet(1, { rst: true, ack: true }),
    ).flatMap(({ frames }) => frames);
    expect(only(...ofCapture(scan))).toMatchObject({
      kind: 'scan',
      count: 40,
      says: '10.0.0.66 tried 40 ports of furnace within a short time.',
    });
    const often = Array.from({ length: 40 }, (_, index) =>
      talk(night + index * 500, { ...display, port: 40_000 + index }).packet(0, { syn: true }),
    );
    expect(only(...ofCapture(often.flatMap(({ frames }) => frames)))).toMatchObject({ kind: 'link', count: 40 });
  });

  it('of a sign-in that a machine refused belongs to the link of that account', () => {
    const event = `<Event><System><Provider Name="Microsoft-Windows-Security-Auditing"/><EventID>4625</EventID><TimeCreated SystemTime="2026-11-20T02:10:00.5Z"/><Computer>furnace.works.example</Computer></System><EventData><Data Name="TargetUserName">trend</Data><Data Name="TargetDomainName">WORKS</Data><Data Name="Status">0xc0000234</Data><Data Name="SubStatus">0x0</Data><Data Name="IpAddress">10.0.0.2</Data></EventData></Event>`;
    expect(only(...ofLog(event))).toMatchObject({
      kind: 'link',
      linkId: 'classic',
      as: 'WORKS\\trend',
      step: 'sign-in',
      causeId: 'account-refused',
    });
    expect(only(...ofLog(event)).says).toContain('the account is locked');
  });
});

describe('attempts that several sources tell of', () => {
  const silent = talk(night).packet(0, { syn: true });

  it('are one, with the evidence of all', () => {
    const joined = joinAttempts([...ofCapture(silent.frames), ...ofLog(dropped('00', 50_100))]);
    expect(joined).toHaveLength(1);
    expect(joined[0]).toMatchObject({
      ended: { hasFailed: true, says: 'door-1 dropped it by the rule “OPC-DROP”.' },
      evidence: [{ fileId: 'capture' }, { fileId: 'log' }],
    });
  });

  it('are several where ports or times speak against it', () => {
    expect(joinAttempts([...ofCapture(silent.frames), ...ofLog(dropped('00', 50_101))])).toHaveLength(2);
    expect(joinAttempts([...ofCapture(silent.frames), ...ofLog(dropped('09', 50_100))])).toHaveLength(2);
  });

  it('are one once their clocks are set right', () => {
    const ahead = ofLog(dropped('09', 50_100), 'log', 9000);
    expect(joinAttempts([...ofCapture(silent.frames), ...ahead])).toHaveLength(1);
  });

  it('of one source are one where a packet was only sent again', () => {
    expect(joinAttempts(ofLog(dropped('00', 50_100) + dropped('01', 50_100)))).toHaveLength(1);
    expect(joinAttempts(ofLog(dropped('00', 50_100) + dropped('01', 50_101)))).toHaveLength(2);
  });

  it('keep every line and conversation as evidence, in whatever order they come', () => {
    const all = [
      ...ofCapture(refused(night).frames),
      ...ofCapture(silent.frames, 'other'),
      ...ofLog(dropped('00', 50_100) + dropped('20', 50_200)),
    ];
    const count = all.flatMap(({ evidence }) => evidence).length;
    const whole = joinAttempts(all)
      .map(({ evidence }) => evidence.length)
      .sort();
    fc.assert(
      fc.property(fc.shuffledSubarray(all, { minLength: all.length }), (shuffled) => {
        const joined = joinAttempts(shuffled);
        expect(joined.flatMap(({ evidence }) => evidence)).toHaveLength(count);
        expect(joined.map(({ evidence }) => evidence.length).sort()).toEqual(whole);
      }),
    );
  });
});

describe('attempts that are parts of others', () => {
  const finder = new LinkFinder(plant);
  const machineOf = (place: AttemptPlace): object | null => finder.machineOf(place);
  const attempt = (at: number, more: Partial<Attempt>): Attempt => ({
    kind: 'classic',
    from: { address: display.address, name: null, port: 50_100 },
    to: { address: furnace.address, name: null, port: 135 },
    as: 'trend',
    start: night + at,
    end: night + at + 10,
    ended: { hasFailed: true, code: '', says: 'It ended with access denied.' },
    facts: [],
    remarks: [],
    evidence: [{ fileId: 'capture', position: at, says: 'It ended with access denied.' }],
    ...more,
  });
  const signIn = (code: number): FactBody => ({
    kind: 'classic-sign-in',
    level: code === 5 ? 'integrity' : 'connect',
    userName: 'trend',
    outcome: 'refused',
    failure: { by: 'fault', code },
    withheld: null,
    computer: null,
    clockApartMs: null,
    isProven: false,
    isAtMapper: true,
  });
  const wire = (at: number, user = 'trend'): Attempt => attempt(at, { as: user, facts: [signIn(5)] });
  const line = (at: number, user = 'WORKS\\trend'): Attempt =>
    attempt(at, {
      as: user,
      kind: null,
      to: { address: null, name: 'FURNACE', port: null },
      facts: [signIn(0x80070775)],
      ended: { hasFailed: true, code: '4625', says: 'The account is locked.' },
      evidence: [{ fileId: 'log', position: at, says: 'The account is locked.' }],
    });
  const files = (all: readonly Attempt[]) => all.map(({ evidence }) => evidence.map(({ fileId }) => fileId));

  it('join a refused sign-in with the line of the server’s log, which knows why', () => {
    const joined = joinParts([wire(0), line(500), wire(60_000), line(60_500)], machineOf);
    expect(files(joined)).toEqual([
      ['capture', 'log'],
      ['capture', 'log'],
    ]);
    expect(joined[0]?.ended.code).toBe('4625');
    expect(joined[0]?.facts[0]).toMatchObject({ level: 'integrity', failure: { code: 0x80070775 } });
  });

  it.each([
    ['another user', wire(0), line(500, 'WORKS\\other')],
    ['another time', wire(0), line(9000)],
    ['another machine', wire(0), { ...line(500), to: { address: null, name: 'lehr', port: null } }],
    ['another client', wire(0), { ...line(500), from: { address: '10.0.0.66', name: null, port: null } }],
  ])('stay two for %s', (_, one, other) => {
    expect(joinParts([one, other], machineOf)).toHaveLength(2);
  });

  it('lose nothing, and join each line once', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.boolean(), fc.nat(20))), (wish) => {
        const all = wish
          .map(([isWire, at]) => (isWire ? wire(at * 700) : line(at * 700)))
          .sort((one, other) => one.start - other.start);
        const joined = joinParts(all, machineOf);
        expect(files(joined).flat()).toHaveLength(all.length);
        expect(joined.every(({ evidence }) => evidence.length <= 2)).toBe(true);
      }),
    );
  });
});

describe('a link that checks saw parted', () => {
  const fall = (from: number, to: number, more: Partial<Fall> = {}): Fall => ({
    linkId: 'display--furnace',
    causeId: 'user-refused',
    step: 'identity',
    title: 'The user is refused',
    headline: 'Furnace server does not let “display” in.',
    from,
    to,
    checks: 3,
    checkId: 'check-1',
    ...more,
  });
  const book = (attempts: readonly Attempt[], ...falls: readonly Fall[]): readonly Case[] =>
    casesOf(joinAttempts(attempts), plant, usualRules, falls).cases;

  it('is a case, too', () => {
    expect(book([], fall(night, night + hour))).toMatchObject([
      {
        kind: 'link',
        linkId: 'display--furnace',
        from: 'display',
        to: 'furnace',
        step: 'identity',
        causeId: 'user-refused',
        title: 'The user is refused',
        first: night,
        last: night + hour,
        count: 3,
        rhythm: null,
      },
    ]);
  });

  it('is the same case as attempts that failed for the same cause', () => {
    const attempts = ofCapture(refused(night + hour / 2).frames);
    const [one, ...more] = book(attempts, fall(night, night + hour));
    expect(more).toHaveLength(0);
    expect(one).toMatchObject({ first: night, last: night + hour, count: 4, attempts: [{}], falls: [{}] });
  });

  it('is another case for another cause, and after a long silence', () => {
    const falls = [
      fall(night, night + hour),
      fall(night + 2 * hour, night + 3 * hour, { causeId: 'port-silent' }),
      fall(night + 26 * hour, night + 27 * hour),
    ];
    expect(book([], ...falls).map(({ first }) => (first - night) / hour)).toEqual([26, 2, 0]);
  });

  it('goes on while the fall before it is under way', () => {
    const [one, ...more] = book([], fall(night, night + 100 * hour), fall(night + 110 * hour, night + 111 * hour));
    expect(more).toHaveLength(0);
    expect(one).toMatchObject({ first: night, last: night + 111 * hour, count: 6 });
  });

  it('is none where the plant has no such link', () => {
    expect(book([], fall(night, night + hour, { linkId: 'gone' }))).toEqual([]);
  });
});

describe('many refused sign-ins', () => {
  const signIn = (second: number, user: string, address = '10.0.0.66', id = 4625): string => {
    const at = new Date(night + second * 1000).toISOString();
    const values = { TargetUserName: user, TargetDomainName: 'WORKS', IpAddress: address, SubStatus: '0xc000006a' };
    const data = Object.entries(values).map(([name, value]) => `<Data Name="${name}">${value}</Data>`);
    return `<Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="Microsoft-Windows-Security-Auditing"/><EventID>${id}</EventID><TimeCreated SystemTime="${at}"/><Channel>Security</Channel><Computer>furnace</Computer></System><EventData>${data.join('')}</EventData></Event>`;
  };
  const log = (...events: readonly string[]): Attempt[] => ofLog(`<Events>${events.join('')}</Events>`);
  const tries = (count: number, userOf: (index: number) => string, address?: string): Attempt[] =>
    log(...Array.from({ length: count }, (_, index) => signIn(index * 20, userOf(index), address)));

  it('from one place are one case, whoever they were tried as', () => {
    expect(only(...tries(12, (index) => `user-${index % 4}`))).toMatchObject({
      kind: 'guessing',
      from: '10.0.0.66',
      to: 'furnace',
      as: null,
      count: 12,
      title: 'Many sign-ins were refused',
      says: expect.stringContaining('refused 10.0.0.66 12 times within a short time, as 4 accounts') as string,
    });
  });

  it('are none where there are few, or they lie far apart', () => {
    expect(cases(...tries(9, (index) => `user-${index}`)).map(({ kind }) => kind)).not.toContain('guessing');
    const slow = log(...Array.from({ length: 12 }, (_, index) => signIn(index * 60, `user-${index}`)));
    expect(cases(...slow).map(({ kind }) => kind)).not.toContain('guessing');
  });

  it('of the one account that a link uses stay the case of the link', () => {
    const own = Array.from({ length: 12 }, (_, index) => refused(night + index * 10_000, 50_100 + index).frames).flat();
    expect(only(...ofCapture(own))).toMatchObject({ kind: 'link', causeId: 'user-refused', count: 12 });
  });
});

describe('what a server says that it refused', () => {
  const report = (more: Partial<HeardRefusal> = {}): Attempt =>
    attemptOfReport({
      fileId: 'server furnace-server',
      number: 7,
      at: night,
      kind: 'sign-in',
      code: 'BadUserAccessDenied',
      says: 'A sign-in was refused.',
      user: 'display',
      from: null,
      to: 'furnace',
      port: 4840,
      ...more,
    }) as Attempt;

  it('is of the link that alone signs in as this user, and judged like a check of it', () => {
    expect(only(report())).toMatchObject({ kind: 'link', linkId: 'display--furnace', causeId: 'user-refused' });
    expect(only(report({ from: 'display' }))).toMatchObject({ kind: 'link', linkId: 'display--furnace' });
  });

  it('blames no link and no stranger where nobody can tell who it was', () => {
    expect(only(report({ user: 'visitor' }))).toMatchObject({
      kind: 'unknown',
      title: 'Somebody was refused',
      says: 'furnace, port 4840 refused somebody as visitor. A sign-in was refused. From where is not told.',
    });
  });
});

describe('what changed at machines', () => {
  it('is told by their logs', () => {
    const log = `<Events><Event xmlns="http://schemas.microsoft.com/win/2004/08/events/event"><System><Provider Name="Microsoft-Windows-Security-Auditing"/><EventID>4947</EventID><TimeCreated SystemTime="2026-11-20T01:58:00Z"/><Channel>Security</Channel><Computer>FURNACE</Computer></System><EventData><Data Name="RuleName">OPC callbacks</Data></EventData></Event><Event><System><Provider Name="Microsoft-Windows-Security-Auditing"/><EventID>4624</EventID><TimeCreated SystemTime="2026-11-20T01:59:00Z"/><Computer>FURNACE</Computer></System><EventData/></Event></Events>`;
    const found: Happening[] = [];
    const reading = new LogReading({ zone: 0, latest: night }, null, (event) => {
      const happening = happeningOfEvent(event, { fileId: 'log', clockAheadMs: 60_000 });
      if (happening) found.push(happening);
    });
    reading.take(new TextEncoder().encode(log));
    reading.end();
    expect(found).toMatchObject([
      {
        at: Date.parse('2026-11-20T01:57:00Z'),
        computer: 'FURNACE',
        says: 'The rule “OPC callbacks” of the firewall was changed.',
      },
    ]);
  });
});

describe('a rhythm', () => {
  const at = (...times: readonly number[]): Attempt[] =>
    times.map((start) => ({ ...(ofLog(dropped('00', 1))[0] as Attempt), start }));

  it('is told from four attempts on, and whether they keep to it', () => {
    expect(rhythmOf(at(0, 10, 20))).toBeNull();
    expect(rhythmOf(at(0, 10, 20, 30))).toEqual({ everyMs: 10, isRegular: true });
    expect(rhythmOf(at(0, 10, 20, 500, 510))).toEqual({ everyMs: 10, isRegular: false });
  });
});
