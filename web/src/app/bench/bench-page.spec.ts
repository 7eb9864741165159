import { boardOf, row } from '../../testing/plant-answers';
import { Site, refused } from '../../testing/site';

const bench = {
  benchId: 'b1',
  linkId: 'display--furnace',
  linkName: 'Display to Furnace',
  kind: 'ua' as const,
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
  shape: { kind: 'plain' as const },
  unit: '°C',
  may: ['CurrentRead'],
  mayWrite: false,
  mayLookBack: false,
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
    site.answers.openBench = bench;
    site.answers.browseBench = { nodes: [] };
    await site.press(/^Open it again$/);
    expect(site.text).toContain('signed in as display');
  });

  it('shows a classic session by what Data Access has: quality, one time, item ids and properties', async () => {
    const classic = { ...reading, nodeId: 'Lehr.Belt.Speed', status: 'Bad: sensor failure', serverTimestamp: null };
    const site = await Site.open('/bench/trend--lehr', {
      links: boardOf([]),
      openBench: { ...bench, kind: 'classic' as const, security: 'DCOM at level integrity' },
      browseBench: ({ parent }) => ({
        nodes:
          parent === undefined
            ? [node('branch ["Belt"]', 'Belt', 'Object')]
            : [node('Lehr.Belt.Speed', 'Speed', 'Variable')],
      }),
      readBench: { ...classic, dataType: 'VT_R4', may: ['read'] },
      describeBench: {
        nodeId: 'Lehr.Belt.Speed',
        attributes: [{ name: '100: EU units', value: 'm/min' }],
        references: [],
        referenceCount: 0,
      },
      closeBench: { done: true },
    });
    await site.press(/^Belt/);
    expect(site.text).toContain('A branch: its items are in the next column.');
    expect(site.text).not.toContain('Alarms and events');
    await site.press(/^Speed/);
    for (const words of ['Quality', 'Bad: sensor failure', 'VT_R4', 'Item id']) expect(site.text).toContain(words);
    for (const words of ['Server time', 'History …', 'Attributes']) expect(site.text).not.toContain(words);
    await site.press(/^Properties$/);
    expect(site.text).toContain('Properties of Speed');
    expect(site.text).toContain('m/min');
  });

  const writable = { ...reading, may: ['CurrentRead', 'CurrentWrite'], mayWrite: true };
  const typed = {
    nodeId: 'ns=1;s=Crown',
    value: '1480.5',
    dataType: 'Double',
    canBeTyped: true,
    isArray: false,
    range: { low: 1000, high: 1700 },
    names: [],
    mayWrite: true,
    undo: null,
  };
  const written = { before: '1480.5', after: '1490', stays: true, says: 'It is 1490 now; it was 1480.5.' };
  const onCrown = async (answers: Parameters<typeof Site.open>[1] = {}): Promise<Site> => {
    const site = await Site.open('/bench/display--furnace', {
      links: boardOf([]),
      openBench: bench,
      browseBench: ({ parent }) => ({
        nodes: parent ? [] : [node('ns=1;s=Crown', 'Crown temperature', 'Variable')],
      }),
      readBench: writable,
      typedBench: typed,
      closeBench: { done: true },
      ...answers,
    });
    await site.press(/Crown temperature/);
    return site;
  };

  it('writes only what fits, says what came of it, and undoes it', async () => {
    let undo: string | null = null;
    const site = await onCrown({
      typedBench: () => ({ ...typed, undo }),
      writeBench: () => ((undo = '1480.5'), written),
      undoBench: { ...written, says: 'It is 1480.5 now; it was 1490.' },
    });
    await site.press(/^Write …$/);
    expect(site.text).toContain('It is 1480.5 now. A new value is Double, from 1000 to 1700.');
    await site.fill(/^New value/, 'hot');
    await site.fill(/^Why/, 'Permit 12');
    await site.press(/^Write$/);
    expect(site.faults).toEqual(['Type a number, with a point: such as 12.5.']);
    await site.fill(/^New value/, '2000');
    await site.press(/^Write$/);
    expect(site.faults).toEqual(['The server says that it goes from 1000 to 1700.']);
    expect(site.asked('writeBench')).toEqual([]);
    await site.fill(/^New value/, '1490');
    await site.press(/^Write$/);
    expect(site.asked('writeBench')).toEqual([
      { nodeId: 'ns=1;s=Crown', typed: '1490', seen: '1480.5', why: 'Permit 12' },
    ]);
    expect(site.text).toContain('It is 1490 now; it was 1480.5.');
    await site.press(/^Undo: write 1480.5 again/);
    expect(site.asked('undoBench')).toEqual([{ nodeId: 'ns=1;s=Crown' }]);
    expect(site.text).toContain('It is 1480.5 now; it was 1490.');
  });

  it('offers the names of an enumeration, and says what can’t be typed', async () => {
    const site = await onCrown({
      typedBench: { ...typed, dataType: 'Int32', range: null, names: ['Stopped', 'Running'] },
    });
    await site.press(/^Write …$/);
    expect(await site.offered(/^New value/)).toEqual(['Stopped', 'Running']);
    const other = await onCrown({ typedBench: { ...typed, dataType: 'ExtensionObject', canBeTyped: false } });
    await other.press(/^Write …$/);
    expect(other.text).toContain('Values of the type ExtensionObject can’t be typed here.');
  });

  it('keeps what was typed where somebody else was first', async () => {
    const site = await onCrown({ writeBench: refused('The value is 1500 now, and was 1480.5 when you typed.') });
    await site.press(/^Write …$/);
    await site.fill(/^New value/, '1490');
    await site.fill(/^Why/, 'Permit 12');
    await site.press(/^Write$/);
    expect(site.text).toContain('The value is 1500 now, and was 1480.5 when you typed.');
    expect(site.filled(/^New value/)).toBe('1490');
    expect((await onCrown({ readBench: reading })).button(/^Write …$/).disabled).toBe(true);
  });

  it('finds variables by a pattern, shows what it matches, and watches them by their paths', async () => {
    const found = { ...node('ns=1;s=A', 'Temperature', 'Variable'), path: 'Lehr/Zone A/Temperature' };
    const site = await onCrown({ matchBench: { nodes: [found], seen: 40, isWhole: false } });
    expect(site.text).toContain('Choose another link');
    await site.fill(/^Find variables/, 'Lehr/[9-1]');
    await site.press(/^Find$/);
    expect(site.faults[0]).toMatch(/range that is none/);
    await site.fill(/^Find variables/, 'Lehr/Zone */Temperature');
    await site.press(/^Find$/);
    expect(site.text).toContain('1 variable matches. There may be more: 40 nodes were looked at.');
    await site.press(/^Watch it$/);
    expect(site.rows('hinge-watch-list tbody tr')[0]?.[0]).toContain('Lehr/Zone A/Temperature');
    // From now on this session stays open beside others.
    expect(site.text).toContain('Open another session');
  });

  it('shows attributes and references on asking', async () => {
    const site = await onCrown({
      describeBench: {
        nodeId: 'ns=1;s=Crown',
        attributes: [{ name: 'ValueRank', value: 'scalar' }],
        references: [
          { type: 'Organizes', isForward: false, nodeId: 'ns=1;s=Furnace', name: 'Furnace', nodeClass: 'Object' },
        ],
        referenceCount: 3,
      },
    });
    await site.press(/^Attributes and references$/);
    expect(site.text).toMatch(/ValueRank ?scalar/);
    expect(site.rows('hinge-node-details tbody tr')).toEqual([
      ['inverse of Organizes', 'Furnace', 'Object', 'ns=1;s=Furnace'],
    ]);
    expect(site.text).toContain('2 more references are not shown.');
  });

  it('shows a value by its type: a switch, a name, a list, a structure', async () => {
    const shown = async (shape: object, value = '1') =>
      (await onCrown({ readBench: { ...reading, value, shape } as never })).text;
    expect(await shown({ kind: 'named', name: 'Running' })).toContain('Running (1)');
    expect(await shown({ kind: 'list', count: 900, elements: ['4.5', '5.5'] })).toMatch(
      /900 elements, the first 2 ?4\.5 ?5\.5/,
    );
    expect(await shown({ kind: 'structure', fields: [{ name: 'low', value: '1' }] })).toMatch(/low ?1/);
    const site = await onCrown({ readBench: { ...reading, value: 'true', shape: { kind: 'switch', isOn: true } } });
    expect(site.text).toContain('true');
    expect(site.all('hinge-node-reading [role=switch]')[0]?.getAttribute('aria-checked')).toBe('true');
  });

  it('shows what the server has recorded of a variable, of the span that is asked for', async () => {
    const asked: unknown[] = [];
    const values = [1, 2, 3].map((number) => ({
      at: `2026-03-01T10:0${number}:00.000Z`,
      value: String(number),
      number,
      code: number === 2 ? 'UncertainLastUsableValue' : 'Good',
    }));
    const told = {
      nodeId: 'ns=1;s=Crown',
      code: 'Good',
      status: 'Good',
      from: '2026-03-01T10:00:00.000Z',
      to: '2026-03-01T11:00:00.000Z',
      values,
      hasMore: true,
    };
    const site = await onCrown({
      readBench: { ...reading, may: ['CurrentRead', 'HistoryRead'], mayLookBack: true },
      historyBench: ({ minutes }) => {
        asked.push(minutes);
        return told;
      },
    });
    await site.press(/^History …$/);
    expect(site.text).toContain('3 values. 1 of them is not good. There are more in this span');
    expect(site.rows('hinge-node-past tbody tr').map((cells) => cells[1])).toEqual(['3', '2', '1']);
    await site.fill(/^Of which span/, 'day');
    expect(asked).toEqual(['60', '1440']);
    const none = await onCrown();
    expect(none.button(/^History …$/).disabled).toBe(true);
  });

  it('listens to the events of an object until that is ended', async () => {
    const site = await Site.open('/bench/display--furnace', {
      links: boardOf([]),
      openBench: bench,
      browseBench: ({ parent }) => ({ nodes: parent ? [] : [node('ns=1;s=Furnace', 'Furnace', 'Object')] }),
      closeBench: { done: true },
    });
    await site.press(/^Furnace/);
    await site.press(/^Alarms and events$/);
    expect(site.text).toContain('Beginning to listen …');
    expect(site.text).toContain('No event has come yet.');
    await site.press(/^Stop listening$/);
    expect(site.text).not.toContain('No event has come yet.');
  });

  it('records what is watched, shows how large it becomes, and lets it be stopped and saved', async () => {
    const running = {
      id: 'r1',
      linkName: 'Display to Furnace',
      items: 1,
      shape: 'samples' as const,
      everyMs: 500,
      seconds: 600,
      state: 'running' as const,
      says: null,
      rows: 20,
      bytes: 1500,
      begunAt: '2026-03-01T10:00:00.000Z',
      endedAt: null,
    };
    let recordings: object[] = [];
    const stopped = {
      ...running,
      state: 'failed' as const,
      says: 'The disk is full. What is there is kept.',
      endedAt: '2026-03-01T10:00:10.000Z',
    };
    const site = await onCrown({
      recordings: () => ({ recordings: recordings as (typeof running)[] }),
      beginRecording: () => ((recordings = [stopped]), running),
    });
    expect(site.text).not.toContain('Record …');
    await site.press(/^Watch$/);
    await site.press(/^Record …$/);
    await site.fill(/^Rows$/, 'one row a sample, items in columns');
    await site.fill(/^For$/, '10 minutes');
    await site.press(/^Record$/);
    expect(site.asked('beginRecording')).toEqual([
      {
        items: [{ nodeId: 'ns=1;s=Crown', name: 'Crown temperature' }],
        shape: 'samples',
        everyMs: 500,
        seconds: 600,
      },
    ]);
    const [row] = site.rows('hinge-recordings tbody tr');
    expect(row?.slice(1, 6)).toEqual([
      'Display to Furnace, 1 item',
      'samples, every 500 ms',
      '20',
      '1.5 kB (an hour: 540.0 kB)',
      'failed The disk is full. What is there is kept.',
    ]);
  });
});
