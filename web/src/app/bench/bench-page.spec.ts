import { boardOf, row } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';

const bench = {
  benchId: 'b1',
  linkId: 'display--furnace',
  linkName: 'Display to Furnace',
  security: 'Basic256Sha256, SignAndEncrypt',
  user: 'display',
};
const node = (nodeId: string, displayName: string, nodeClass: 'Object' | 'Variable') => ({
  nodeId,
  browseName: displayName,
  displayName,
  nodeClass,
});
const reading = {
  nodeId: 'ns=1;s=Crown',
  code: 'Good',
  status: 'Good: the value can be used.',
  value: '1480.5',
  number: 1480.5,
  dataType: 'Double',
  sourceTimestamp: '2026-03-01T10:00:00.000Z',
  serverTimestamp: '2026-03-01T10:00:01.000Z',
  unit: '°C',
  accessLevel: ['CurrentRead'],
  userAccessLevel: ['CurrentRead'],
};

describe('the bench', () => {
  it('offers the links that work, and no other', async () => {
    const links = [row('a', 'Sound one'), row('b', 'Strained one', { state: 'Strained' })];
    const asked: unknown[] = [];
    const site = await Site.open('/bench', {
      links: (params) => {
        asked.push(params['usable']);
        return boardOf(links, { fitting: 60 });
      },
    });
    expect(asked).toEqual(['yes']);
    expect(site.text).toContain('58 more match');
    expect(site.all('.choice a').map(({ textContent }) => textContent?.trim())).toEqual(['Sound one', 'Strained one']);
  });

  it('browses in columns, and reads what is chosen with its unit and times', async () => {
    const site = await Site.open('/bench/display--furnace', {
      links: boardOf([]),
      openBench: bench,
      browseBench: { nodes: [node('ns=1;s=Crown', 'Crown temperature', 'Variable')] },
      readBench: reading,
      closeBench: { done: true },
    });
    expect(site.text).toContain('Basic256Sha256, SignAndEncrypt, signed in as display');
    await site.press(/Crown temperature/);
    expect(site.one('.value').textContent?.trim()).toBe('1480.5 °C');
    expect(site.text).toContain('Good: the value can be used.');
  });

  it('that can’t be opened says why', async () => {
    const site = await Site.open('/bench/display--furnace', {
      links: boardOf([]),
      openBench: refused('The link stops at its client certificate.'),
    });
    expect(site.one('[role=alert]').textContent).toContain('The link stops at its client certificate.');
  });
});
