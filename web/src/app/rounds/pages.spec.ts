import type { RecipientRow, RoundRow, RoundsView, TimelineRow, TimelineView } from '@loyal-hinge/contract';
import { savedFiles } from '../../testing/saved-files';
import { Site, refused } from '../../testing/site';
import { shareWords } from '@loyal-hinge/core/casebook';

const at = '2026-11-20T02:10:00.000Z';
const hour = 3_600_000;
const from = Date.parse('2026-11-13T00:00:00Z');
const to = Date.parse('2026-11-20T00:00:00Z');

const round = (differs: Partial<RoundRow> = {}): RoundRow => ({
  id: 'hot-end',
  name: 'Hot end',
  scope: { kind: 'zone', zoneId: 'hot' },
  everyMinutes: 60,
  at: '00:00',
  quiet: { days: [1, 2, 3, 4, 5], from: '06:00', to: '14:00' },
  zone: 'UTC',
  perMinute: 60,
  isPaused: false,
  links: 3,
  nextAt: at,
  lastRun: { begunAt: at, endedAt: null, links: 3, pending: 2, askedBy: 'Hot end' },
  ...differs,
});
const view = (differs: Partial<RoundsView> = {}): RoundsView => ({
  rounds: [round()],
  changes: [
    {
      id: 9,
      linkId: 'display--furnace',
      linkName: 'Display to Furnace',
      at: '2026-11-19T02:10:00.000Z',
      from: 'Sound',
      to: 'Parted',
      step: 'reach',
      says: 'Nothing answers at port 4840.',
    },
  ],
  zones: [
    { id: 'hot', name: 'Hot end' },
    { id: 'cold', name: 'Cold end' },
  ],
  links: [{ id: 'display--furnace', name: 'Display to Furnace' }],
  ...differs,
});
const known = {
  soundMs: 90 * hour,
  strainedMs: 9 * hour,
  partedMs: 1 * hour,
  knownMs: 100 * hour,
  usable: 0.99,
  known: 100 / 168,
  falls: 1,
};
const row = (differs: Partial<TimelineRow> = {}): TimelineRow => ({
  linkId: 'display--furnace',
  name: 'Display to Furnace',
  kind: 'ua',
  state: 'Parted',
  availability: known,
  stretches: [
    { state: 'Untried', to: from + 68 * hour },
    { state: 'Sound', to: to - hour },
    { state: 'Parted', to },
  ],
  months: [],
  ...differs,
});
const timeline = (differs: Partial<TimelineView> = {}): TimelineView => ({
  from,
  to,
  links: 1,
  rows: [row()],
  availability: known,
  days: [0, 1, 2].map((day) => ({
    from: from + day * 24 * hour,
    ms: { Sound: 23 * hour, Strained: 0, Parted: hour, Untried: 0 },
  })),
  ...differs,
});

