import type {
  CaseRow,
  CasebookView,
  CaseView,
  ConversationMessage,
  ConversationView,
  EvidenceRow,
  ReadingRuleRow,
} from '@loyal-hinge/contract';
import { Site, refused } from '../../testing/site';

const at = '2026-11-20T02:10:00.000Z';
const later = '2026-11-20T03:10:00.000Z';
const oneCase = (differs: Partial<CaseRow> = {}): CaseRow => ({
  id: 'a1',
  kind: 'link',
  linkId: 'display--furnace',
  linkName: 'Display to Furnace',
  linkKind: 'ua',
  from: 'Display',
  to: 'Furnace',
  ports: [4840],
  as: 'display',
  step: 'identity',
  causeId: 'user-refused',
  title: 'The user is refused',
  says: 'Furnace server does not let “display” in.',
  first: at,
  last: later,
  count: 4,
  checks: 0,
  status: { state: 'open', at: null, by: null, why: null },
  assignedTo: null,
  rhythm: { everyMs: 30_000, isRegular: true },
  remarks: ['A password went over the connection in clear text.'],
  marks: [Date.parse(at), Date.parse(later)],
  ...differs,
});
const scan = oneCase({
  id: 'b2',
  kind: 'scan',
  linkId: null,
  linkName: null,
  linkKind: null,
  from: '10.0.0.66',
  step: null,
  causeId: null,
  title: 'Ports were scanned',
  says: '10.0.0.66 tried 40 ports of Furnace within a short time.',
  count: 40,
  rhythm: null,
  remarks: [],
});
const file = (differs: Partial<EvidenceRow> = {}): EvidenceRow => ({
  id: 'e1',
  name: 'night.pcap',
  bytes: 3_200_000,
  received: 3_200_000,
  state: 'read',
  form: 'capture',
  clock: { zone: 'UTC', aheadSeconds: 0 },
  items: 5400,
  attempts: 12,
  ruleId: null,
  readBytes: 0,
  notUnderstood: 0,
  gaps: [],
  passedOver: [],
  fault: null,
  firstAt: at,
  lastAt: later,
  broughtBy: 'engineer',
  broughtAt: at,
  ...differs,
});
const book = (differs: Partial<CasebookView> = {}): CasebookView => ({
  cases: [oneCase(), scan],
  happened: [],
  evidence: [file()],
  clocks: [],
  attempts: 44,
  since: null,
  ...differs,
});
const whole: CaseView = {
  ...oneCase(),
  findings: [
    {
      causeId: 'user-refused',
      step: 'identity',
      severity: 'fails',
      grave: false,
      title: 'The user is refused',
      meaning: 'Furnace server does not let “display” in.',
      clause: 'Part 4 §5.7.3',
      evidence: [],
      remedies: [
        {
          title: 'Type the password again',
          target: 'Display to Furnace',
          before: 'the present password',
          after: 'another password',
          change: { kind: 'set-password', linkId: 'display--furnace', userName: 'display' },
          restart: false,
          undo: 'Type the old password again.',
        },
      ],
      folded: [],
    },
  ],
  assessment: {
    linkId: 'display--furnace',
    state: 'Parted',
    headline: 'Furnace server does not let “display” in.',
    partedAt: 'identity',
    leadingCause: 'user-refused',
    steps: [
      { step: 'reach', verdict: 'holds', summary: 'It answers.', source: 'reported', evidence: [], findings: [] },
      { step: 'identity', verdict: 'fails', summary: 'Not let in.', source: 'reported', evidence: [], findings: [] },
    ],
  },
  attempts: 4,
  checkId: null,
  before: [
    {
      at: '2026-11-20T02:03:00.000Z',
      kind: 'log',
      says: 'FURNACE: The account was locked.',
      evidence: { evidenceId: 'e2', file: 'security.evtx', position: 512 },
      orderId: null,
    },
    { at, kind: 'order', says: 'A work order was carried out by ada.', evidence: null, orderId: 'o1' },
  ],
  acts: [],
  people: ['ada', 'engineer'],
  recent: [
    {
      at: later,
      from: 'Display',
      to: 'Furnace',
      port: 4840,
      as: 'display',
      says: 'Bad_UserAccessDenied: ActivateSession failed.',
      evidence: [
        { evidenceId: 'e1', isConversation: true, file: 'night.pcap', position: 24, says: '' },
        { evidenceId: 'e2', isConversation: false, file: 'door.log', position: 99, says: '' },
      ],
    },
  ],
};

