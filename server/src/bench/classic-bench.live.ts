import { randomBytes } from 'node:crypto';
import type { BenchDescribed, BenchMatches, BenchNode, BenchReading, BenchTyped } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { hearBenches } from '../testing/hear-benches.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('classic_bench');
const page = randomBytes(16).toString('hex');
let engineer: Caller;
let url: string;
let benchId = '';
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  engineer = await signIn('engineer', url, ownPassword);
});
afterAll(() => own.remove());

const opened = (linkId: string) => engineer.call('openBench', { linkId }, { page });
async function got<Answer>(what: string, query: Readonly<Record<string, string>> = {}): Promise<Answer> {
  const answer = await fetch(`${url}/api/bench/${benchId}/${what}?${new URLSearchParams(query)}`, engineer);
  return (await answer.json()) as Answer;
}
const browse = async (parent?: string): Promise<readonly BenchNode[]> =>
  (await got<{ nodes: readonly BenchNode[] }>('nodes', parent === undefined ? {} : { parent })).nodes;
const namesOf = (nodes: readonly BenchNode[]) => nodes.map(({ displayName }) => displayName);
const why = 'Permit 12, to try it.';

describe('a classic session on the bench', () => {
  it('is opened as the link’s account, and browsed branch by branch', async () => {
    const told = await opened('trend--lehr-data');
    ({ benchId } = told);
    expect(told).toMatchObject({ kind: 'classic', security: 'DCOM at level integrity', user: 'trend' });
    const top = await browse();
    expect(top).toMatchObject([{ displayName: 'Lehr', nodeClass: 'Object' }]);
    const branches = await browse(top[0]?.nodeId);
    expect(namesOf(branches)).toEqual(expect.arrayContaining(['Zone1', 'Zone8', 'Belt', 'Recipe']));
    const belt = await browse(branches.find(({ displayName }) => displayName === 'Belt')?.nodeId);
    expect(belt.map(({ nodeId, nodeClass }) => [nodeId, nodeClass])).toEqual([
      ['Lehr.Belt.Speed', 'Variable'],
      ['Lehr.Belt.IsRunning', 'Variable'],
      ['Lehr.Belt.Plates', 'Variable'],
    ]);
    // An item has nothing below it, and a branch that is not there is said to be none.
    expect(await browse('Lehr.Belt.Speed')).toEqual([]);
    expect(await got('nodes', { parent: 'branch ["Nowhere"]' })).toMatchObject({ status: 409 });
  });

  it('items are found by a pattern over their branches', async () => {
    const { nodes, isWhole } = await got<BenchMatches>('matches', { pattern: 'Lehr/Zone*/Temperature' });
    expect(nodes).toHaveLength(8);
    expect(nodes.map(({ nodeId }) => nodeId)).toContain('Lehr.Zone3.Temperature');
    expect(isWhole).toBe(true);
  });

  it('an item is read with type, quality in words, unit, time and rights, and told by its properties', async () => {
    const read = (nodeId: string) => got<BenchReading>('value', { nodeId });
    expect(await read('Lehr.Zone1.Temperature')).toMatchObject({
      status: 'Good',
      dataType: 'VT_R8',
      unit: '°C',
      may: ['read'],
      mayWrite: false,
      shape: { kind: 'plain' },
    });
    expect(await read('Lehr.Exhaust.Pressure')).toMatchObject({ status: 'Bad: sensor failure', unit: 'Pa' });
    expect(await read('Lehr.Belt.IsRunning')).toMatchObject({
      shape: { kind: 'switch', isOn: true },
      dataType: 'VT_BOOL',
    });
    const { sourceTimestamp } = await read('Lehr.Burner.Counter');
    expect(Date.now() - Date.parse(sourceTimestamp ?? '')).toBeGreaterThan(25 * 3_600_000);
    expect(await read('Lehr.Nowhere')).toMatchObject({
      status: 409,
      detail: expect.stringContaining('there is no such item'),
    });
    const { attributes } = await got<BenchDescribed>('node', { nodeId: 'Lehr.Zone2.SetPoint' });
    const values = new Map(attributes.map(({ name, value }) => [name, value]));
    expect(values.get('101: Item description')).toBe('Wanted temperature in zone 2');
    expect(values.get('102: High EU')).toBe('650');
    expect(values.get('1: Canonical data type')).toBe('VT_R4');
    expect(values.get('5: Access rights')).toBe('read, write');
  });

  it('a value is written once it fits type and range, read back, and undone exactly', async () => {
    const nodeId = 'Lehr.Zone2.SetPoint';
    const node = await got<BenchTyped>('typed', { nodeId });
    expect(node).toMatchObject({
      value: '470',
      dataType: 'Float',
      range: { low: 20, high: 650 },
      mayWrite: true,
      undo: null,
    });
    const wish = { nodeId, seen: node.value, why };
    expect(await engineer.refused('writeBench', { benchId }, { ...wish, typed: '700' })).toMatchObject({
      status: 400,
      faults: [{ place: 'typed' }],
    });
    expect(await engineer.refused('writeBench', { benchId }, { ...wish, typed: '480', seen: '1' })).toMatchObject({
      status: 409,
    });
    expect(await engineer.call('writeBench', { benchId }, { ...wish, typed: '480.5' })).toMatchObject({
      before: '470',
      after: '480.5',
      stays: true,
    });
    expect(await engineer.call('undoBench', { benchId }, { nodeId })).toMatchObject({ after: '470', stays: true });
    const readOnly = 'Lehr.Zone1.Temperature';
    const seen = (await got<BenchTyped>('typed', { nodeId: readOnly })).value;
    expect(
      await engineer.refused('writeBench', { benchId }, { nodeId: readOnly, seen, typed: '1', why }),
    ).toMatchObject({
      status: 409,
      detail: expect.stringContaining('may not write'),
    });
  });

  it('several items are watched in one group, told by the server at the rate that it keeps', async () => {
    const { heard, stop } = hearBenches(url, engineer, page);
    const nodeIds = ['Lehr.Zone1.Temperature', 'Lehr.Belt.Plates', 'Lehr.Exhaust.Pressure', 'Lehr.Nowhere'];
    await engineer.call('watchBench', { benchId }, { nodeIds, everyMs: 250 });
    const slotOf = (nodeId: string) =>
      heard.flatMap(({ slots }) => slots).find((one) => one.nodeId === nodeId)?.slot ?? -1;
    const changesOf = (nodeId: string) =>
      heard.flatMap(({ changes }) => changes).filter(([slot]) => slot === slotOf(nodeId));
    await until(
      () => Promise.resolve(changesOf('Lehr.Zone1.Temperature').length),
      (count) => count > 3,
    );
    expect(changesOf('Lehr.Exhaust.Pressure')[0]?.[4]).toBe('Bad: sensor failure');
    expect(changesOf('Lehr.Nowhere')[0]?.[4]).toMatch(/there is no such item/);
    const watching = heard.flatMap((one) => one.watching).find(({ slot }) => slot === slotOf('Lehr.Belt.Plates'));
    expect(watching).toMatchObject({ isTold: true });
    expect(watching?.revisedSamplingIntervalMs).toBeGreaterThanOrEqual(250);
    // What is let go is told no more; what is added is told at once.
    await engineer.call('watchBench', { benchId }, { nodeIds: ['Lehr.Belt.Speed'], everyMs: 250 });
    await until(
      () => Promise.resolve(changesOf('Lehr.Belt.Speed').length),
      (count) => count > 0,
    );
    await stop();
  });

  it('has no past values and no events, and says so', async () => {
    expect(await got('history', { nodeId: 'Lehr.Belt.Speed', minutes: '5' })).toMatchObject({
      status: 409,
      detail: expect.stringContaining('keeps no past values'),
    });
    await engineer.call('closeBench', { benchId });
  });

  it('asks a server that can’t call back, and says so', async () => {
    ({ benchId } = await opened('trend--silo-data'));
    const top = await browse();
    expect(namesOf(top)).toEqual(['Silos.Level1', 'Silos.Level2', 'Silos.Level3']);
    const { heard, stop } = hearBenches(url, engineer, page);
    await engineer.call('watchBench', { benchId }, { nodeIds: ['Silos.Level1'], everyMs: 250 });
    const changes = () => heard.filter((one) => one.benchId === benchId).flatMap((one) => one.changes);
    await until(
      () => Promise.resolve(changes().length),
      (count) => count > 3,
    );
    expect(heard.flatMap((one) => one.watching).at(-1)).toMatchObject({ isTold: false });
    await stop();
    await engineer.call('closeBench', { benchId });
  });

  it('is not opened where the link is parted, and says why', async () => {
    expect(await engineer.refused('openBench', { linkId: 'trend--furnace-data' }, { page })).toMatchObject({
      status: 409,
    });
  });
});