describe('the timeline', () => {
  it('says how much of the time the links could be used, and draws each as a line', async () => {
    const site = await Site.open('/casebook/timeline', { rounds: view(), timeline: timeline() });
    expect(site.headline).toBe('The links could be used 99.0 % of the time in which they were looked at.');
    expect(site.rows()[0]?.join(' ')).toMatch(/Display to Furnace.*99\.0 %.*59\.5 %.*60 minutes.*1/);
    const label = site.all('hinge-ledger hinge-span-line svg')[0]?.getAttribute('aria-label');
    expect(label).toMatch(/not known from .*sound from .*parted from/);
    expect(site.text).toContain('They were looked at 59.5 % of the period');
    expect(site.all('hinge-plant-days .Parted')).toHaveLength(3);
    expect(site.text).toMatch(/sound to parted\s*Nothing answers at port 4840\./);
  });

  it('shows months at a glance over a year, and saves what each came to', async () => {
    const months = [8, 9, 10].map((month) => ({
      from: Date.UTC(2026, month, 1),
      ms: { Sound: 600 * hour, Strained: 60 * hour, Parted: month === 9 ? 60 * hour : 0, Untried: 0 },
    }));
    const unseen = { from: Date.UTC(2026, 7, 20), ms: { Sound: 0, Strained: 0, Parted: 0, Untried: 200 * hour } };
    const site = await Site.open('/casebook/timeline?days=366', {
      rounds: view(),
      timeline: timeline({ rows: [row({ months: [unseen, ...months] })], to: Date.UTC(2026, 11, 1) }),
    });
    expect(site.all('hinge-ledger thead hinge-month-bars text').map(({ textContent }) => textContent)).toEqual([
      'Aug',
      'Sept',
      'Oct',
      'Nov',
    ]);
    const bars = site.one('hinge-ledger tbody hinge-month-bars');
    expect(bars.querySelectorAll('rect.whole')).toHaveLength(4);
    expect(bars.querySelectorAll('rect.Parted')).toHaveLength(1);
    expect(bars.querySelector('svg')?.getAttribute('aria-label')).toContain(
      'October 2026: 83.3 % sound, 8.3 % strained, 8.3 % parted',
    );
    // A line of a year shows nothing any more.
    expect(site.all('hinge-ledger tbody hinge-span-line')).toEqual([]);
    const textOf = savedFiles();
    await site.press(/^Save as CSV$/);
    expect(await textOf(0)).toContain('not known,100 %,91.7 %,100 %');
  });

  it('is of the period and the links that the address says', async () => {
    const asked: unknown[] = [];
    const site = await Site.open('/casebook/timeline?days=90&find=furnace', {
      rounds: view(),
      timeline: (wish: unknown) => {
        asked.push(wish);
        return timeline({ rows: [], links: 0, availability: { ...known, usable: null, known: 0 } });
      },
    });
    expect(asked).toEqual([{ days: '90', find: 'furnace' }]);
    expect(site.headline).toBe('It is not known how the links were: nobody has looked.');
    expect(site.text).toContain('let them come round');
  });

  it('is written as a report for whom it is wanted', async () => {
    const saved: string[] = [];
    jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) {
      saved.push(this.href);
    });
    const site = await Site.open('/casebook/timeline?days=30', { rounds: view(), timeline: timeline() });
    await site.press(/Report …/);
    await site.fill(/^On/, 'the zone Cold end');
    await site.fill(/^For/, 'an auditor: everything');
    await site.press(/Save the report/);
    const { pathname, searchParams } = new URL(saved[0] ?? '');
    expect(pathname).toBe('/api/hand-outs');
    expect(Object.fromEntries(searchParams)).toEqual({
      about: 'zone',
      id: 'cold',
      reader: 'auditor',
      form: 'pdf',
      days: '30',
    });
    jest.restoreAllMocks();
  });

  it('rounds no share up to all of it', () => {
    expect([1, 0.99999, 0.5, 0.0001, 0, null].map(shareWords)).toEqual([
      '100 %',
      '99.99 %',
      '50.0 %',
      'under 0.1 %',
      '0.0 %',
      '',
    ]);
  });
});

describe('rounds', () => {
  it('say what they check, how often, when not, and how the last one goes', async () => {
    const site = await Site.open('/casebook/rounds', { rounds: view() });
    expect(site.headline).toBe('One round checks links by itself.');
    expect(site.rows()[0]?.join(' ')).toMatch(
      /Hot end.*Hot end, 3 links.*every hour.*06:00 to 14:00, Mon, Tue, Wed, Thu, Fri.*2 of 3 links still wait/,
    );
  });

  it('are added with all that they need, and say what is wrong', async () => {
    const site = await Site.open('/casebook/rounds', { rounds: view({ rounds: [] }), addRound: round() });
    expect(site.headline).toBe('No link is checked by itself.');
    await site.press(/Add a round/);
    await site.fill(/One of them begins at/, '25:00');
    await site.press(/^Save$/);
    expect(site.faults).toEqual(
      expect.arrayContaining(['A round needs a name.', 'Write a time of day such as 06:00.']),
    );
    await site.fill(/^Name/, 'Night');
    await site.fill(/One of them begins at/, '06:00');
    await site.fill(/By the clock of/, 'Europe/Berlin');
    await site.press(/^Save$/);
    expect(site.asked('addRound')).toEqual([
      {
        name: 'Night',
        scope: { kind: 'plant' },
        everyMinutes: 60,
        at: '06:00',
        quiet: null,
        zone: 'Europe/Berlin',
        perMinute: 60,
        isPaused: false,
      },
    ]);
    expect(site.told).toContain('Hot end is kept.');
  });

  it('are changed with what they have, quiet hours among it', async () => {
    const site = await Site.open('/casebook/rounds', { rounds: view(), putRound: round() });
    await site.press(/^Change$/);
    await site.fill(/until/, '06:00');
    await site.press(/^Save$/);
    expect(site.asked('putRound')).toEqual([
      expect.objectContaining({
        scope: { kind: 'zone', zoneId: 'hot' },
        quiet: { days: [1, 2, 3, 4, 5], from: '06:00', to: '06:00' },
      }),
    ]);
  });

  it('begin now where somebody wants that, and say why not', async () => {
    const site = await Site.open('/casebook/rounds', {
      rounds: view(),
      runRound: refused('Hot end is under way already.'),
    });
    await site.press(/Begin now/);
    expect(site.one('[role=alert]').textContent).toContain('under way already');
    const viewer = await Site.open('/casebook/rounds', { rounds: view() }, 'viewer');
    expect(viewer.text).not.toContain('Begin now');
  });

  it('are removed once that was asked for twice', async () => {
    const site = await Site.open('/casebook/rounds', { rounds: view(), removeRound: {} });
    await site.press(/Remove …/);
    expect(site.text).toContain('What was seen of them stays.');
    await site.press(/^Remove$/);
    expect(site.told).toContain('Hot end was removed.');
  });
});