describe('the casebook', () => {
  it('says which links failed, each case in a sentence, how often and when', async () => {
    const site = await Site.open('/casebook', { casebook: book() });
    expect(site.headline).toBe('1 link has failed; 1 case is of no link.');
    const [first, second] = site.rows().map((row) => row.join(' '));
    expect(first).toMatch(
      /The user is refused\s*Furnace server does not let “display” in\.\s*A password went over.*Display to Furnace.*Identity.*4 times, every 30 s/,
    );
    expect(second).toMatch(/tried 40 ports.*a scan.*40 times/);
    expect(site.all('hinge-case-strip .mark')).toHaveLength(4);
    expect(site.one('hinge-case-strip svg').getAttribute('aria-label')).toBe('When the weightiest 2 cases were tried');
  });

  it('shows those of links, or the others, as the address says', async () => {
    const site = await Site.open('/casebook?only=other', { casebook: book() });
    expect(site.rows()).toHaveLength(1);
    expect(site.text).toContain('tried 40 ports');
    const none = await Site.open('/casebook?only=other', { casebook: book({ cases: [oneCase()] }) });
    expect(none.text).toContain('There is no such case.');
  });

  it('draws what else happened at that time, and says it', async () => {
    const happened = [
      { at, says: 'FURNACE: The service Furnace server ended unexpectedly.' },
      { at: '2026-01-01T00:00:00.000Z', says: 'Long ago.' },
    ];
    const site = await Site.open('/casebook', { casebook: book({ happened }) });
    expect(site.all('hinge-case-strip path title').map(({ textContent }) => textContent)).toEqual([happened[0]?.says]);
    expect(site.one('hinge-case-strip summary').textContent).toBe('One thing else happened');
    expect(site.text).not.toContain('Long ago.');
  });

  it('shows cases that nobody closed, and others where that is asked for', async () => {
    const over = oneCase({
      id: 'c3',
      title: 'The port is silent',
      says: 'Nothing answers.',
      status: { state: 'proved', at: later, by: null, why: null },
    });
    const closed = oneCase({ id: 'c4', status: { state: 'closed', at: later, by: 'ada', why: 'Mended.' } });
    const cases = [oneCase({ assignedTo: 'ada' }), over, closed];
    const left = await Site.open('/casebook', { casebook: book({ cases }) });
    expect(left.rows()).toHaveLength(2);
    const site = await Site.open('/casebook?stand=open', { casebook: book({ cases }) });
    expect(site.rows()).toHaveLength(1);
    expect(site.rows()[0]?.join(' ')).toMatch(/open.*ada/);
    const past = await Site.open('/casebook?stand=over', { casebook: book({ cases }) });
    expect(past.rows()).toHaveLength(2);
    expect(past.rows()[0]?.join(' ')).toContain('proved over');
    const all = await Site.open('/casebook?stand=all', { casebook: book({ cases: [over] }) });
    expect(all.headline).toBe('The only case is over.');
  });

  it('says what to bring where there is nothing, and that nothing failed where that is so', async () => {
    const site = await Site.open('/casebook', { casebook: book({ cases: [], evidence: [] }) });
    expect(site.headline).toBe('Nothing was recorded here yet.');
    expect(site.text).toContain('it fills as soon as a round sees a link fail, or somebody brings a capture or a log');
    const well = await Site.open('/casebook', { casebook: book({ cases: [] }) });
    expect(well.headline).toBe('Nothing in what was brought has failed.');
    expect((await Site.open('/casebook', { casebook: book({ since: at }) })).text).toContain(
      'More was recorded than is looked at',
    );
  });
});

