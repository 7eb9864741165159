import { firstStepIds, linkKinds } from '@loyal-hinge/core';
import type { LinkDetail } from '@loyal-hinge/contract';
import { boardOf, check, detail, row, firstStepsAnswer } from '../../testing/plant-answers';
import { Site } from '../../testing/site';
import { summary } from '../../testing/trust-answers';

const links = [
  row('display--furnace', 'Display to Furnace'),
  row('history--lehr', 'History to Lehr', {
    state: 'Parted',
    headline: 'The port refuses.',
    partedAt: 'reach',
    server: 'Lehr server',
    verdicts: linkKinds.ua.steps.map(({ id: step }) =>
      step === 'name' ? 'holds' : step === 'reach' ? 'fails' : 'unknown',
    ),
  }),
];
/** As the server filters. */
const fittingOf = ({ state, find }: Readonly<Record<string, string>>) => {
  const fits = links.filter((link) => (!state || link.state === state) && (!find || link.name.includes(find)));
  return boardOf(links, { rows: [...fits], fitting: fits.length });
};
const names = (site: Site): (string | undefined)[] =>
  site.all('tr[data-link] th').map(({ textContent }) => textContent?.trim());

describe('the step board', () => {
  it('shows what the server sends, in its order, and narrows by words and state in the address', async () => {
    const site = await Site.open('/links', { links: fittingOf });
    expect(site.headline).toMatch(/^1 of 2 links is parted/);
    expect(names(site)).toEqual(['Display to Furnace', 'History to Lehr']);
    await site.fill(/State/, 'Sound');
    expect(site.url).toBe('/links?state=Sound');
    expect(names(site)).toEqual(['Display to Furnace']);
    await site.fill(/Words/, 'nothing like it');
    expect(site.text).toContain('No link fits these words.');
    await site.press(/Show all/);
    expect(site.url).toBe('/links');
  });

  it('shows the words of other machines as words', async () => {
    const evil = '<img src=x onerror="alert(1)"><b>bold</b>';
    const said = row('display--furnace', evil, { state: 'Parted', headline: `=1+1 ${evil}`, server: '＝SUM(1)\r\nx' });
    const site = await Site.open('/links?open=display--furnace', { links: boardOf([said]) });
    expect(site.text).toContain(evil);
    expect(site.all('main img, main b, tbody img, tbody b')).toEqual([]);
  });

  it('has the browser fetch what is shown as a file', async () => {
    const fetched: string[] = [];
    const follow = jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (
      this: HTMLAnchorElement,
    ) {
      fetched.push(this.getAttribute('href') ?? '');
    });
    const site = await Site.open('/links?state=Parted&find=lehr&by=name', { links: fittingOf });
    await site.press(/Save as CSV/);
    follow.mockRestore();
    expect(fetched).toEqual(['/api/links-csv?find=lehr&state=Parted&by=name']);
  });

  it('asks for checks of what is shown, and of nothing else', async () => {
    const site = await Site.open('/links?state=Parted', {
      links: fittingOf,
      checkAll: { asked: 1, checks: [check()] },
    });
    await site.press(/Check these 1/);
    expect(site.asked('checkAll')).toEqual([{ fitting: { state: 'Parted' } }]);
  });

  it('opens a row in place, and tells why it is parted', async () => {
    const site = await Site.open('/links', { links: fittingOf });
    site.one('tr[data-link="history--lehr"]').click();
    await site.settle();
    expect(site.url).toBe('/links?open=history--lehr');
    expect(site.text).toContain('The port refuses.');
  });

  it('is walked by keyboard, with the focus on its rows', async () => {
    const site = await Site.open('/links', { links: fittingOf });
    const focused = (): string | null | undefined => document.activeElement?.getAttribute('data-link');
    const press = async (key: string): Promise<void> => {
      document.activeElement?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
      await site.settle();
    };
    expect(site.all('tr[tabindex="0"]').map((line) => line.getAttribute('data-link'))).toEqual(['display--furnace']);
    site.one('tr[tabindex="0"]').focus();
    await press('ArrowDown');
    expect([focused(), site.all('tr[tabindex="0"]').length]).toEqual(['history--lehr', 1]);
    await press('Home');
    expect(focused()).toBe('display--furnace');
    await press('End');
    await press(' ');
    expect([focused(), site.url]).toEqual(['history--lehr', '/links?open=history--lehr']);
    await press('ArrowUp');
    expect(focused()).toBe('display--furnace');
    await press('Enter');
    expect(site.url).toBe('/links/display--furnace');
  });

  it('counts what is under way, and cancels it', async () => {
    const running = row('display--furnace', 'Display to Furnace', { checkId: 'c7' });
    const site = await Site.open('/links', { links: boardOf([running]), cancelAll: { cancelled: 1 } });
    expect(site.text).toContain('1 check under way');
    await site.press(/Cancel them/);
    expect(site.asked('cancelAll')).toEqual([{}]);
  });

  it('says by whom the machine is used that a check waits for', async () => {
    const waitsFor = 'the bench of viewer on Display to Furnace';
    const waiting = row('display--furnace', 'Display to Furnace', { checkId: 'c7', waitsFor });
    const site = await Site.open('/links?open=display--furnace', { links: boardOf([waiting]) });
    expect(site.text).toContain(`The machine is in use by ${waitsFor}. The check begins when it is free.`);
  });

  it('lets a viewer look, and check nothing', async () => {
    const site = await Site.open('/links', { links: fittingOf }, 'viewer');
    expect(site.button(/^Check all$/).disabled).toBe(true);
  });

  it('leads an empty plant from step to step, with the one that comes next as a way to it', async () => {
    const site = await Site.open('/links', { links: boardOf([]), firstSteps: firstStepsAnswer() });
    expect(site.all('hinge-first-steps li')).toHaveLength(8);
    expect(site.all('hinge-filter-line')).toHaveLength(0);
    expect(site.all('hinge-first-steps a').map((way) => way.getAttribute('href'))).toEqual(['/settings']);

    const later = await Site.open('/links', {
      links: boardOf([]),
      firstSteps: firstStepsAnswer('ranges', 'zone', 'machine', 'server', 'client', 'certificate'),
    });
    expect(later.one('[aria-current=step]').textContent).toContain('Add a link');
    expect(later.all('hinge-first-steps a').map((way) => way.getAttribute('href'))).toEqual([
      '/plant?part=links&adding=yes',
    ]);
  });

  it('says no more of first steps once the plant is under way', async () => {
    const site = await Site.open('/links', { links: boardOf([]), firstSteps: firstStepsAnswer(...firstStepIds) });
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
              title: 'It is among the rejected',
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
                  undo: 'Remove it again.',
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
      mend: { says: 'It is in the trusted list now.', checkId: 'c2', orderId: null },
      certificate: { certificate: summary('Line display'), unusual: [], firstSeen: '2026-03-01T10:00:00.000Z' },
    });
    await site.press(/Do this …/);
    expect(site.asked('mend')).toEqual([]);
    await site.press(/Carry out/);
    expect(site.asked('mend')).toMatchObject([{ change: { kind: 'accept-client-certificate', serverId: 'furnace' } }]);
    expect(site.told).toContain('It is in the trusted list now. The check runs again to prove it.');
  });

  it('asks for a check now', async () => {
    const site = await Site.open('/links/display--furnace', {
      link: detail(),
      checkLink: check(),
      checkAll: { asked: 1, checks: [check()] },
    });
    await site.press(/Check now/);
    expect(site.asked('checkLink').length + site.asked('checkAll').length).toBe(1);
  });

  it('offers the bench only where the link works', async () => {
    const sound = await Site.open('/links/display--furnace', { link: detail() });
    expect(sound.text).toContain('Open in the bench');
    const broken = await Site.open('/links/display--furnace', { link: parted() });
    expect(broken.text).not.toContain('Open in the bench');
  });

  it('that is not there says so, and leads back', async () => {
    const site = await Site.open('/links/no-such', {});
    expect(site.one('[role=alert]').textContent).toContain('Nothing is known of link.');
    expect(site.one('a', /Back to the links/).getAttribute('href')).toBe('/links');
  });
});
