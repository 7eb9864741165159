import { stepIds } from '@loyal-hinge/core';
import type { LinkDetail } from '@loyal-hinge/contract';
import { check, detail, row, firstStepsAnswer } from '../../testing/plant-answers';
import { Site } from '../../testing/site';
import { summary } from '../../testing/trust-answers';

const links = [
  row('display--furnace', 'Display to Furnace'),
  row('history--lehr', 'History to Lehr', {
    state: 'Parted',
    headline: 'The port refuses.',
    partedAt: 'reach',
    server: 'Lehr server',
    verdicts: stepIds.map((step) => (step === 'name' ? 'holds' : step === 'reach' ? 'fails' : 'unknown')),
  }),
];
/** jsdom’s blobs can’t be read as a browser’s can. */
const textOf = (blob: Blob | undefined): Promise<string> =>
  new Promise((resolve) => {
    const reader = new FileReader();
    reader.onload = () => resolve(String(reader.result));
    reader.readAsText(blob ?? new Blob());
  });
const names = (site: Site): (string | undefined)[] =>
  site.all('tr[data-link] th').map(({ textContent }) => textContent?.trim());

describe('the step board', () => {
  it('sets what fails first, and narrows by words and state in the address', async () => {
    const site = await Site.open('/links', { links: { links } });
    expect(site.headline).toMatch(/^1 of 2 links is parted/);
    expect(names(site)).toEqual(['History to Lehr', 'Display to Furnace']);
    await site.fill(/State/, 'Sound');
    expect(site.url).toBe('/links?state=Sound');
    expect(names(site)).toEqual(['Display to Furnace']);
    await site.fill(/Words/, 'nothing like it');
    expect(site.text).toContain('No link fits these words.');
    await site.press(/Show all/);
    expect(site.url).toBe('/links');
  });

  it('shows the words of other machines as words, and saves none of them as a formula', async () => {
    const evil = '<img src=x onerror="alert(1)"><b>bold</b>';
    const said = row('display--furnace', evil, { state: 'Parted', headline: `=1+1 ${evil}`, server: '＝SUM(1)\r\nx' });
    const saved: Blob[] = [];
    Object.assign(URL, {
      createObjectURL: (blob: Blob) => `blob:${saved.push(blob)}`,
      revokeObjectURL: () => undefined,
    });
    const site = await Site.open('/links?open=display--furnace', { links: { links: [said] } });
    expect(site.text).toContain(evil);
    expect(site.all('main img, main b, tbody img, tbody b')).toEqual([]);
    await site.press(/Save as CSV/);
    const csv = await textOf(saved[0]);
    expect(csv).toContain('"\'＝SUM(1)\r\nx"');
    expect(csv).not.toMatch(/(^|,)"?[=+\-@＝]/m);
  });

  it('asks for checks of what is shown, and of nothing else', async () => {
    const site = await Site.open('/links?state=Parted', { links: { links }, checkAll: { checks: [check()] } });
    await site.press(/Check these 1/);
    expect(site.asked('checkAll')).toEqual([{ linkIds: ['history--lehr'] }]);
  });

  it('opens a row in place, and tells why it is parted', async () => {
    const site = await Site.open('/links', { links: { links } });
    site.one('tr[data-link="history--lehr"]').click();
    await site.settle();
    expect(site.url).toBe('/links?open=history--lehr');
    expect(site.text).toContain('The port refuses.');
  });

  it('counts what is under way, and cancels it', async () => {
    const running = row('display--furnace', 'Display to Furnace', { checkId: 'c7' });
    const site = await Site.open('/links', { links: { links: [running] }, cancelCheck: check({ state: 'cancelled' }) });
    expect(site.text).toContain('1 check under way');
    await site.press(/Cancel them/);
    expect(site.calls.find(({ name }) => name === 'cancelCheck')?.params).toEqual({ checkId: 'c7' });
  });

  it('says by whom the machine is used that a check waits for', async () => {
    const waitsFor = 'the bench of viewer on Display to Furnace';
    const waiting = row('display--furnace', 'Display to Furnace', { checkId: 'c7', waitsFor });
    const site = await Site.open('/links?open=display--furnace', { links: { links: [waiting] } });
    expect(site.text).toContain(`The machine is in use by ${waitsFor}. The check begins when it is free.`);
  });

  it('lets a viewer look, and check nothing', async () => {
    const site = await Site.open('/links', { links: { links } }, 'viewer');
    expect(site.button(/^Check all$/).disabled).toBe(true);
  });

  it('leads an empty plant from step to step, with the one that comes next as a way to it', async () => {
    const site = await Site.open('/links', { links: { links: [] }, firstSteps: firstStepsAnswer() });
    expect(site.all('hinge-first-steps li')).toHaveLength(8);
    expect(site.all('hinge-filter-line')).toHaveLength(0);
    expect(site.all('hinge-first-steps a').map((way) => way.getAttribute('href'))).toEqual(['/settings']);

    const later = await Site.open('/links', {
      links: { links: [] },
      firstSteps: firstStepsAnswer({
        declaredRanges: 1,
        zones: 2,
        machines: 3,
        servers: 1,
        clients: 1,
        clientCertificates: 1,
      }),
    });
    expect(later.one('[aria-current=step]').textContent).toContain('Add a link');
    expect(later.all('hinge-first-steps a').map((way) => way.getAttribute('href'))).toEqual([
      '/plant?part=links&adding=yes',
    ]);
  });

  it('says no more of first steps once the plant is under way', async () => {
    const done = {
      declaredRanges: 1,
      zones: 1,
      machines: 1,
      servers: 1,
      clients: 1,
      clientCertificates: 1,
      links: 1,
      checks: 1,
    };
    const site = await Site.open('/links', { links: { links: [] }, firstSteps: firstStepsAnswer(done) });
    expect(site.all('hinge-first-steps section')).toEqual([]);
  });
});

const parted = (): LinkDetail => {
  const told = detail({
    state: 'Parted',
    headline: 'The server does not trust the client.',
    partedAt: 'client-certificate',
    leadingCause: 'lying-in-rejected',
  });
  const steps = told.assessment.steps.map((step) =>
    step.step === 'client-certificate'
      ? {
          ...step,
          verdict: 'fails' as const,
          findings: [
            {
              causeId: 'lying-in-rejected',
              step: 'client-certificate' as const,
              severity: 'fails' as const,
              grave: false,
              title: 'It lies among the rejected',
              meaning: 'The server has put the certificate of the display aside.',
              clause: 'Part 4 §6.1.3',
              evidence: [
                { factId: 'f1', source: 'tried' as const, at: '2026-03-01T10:00:00.000Z', says: 'It lies there.' },
              ],
              remedies: [
                {
                  title: 'Move it to the trusted list',
                  target: 'Furnace server',
                  before: 'rejected',
                  after: 'trusted',
                  change: {
                    kind: 'accept-client-certificate' as const,
                    linkId: told.link.id,
                    serverId: 'furnace',
                    thumbprint: 'A'.repeat(40),
                  },
                  restart: false,
                  undo: 'Take it out again.',
                },
              ],
              folded: [],
            },
          ],
        }
      : step,
  );
  return { ...told, assessment: { ...told.assessment, steps } };
};

describe('the page of a link', () => {
  it('says the finding in a sentence, with what is wrong and how we know', async () => {
    const site = await Site.open('/links/display--furnace', { link: parted() });
    expect(site.headline).toBe('The server does not trust the client.');
    expect(site.text).toContain('The server has put the certificate of the display aside.');
  });

  it('asks before it mends, says what it will do, and checks again', async () => {
    const site = await Site.open('/links/display--furnace', {
      link: parted(),
      mend: { says: 'It lies in the trusted list now.', checkId: 'c2', orderId: null },
      certificate: { certificate: summary('Line display'), unusual: [], firstSeen: '2026-03-01T10:00:00.000Z' },
    });
    await site.press(/Do this …/);
    expect(site.asked('mend')).toEqual([]);
    await site.press(/Carry it out/);
    expect(site.asked('mend')).toMatchObject([{ change: { kind: 'accept-client-certificate', serverId: 'furnace' } }]);
    expect(site.text).toContain('It lies in the trusted list now. The check runs again to prove it.');
  });

  it('asks for a check now', async () => {
    const site = await Site.open('/links/display--furnace', {
      link: detail(),
      checkLink: check(),
      checkAll: { checks: [check()] },
    });
    await site.press(/Check now/);
    expect(site.asked('checkLink').length + site.asked('checkAll').length).toBe(1);
  });

  it('offers the bench only where the link works', async () => {
    const sound = await Site.open('/links/display--furnace', { link: detail() });
    expect(sound.text).toContain('Take it to the bench');
    const broken = await Site.open('/links/display--furnace', { link: parted() });
    expect(broken.text).not.toContain('Take it to the bench');
  });

  it('that is not there says so, and leads back', async () => {
    const site = await Site.open('/links/no-such', {});
    expect(site.one('[role=alert]').textContent).toContain('Nothing is known of link.');
    expect(site.one('a', /Back to the links/).getAttribute('href')).toBe('/links');
  });
});