describe('captures and logs', () => {
  it('say what was read of them, and what was not', async () => {
    const part = file({
      id: 'e2',
      name: 'door.log',
      form: 'log',
      items: 1,
      notUnderstood: 2,
      gaps: [{ position: 99, says: 'The line has no form that is known.' }],
      clock: { zone: '+01:00', aheadSeconds: 9 },
    });
    const no = file({
      id: 'e3',
      name: 'logs.zip',
      state: 'refused',
      form: null,
      fault: 'This is an archive: unpack it, and bring what is in it.',
    });
    const site = await Site.open('/casebook/evidence', { casebook: book({ evidence: [file(), part, no] }) });
    expect(site.headline).toBe('3 files were brought; 1 was understood only in part; 1 was refused.');
    expect(site.text).toMatch(/night\.pcap.*3\.2 MB.*5400 packets.*as ours/);
    expect(site.text).toMatch(/door\.log.*1 event.*9 s ahead, \+01:00/);
    expect(site.text).toContain('This is an archive');
    await site.press(/2 places were not understood/);
    expect(site.text).toContain('byte 99 The line has no form that is known.');
  });

  it('are sent part by part, and go on from where they were cut off', async () => {
    const site = await Site.open('/casebook/evidence', {
      casebook: book({ evidence: [] }),
      beginEvidence: { evidenceId: 'e9', received: 4 },
      sendEvidence: { received: 10 },
    });
    await site.choose(/Bring captures and logs/, 'night.log', '0123456789');
    expect(site.asked('beginEvidence')).toEqual([{ name: 'night.log', bytes: 10 }]);
    expect(site.asked('sendEvidence')).toEqual([{ from: 4, content: btoa('456789') }]);
    expect(site.told).toContain('night.log has arrived, and is read now.');
  });

  it('that can’t be taken say why', async () => {
    const site = await Site.open('/casebook/evidence', {
      casebook: book({ evidence: [] }),
      beginEvidence: refused('The disk is full: this part was not kept.'),
    });
    await site.choose(/Bring captures and logs/, 'night.log', '0123456789');
    expect(site.one('[role=alert]').textContent).toContain('The disk is full');
  });

  it('have a clock that can be set, which is refused where there is no such zone', async () => {
    const site = await Site.open('/casebook/evidence', {
      casebook: book(),
      readingRules: [],
      setEvidenceReading: {},
    });
    await site.press(/How it is read …/);
    await site.fill(/Time zone/, 'Nowhere');
    await site.press(/Set, and read again/);
    expect(site.faults).toContain('This is no time zone: write +01:00, or a name such as Europe/Berlin.');
    await site.fill(/Time zone/, 'Europe/Berlin');
    await site.fill(/Ahead of ours by/, '-9');
    await site.press(/Set, and read again/);
    expect(site.asked('setEvidenceReading')).toEqual([{ zone: 'Europe/Berlin', aheadSeconds: -9, ruleId: null }]);
    expect(site.told).toContain('It is set; the file is read again.');
  });

  it('whose clocks differ by what two of them tell are set right', async () => {
    const proposal = {
      evidenceId: 'e1',
      clock: { zone: 'UTC', aheadSeconds: -9 },
      aheadMs: -9000,
      against: 'wire.pcap',
      matches: 3,
    };
    const answers = { casebook: book({ clocks: [proposal] }), readingRules: [], setEvidenceReading: {} };
    const site = await Site.open('/casebook/evidence', answers);
    expect(site.text).toContain('9 s behind wire.pcap, as 3 attempts show.');
    await site.press(/Set it right/);
    expect(site.asked('setEvidenceReading')).toEqual([proposal.clock]);
    const viewer = await Site.open('/casebook/evidence', answers, 'viewer');
    expect(viewer.text).not.toContain('Set it right');
  });

  it('are thrown away once that was asked for twice', async () => {
    const site = await Site.open('/casebook/evidence', { casebook: book(), removeEvidence: {} });
    await site.press(/Remove …/);
    expect(site.text).toContain('The file is thrown away with all attempts that it tells of');
    await site.press(/^Remove$/);
    expect(site.told).toContain('night.pcap was removed.');
  });

  it('can’t be brought or removed by who only looks', async () => {
    const site = await Site.open('/casebook/evidence', { casebook: book() }, 'viewer');
    expect(site.all('hinge-file-button')).toHaveLength(0);
    expect(site.text).not.toContain('Remove …');
  });
});