const recipient = (differs: Partial<RecipientRow> = {}): RecipientRow => ({
  id: 'watch',
  name: 'Watch',
  way: {
    kind: 'mail',
    host: 'mail.works.example',
    port: 587,
    security: 'starttls',
    from: 'hinge@works.example',
    to: ['watch@works.example'],
    userName: null,
  },
  groupMinutes: 5,
  quiet: null,
  zone: 'UTC',
  isPaused: false,
  hasSecret: false,
  lastToldAt: null,
  fault: null,
  nextTryAt: null,
  ...differs,
});

describe('who is told', () => {
  const answers = { rounds: view(), recipients: { recipients: [recipient()] } };

  it('is shown with the way, and why a message was not taken', async () => {
    const fault = 'connect ECONNREFUSED 10.0.0.25:587';
    const site = await Site.open('/casebook/rounds', {
      rounds: view(),
      recipients: { recipients: [recipient({ fault, nextTryAt: at })] },
    });
    expect(site.text).toMatch(/Watch.*mail to watch@works\.example by mail\.works\.example:587.*5 min/);
    expect(site.text).toContain(`Not sent: ${fault}.`);
    expect(site.text).not.toContain('Tell somebody');
  });

  it('is added with all that the way needs', async () => {
    const site = await Site.open('/casebook/rounds', { ...answers, addRecipient: recipient() }, 'administrator');
    await site.press(/Tell somebody/);
    await site.fill(/^Name/, 'Watch');
    await site.fill(/Mail server/, 'mail.works.example');
    await site.fill(/^From/, 'hinge@works.example');
    await site.press(/^Save$/);
    expect(site.faults).toContain('Write at least one mail address.');
    await site.fill(/^To\b/, 'watch@works.example, ada@works.example');
    await site.press(/^Save$/);
    expect(site.asked('addRecipient')).toMatchObject([
      {
        way: { to: ['watch@works.example', 'ada@works.example'], userName: null, port: 587 },
        secret: null,
        quiet: null,
      },
    ]);
    expect(site.told).toContain('Watch is told from now on.');
  });

  it('is a program, too, whose messages are signed', async () => {
    const hook = recipient({ way: { kind: 'webhook', url: 'https://watch.works.example/hinge' }, hasSecret: true });
    const site = await Site.open(
      '/casebook/rounds',
      { ...answers, recipients: { recipients: [hook] }, putRecipient: hook },
      'administrator',
    );
    await site.press(/Change/);
    await site.press(/^Change$/);
    const change = site.all('hinge-recipient-ledger button').find((one) => /Change/.test(one.textContent ?? ''));
    change?.click();
    await site.settle();
    expect(site.text).toContain('Empty: the one that is kept.');
    await site.fill(/Key of the signature/, 'short');
    await site.all('hinge-recipient-form button[type=submit]')[0]?.click();
    await site.settle();
    expect(site.faults).toContain('The key needs at least 16 letters.');
    await site.fill(/Key of the signature/, 'a key that is long enough');
    await site.all('hinge-recipient-form button[type=submit]')[0]?.click();
    await site.settle();
    expect(site.asked('putRecipient')).toMatchObject([{ way: hook.way, secret: 'a key that is long enough' }]);
  });

  it('is sent a test, and told no more once that was asked for twice', async () => {
    const site = await Site.open(
      '/casebook/rounds',
      { ...answers, tryRecipient: refused('The test could not be sent.'), removeRecipient: {} },
      'administrator',
    );
    await site.press(/Send a test/);
    expect(site.one('[role=alert]').textContent).toContain('The test could not be sent.');
    const remove = site.all('hinge-recipient-ledger button').find((one) => /Remove/.test(one.textContent ?? ''));
    remove?.click();
    await site.settle();
    await site.press(/^Remove$/);
    expect(site.told).toContain('Watch is told no more.');
  });
});