describe('a case', () => {
  it('says how far it came, why it ended, what to do, and where each attempt stands', async () => {
    const site = await Site.open('/casebook/cases/a1', { case: whole });
    expect(site.headline).toBe('The user is refused.');
    expect(site.text).toContain('Display to Furnace, as display, 4 times, every 30 s');
    expect(site.text).toContain('What to do');
    const strip = site.all('hinge-step-strip button').map((step) => step.getAttribute('aria-label'));
    expect(strip).toEqual(['Reach: holds', 'Identity: fails']);
    site.all('hinge-step-strip button')[1]?.click();
    await site.settle();
    expect(site.text).toContain('Not let in.');
    expect(site.rows().join(' ')).toMatch(/Bad_UserAccessDenied.*Conversation in night\.pcap.*door\.log byte 99/);
  });

  it('opens the line of a log at its place, and says where it is no text', async () => {
    const site = await Site.open('/casebook/cases/a1', {
      case: whole,
      evidencePlace: { name: 'door.log', lines: [{ position: 99, text: 'OPC-DROP SRC=10.0.0.2' }] },
    });
    await site.press(/door\.log byte 99/);
    expect(site.text).toMatch(/door\.log, from byte 99:\s*OPC-DROP SRC=10\.0\.0\.2/);
    await site.press(/door\.log byte 99/);
    site.answers.evidencePlace = { name: 'door.log', lines: null };
    await site.press(/door\.log byte 99/);
    expect(site.text).toContain('door.log is no text');
    expect(site.one('a[href="/casebook/evidence/e1/conversations/24"]').textContent).toContain('night.pcap');
  });

  it('leads to its link, where something can be done', async () => {
    const site = await Site.open('/casebook/cases/a1', { case: whole });
    await site.press(/Do this …/);
    expect(site.url).toBe('/links/display--furnace');
  });

  it('says what changed before it, and where that stands', async () => {
    const site = await Site.open('/casebook/cases/a1', { case: whole });
    expect(site.text).toMatch(/7 minutes before:\s*FURNACE: The account was locked\.\s*security\.evtx, byte 512/);
    expect(site.text).toMatch(/at the same time:\s*A work order was carried out by ada\.\s*To the order/);
    const none = await Site.open('/casebook/cases/a1', { case: { ...whole, before: [] } });
    expect(none.text).toContain('Nothing that is known here changed in the day before');
  });

  it('takes notes, is given to somebody, and is closed with a reason', async () => {
    const site = await Site.open('/casebook/cases/a1', { case: whole, actOnCase: {} });
    expect(site.text).toContain('open and with nobody.');
    await site.press(/Write a note/);
    await site.press(/Write it down/);
    expect(site.faults).toContain('Write a sentence.');
    await site.fill(/^Note/, 'The cable was loose.');
    await site.press(/Write it down/);
    await site.press(/^Close$/);
    await site.fill(/Why it is over/, 'The cable sits now.');
    await site.press(/Close it/);
    expect(site.asked('actOnCase')).toEqual([
      { kind: 'note', text: 'The cable was loose.', to: null },
      { kind: 'close', text: 'The cable sits now.', to: null },
    ]);
    expect(site.told).toContain('The case is closed.');
    const viewer = await Site.open('/casebook/cases/a1', { case: whole }, 'viewer');
    expect(viewer.text).not.toContain('Write a note');
  });

  it('that is over says by what, and can be opened again', async () => {
    const acts: CaseView['acts'] = [{ kind: 'assign', at: later, by: 'engineer', text: '', to: 'ada' }];
    const proved = { ...whole, acts, checks: 3, status: { state: 'proved' as const, at: later, by: null, why: null } };
    const site = await Site.open('/casebook/cases/a1', { case: proved });
    expect(site.text).toMatch(/proved over\s*: a check saw the link work/);
    expect(site.text).toContain('engineer gave it to ada.');
    expect(site.text).toContain('3 checks of our own saw it.');
    expect(site.text).toContain('Open again');
    const closed = { ...whole, status: { state: 'closed' as const, at: later, by: 'ada', why: 'It was a test.' } };
    expect((await Site.open('/casebook/cases/a1', { case: closed })).text).toMatch(/closed by ada.*It was a test\./);
  });

  it('shows steps behind the server only where one of them matters, as the link’s page does', async () => {
    const behind = (verdict: 'not-needed' | 'fails') => {
      const assessment = whole.assessment;
      if (!assessment) throw new Error('no assessment');
      const more = (['device-reach', 'device-answers'] as const).map((step, index) => ({
        step,
        verdict: index === 0 ? verdict : ('not-needed' as const),
        summary: '',
        source: 'reported' as const,
        evidence: [],
        findings: [],
      }));
      return { ...whole, assessment: { ...assessment, steps: [...assessment.steps, ...more] } };
    };
    const shown = async (verdict: 'not-needed' | 'fails') =>
      (await Site.open('/casebook/cases/a1', { case: behind(verdict) })).all('hinge-step-strip button').length;
    expect(await shown('not-needed')).toBe(2);
    expect(await shown('fails')).toBe(4);
  });

  it('of nobody’s link has no steps', async () => {
    const alone = { ...whole, ...scan, findings: [], assessment: null };
    const site = await Site.open('/casebook/cases/b2', { case: alone });
    expect(site.text).toContain('10.0.0.66 tried 40 ports of Furnace');
    expect(site.all('hinge-step-strip')).toHaveLength(0);
  });

  it('that is not there says so', async () => {
    const site = await Site.open('/casebook/cases/none', {
      case: refused('There is no case “none”.', 404, 'not-found'),
    });
    expect(site.one('[role=alert]').textContent).toContain('There is no case “none”.');
  });
});

describe('reading rules', () => {
  const rule: ReadingRuleRow = {
    id: 'r1',
    name: 'Door',
    pattern: '{time} login of {who} failed',
    machine: 'furnace',
    means: 'failed',
    changedBy: 'ada',
    changedAt: at,
  };
  const answers = {
    casebook: book({ evidence: [file({ form: 'log', name: 'door.txt' })] }),
    readingRules: [rule],
    addReadingRule: rule,
    tryReadingRule: {
      fault: null,
      lines: [
        { text: 'x login of trend failed', parts: { who: 'trend' } },
        { text: 'else', parts: null },
      ],
    },
    removeReadingRule: {},
  };

  it('are tried while they are written', async () => {
    const site = await Site.open('/casebook/evidence', answers);
    await site.press(/Add a rule …/);
    await site.fill(/^Pattern/, '{time} login of {who} failed');
    await site.fill(/^Some lines/, 'x login of trend failed');
    await new Promise((resolve) => setTimeout(resolve, 400));
    await site.settle();
    expect(site.asked('tryReadingRule').at(-1)).toMatchObject({ zone: 'UTC', pattern: '{time} login of {who} failed' });
    expect(site.text).toContain('1 of 2 lines fit.');
    expect(site.text).toContain('does not fit: else');
    await site.press(/^Save$/);
    expect(site.asked('addReadingRule')).toEqual([]);
    expect(site.text).toContain('A rule needs a name.');
    await site.fill(/^Name/, 'Door');
    await site.press(/^Save$/);
    expect(site.asked('addReadingRule')).toHaveLength(1);
    expect(site.told).toContain('Door is kept.');
  });

  it('are removed once that was asked for twice, and changed by engineers alone', async () => {
    const site = await Site.open('/casebook/evidence', { ...answers, casebook: book({ evidence: [] }) });
    expect(site.text).toContain('{time} login of {who} failed');
    await site.press(/Remove …/);
    await site.press(/^Remove$/);
    expect(site.told).toContain('Door was removed.');
    const viewer = await Site.open('/casebook/evidence', answers, 'viewer');
    expect(viewer.text).not.toContain('Add a rule …');
  });
});

describe('a conversation', () => {
  const message = (index: number, differs: Partial<ConversationMessage> = {}): ConversationMessage => ({
    index,
    at: Date.parse(at) + index * 4,
    from: 'client',
    layer: 'message',
    what: 'Hello',
    isAnswer: false,
    outcome: null,
    says: '',
    details: [{ name: 'Endpoint URL', value: 'opc.tcp://furnace:4840' }],
    size: 71,
    withheld: null,
    ...differs,
  });
  const story = (differs: Partial<ConversationView> = {}): ConversationView => ({
    evidenceId: 'e1',
    file: 'night.pcap',
    position: 24,
    client: { address: '10.0.0.2', port: 50_100, name: 'Display' },
    server: { address: '10.0.0.1', port: 4840, name: null },
    protocol: 'opc.tcp',
    user: 'display',
    linkId: 'display--furnace',
    linkName: 'Display to Furnace',
    hasFailed: true,
    says: 'Bad_UserAccessDenied: ActivateSession failed.',
    start: at,
    end: later,
    notes: ['The server closed it first.'],
    messages: [
      message(0, { layer: 'connection', what: 'Connection', says: 'asks for a connection', details: [], size: 0 }),
      message(1),
      message(2, { what: 'ActivateSession', withheld: 'It may hold a password.', details: [] }),
      message(3, { from: 'server', what: 'ActivateSession', isAnswer: true, outcome: 'badly', says: 'Not let in.' }),
    ],
    leftOut: 0,
    ...differs,
  });
  const open = (query = ''): Promise<Site> =>
    Site.open(`/casebook/evidence/e1/conversations/24${query}`, {
      conversation: story(),
      messageBytes: { index: 1, content: btoa('HELF opc.tcp://furnace:4840') },
    });
  const titles = (site: Site) => site.all('.story .what').map(({ textContent }) => textContent);

  it('tells what two machines said to each other, in order', async () => {
    const site = await open();
    expect(site.headline).toBe('Display to 10.0.0.1, port 4840: Bad_UserAccessDenied: ActivateSession failed.');
    expect(titles(site)).toEqual(['asks for a connection', 'Hello', 'ActivateSession', 'ActivateSession is refused']);
    expect(site.text).toContain('The server closed it first.');
    expect(site.all('hinge-conversation-strip g')).toHaveLength(4);
    expect(site.all('hinge-conversation-strip g.badly')).toHaveLength(1);
  });

  it('shows what a message says when it is opened, and its bytes when they are asked for', async () => {
    const site = await open();
    await site.press(/Display Hello/);
    expect(site.text).toContain('opc.tcp://furnace:4840');
    expect(site.text).not.toContain('48 45 4c 46');
    await site.press(/Show the bytes/);
    expect(site.text).toContain('48 45 4c 46');
    expect(site.text).toContain('HELF opc.tcp://f');
  });

  it('says why bytes are not shown', async () => {
    const site = await open();
    await site.press(/Display ActivateSession/);
    expect(site.text).toContain('It may hold a password.');
    expect(site.text).not.toContain('Show the bytes');
  });

  it('shows what is asked for, by choice and by words', async () => {
    expect(titles(await open('?only=message'))).toHaveLength(3);
    expect(titles(await open('?only=badly'))).toEqual(['ActivateSession is refused']);
    expect(titles(await open('?find=furnace:4840'))).toEqual(['Hello', 'ActivateSession is refused']);
    expect((await open('?find=nothing')).text).toContain('There is no such message.');
  });
});
