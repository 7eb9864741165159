import type { AuditPage, BenchDescribed, BenchEvents, BenchHistory, BenchTyped } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { until } from '../testing/until.js';
import { ownPassword, ownServer } from '../testing/own-server.js';

const own = ownServer('bench');
let engineer: Caller;
let benchId = '';
let url: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  engineer = await signIn('engineer', url, ownPassword);
  ({ benchId } = await engineer.call('openBench', { linkId: 'line-display--lehr' }, {}));
});
afterAll(() => own.remove());

async function got<Answer>(what: string, query: Readonly<Record<string, string>>): Promise<Answer> {
  const answer = await fetch(`${url}/api/bench/${benchId}/${what}?${new URLSearchParams(query)}`, engineer);
  return (await answer.json()) as Answer;
}
interface Matches {
  readonly nodes: readonly { readonly nodeId: string; readonly path: string }[];
  readonly isWhole: boolean;
}
const matching = (pattern: string): Promise<Matches> => got('matches', { pattern });
const nodeIdOf = async (path: string): Promise<string> => (await matching(path)).nodes[0]?.nodeId ?? '';
const linesOf = async (id: string): Promise<readonly string[]> =>
  (await (await fetch(`${url}/api/recordings/${id}/values.csv`, engineer)).text()).trimEnd().split('\r\n');
const why = 'Permit 12, to try it.';

describe('on the bench', () => {
  it('variables are found by a pattern, and nothing else is looked at', async () => {
    const { nodes, isWhole } = await matching('Lehr/Zone */Temperature');
    expect(nodes.map(({ path }) => path).sort()).toEqual(
      ['A', 'B', 'C', 'D'].map((zone) => `Lehr/Zone ${zone}/Temperature`),
    );
    expect(isWhole).toBe(true);
    expect((await matching('Nowhere/**')).nodes).toEqual([]);
    expect(await matching('Lehr/[9-1]')).toMatchObject({ status: 400, faults: [{ place: 'pattern' }] });
  });

  it('a node is described by its attributes and references, types by their names', async () => {
    const told = await got<{ attributes: { name: string; value: string }[]; references: { type: string }[] }>('node', {
      nodeId: await nodeIdOf('Lehr/Roller speed wanted'),
    });
    const values = new Map(told.attributes.map(({ name, value }) => [name, value]));
    expect(values.get('DataType')).toBe('Double');
    expect(values.get('UserAccessLevel')).toBe('CurrentRead, CurrentWrite');
    expect(values.get('ValueRank')).toBe('scalar');
    expect(told.references.map(({ type }) => type)).toEqual(expect.arrayContaining(['HasProperty', 'Organizes']));
  });

  it('a value is written once it fits type and range, read back, and undone exactly', async () => {
    const nodeId = await nodeIdOf('Lehr/Roller speed wanted');
    const node = await got<BenchTyped>('typed', { nodeId });
    expect(node).toMatchObject({ dataType: 'Double', canBeTyped: true, isArray: false, mayWrite: true, undo: null });
    expect(node.range?.low).toBeCloseTo(0.11);
    const wish = { nodeId, seen: node.value, why };
    const refused = (typed: string) => engineer.refused('writeBench', { benchId }, { ...wish, typed });
    expect(await refused('fast')).toMatchObject({ status: 400, faults: [{ place: 'typed' }] });
    expect((await refused('12')).faults?.[0]?.says).toMatch(/it goes from/);
    expect(await engineer.refused('writeBench', { benchId }, { ...wish, typed: '0.2', seen: '9' })).toMatchObject({
      status: 409,
      detail: expect.stringContaining('was 9 when you typed'),
    });
    const written = await engineer.call('writeBench', { benchId }, { ...wish, typed: '0.25' });
    expect(written).toEqual({
      before: node.value,
      after: '0.25',
      stays: true,
      says: `It is 0.25 now; it was ${node.value ?? ''}.`,
    });
    expect((await got<BenchTyped>('typed', { nodeId })).undo).toBe(node.value);
    expect(await engineer.call('undoBench', { benchId }, { nodeId })).toMatchObject({ after: node.value, stays: true });
    expect(await engineer.refused('undoBench', { benchId }, { nodeId })).toMatchObject({ status: 409 });
    const noted = async (action: string): Promise<AuditPage['entries']> => {
      const trail = await fetch(`${url}/api/audit?${new URLSearchParams({ action })}`, engineer);
      return ((await trail.json()) as AuditPage).entries;
    };
    const [undone, first] = await noted('written on the bench');
    expect(first).toMatchObject({
      actor: 'engineer',
      details: { nodeId, before: node.value, after: '0.25', code: 'Good', why },
    });
    expect(undone?.details).toMatchObject({ before: '0.25', after: node.value });
    const [, asked] = await noted('write asked for on the bench');
    expect(asked?.details).toEqual({ nodeId, valueNow: node.value, wanted: '0.25', why });
  });

  it('a node that is gone by the time it is read is told as such, and nobody but engineers writes', async () => {
    const gone = await got<{ status: number; detail: string }>('value', { nodeId: 'ns=1;s=Lehr/Zone Z' });
    expect(gone).toMatchObject({ status: 409, detail: expect.stringContaining('Bad_NodeIdUnknown') as string });
    const viewer = await signIn('viewer', url, ownPassword);
    const nodeId = await nodeIdOf('Lehr/Roller speed wanted');
    const wish = { nodeId, typed: '0.2', seen: null, why };
    expect(await viewer.refused('writeBench', { benchId }, wish)).toMatchObject({ status: 403 });
    const approver = await signIn('approver', url, ownPassword);
    expect(await approver.refused('browseBench', { benchId })).toMatchObject({ status: 404 });
  });

  it('nothing is written where the user may not, and the refusal says so', async () => {
    const nodeId = await nodeIdOf('Lehr/Zone B/Temperature');
    const node = await got<BenchTyped>('typed', { nodeId });
    expect(node.mayWrite).toBe(false);
    const wish = { nodeId, typed: '500', seen: node.value, why };
    expect(await engineer.refused('writeBench', { benchId }, wish)).toMatchObject({
      status: 409,
      detail: 'The server says that this session’s user may not write here.',
    });
  });

  it('what the server has recorded of a value is read back, of the span that is asked for', async () => {
    const nodeId = await nodeIdOf('Lehr/Zone A/Temperature');
    const told = await got<BenchHistory>('history', { nodeId, minutes: '10' });
    expect(told).toMatchObject({ nodeId, code: 'Good' });
    expect(told.values.length).toBeGreaterThan(3);
    const times = told.values.map(({ at }) => Date.parse(at ?? ''));
    expect(times).toEqual([...times].sort((left, right) => left - right));
    expect(times[0]).toBeGreaterThanOrEqual(Date.parse(told.from));
    const none = await got<BenchHistory>('history', {
      nodeId: await nodeIdOf('Lehr/Zone B/Temperature'),
      minutes: '10',
    });
    expect(none.code).toMatch(/^Bad/);
    expect(await got('history', { nodeId, minutes: '0' })).toMatchObject({ status: 400 });
  });

  it('alarms of a folder are heard as they come, those that stand already first', async () => {
    const ended = new AbortController();
    const answer = await fetch(`${url}/api/bench/${benchId}/events?${new URLSearchParams({ nodeId: 'ns=1;s=Lehr' })}`, {
      headers: engineer.headers,
      signal: ended.signal,
    });
    let text = '';
    for await (const part of answer.body?.pipeThrough(new TextDecoderStream()) ?? []) {
      text += part;
      if (text.includes('Zone A') || text.includes('Temperature')) break;
    }
    ended.abort();
    const [first] = text.split('\n\n').filter((block) => block.includes('"severity"'));
    const { events } = JSON.parse(first?.replace('data: ', '') ?? '{}') as BenchEvents;
    expect(events[0]).toMatchObject({ severity: expect.any(Number) as number });
    expect(text).toContain('Listening. Alarms that stand now are shown first.');
    const odd = await fetch(`${url}/api/bench/${benchId}/events`, { headers: engineer.headers });
    expect(odd.status).toBe(400);
  });

  it('a server that takes few nodes in a request is asked in several', async () => {
    const other = await engineer.call('openBench', { linkId: 'energy--recipes' }, {});
    const query = new URLSearchParams({ nodeId: 'ns=1;s=Recipes/Limits/Crown temperature' });
    const answer = await fetch(`${url}/api/bench/${other.benchId}/node?${query}`, engineer);
    const { attributes } = (await answer.json()) as BenchDescribed;
    expect(attributes.map(({ name }) => name)).toEqual(expect.arrayContaining(['NodeClass', 'UserRolePermissions']));
    await engineer.call('closeBench', { benchId: other.benchId });
  });

  it('values are recorded into a file, a row a sample or a change, for as long as was asked', async () => {
    const { nodes } = await matching('Lehr/Zone [A-B]/Temperature');
    const items = nodes.map(({ nodeId, path: name }) => ({ nodeId, name }));
    const record = (wish: object) =>
      engineer.call('beginRecording', { benchId }, { items, everyMs: 200, seconds: 2, shape: 'samples', ...wish });
    const [samples, changes] = [await record({}), await record({ shape: 'changes', seconds: 3600 })];
    const over = await until(
      () => engineer.call('recordings'),
      ({ recordings }) => recordings.some(({ id, state }) => id === samples.id && state === 'done'),
    );
    const done = over.recordings.find(({ id }) => id === samples.id);
    expect(done?.rows).toBeGreaterThan(3);
    const [head, ...rows] = await linesOf(samples.id);
    expect(head?.split(',').slice(1).sort()).toEqual(items.map(({ name }) => name).sort());
    expect(rows).toHaveLength(done?.rows ?? 0);
    expect(rows.at(-1)).toMatch(/^\d{4}-[^,]+Z,\d+(\.\d+)?,\d+(\.\d+)?$/);
    const stopped = await engineer.call('stopRecording', { id: changes.id }, {});
    expect(stopped).toMatchObject({ state: 'stopped', says: null });
    expect(stopped.bytes).toBeGreaterThan(100);
    expect((await linesOf(changes.id))[1]).toMatch(/,Lehr\/Zone [AB]\/Temperature,[\d.]+,Good,/);
    expect(
      await engineer.refused('beginRecording', { benchId }, { items: [], everyMs: 1, seconds: 0, shape: 'x' }),
    ).toMatchObject({
      status: 400,
    });
  });

  it('what is recorded ends with its session, and is its owner’s alone', async () => {
    const other = await signIn('approver', url, ownPassword);
    const bench = await other.call('openBench', { linkId: 'energy--furnace' }, {});
    const items = [{ nodeId: 'i=2258', name: 'the server’s clock' }];
    const wish = { items, everyMs: 500, seconds: 3600, shape: 'changes' as const };
    const { id } = await other.call('beginRecording', { benchId: bench.benchId }, wish);
    expect(await engineer.refused('stopRecording', { id }, {})).toMatchObject({ status: 404 });
    expect(await engineer.refused('exportRecording', { id })).toMatchObject({ status: 404 });
    await other.call('closeBench', { benchId: bench.benchId });
    const { recordings } = await until(
      () => other.call('recordings'),
      (told) => told.recordings.every(({ state }) => state !== 'running'),
    );
    expect(recordings).toMatchObject([{ id, state: 'stopped', says: 'The session ended.' }]);
  });

  it('is nobody else’s', async () => {
    const viewer = await signIn('viewer', url, ownPassword);
    const approver = await signIn('approver', url, ownPassword);
    const wish = { nodeId: 'i=1', typed: '1', seen: null, why };
    expect(await viewer.refused('writeBench', { benchId }, wish)).toMatchObject({ status: 403 });
    expect(await approver.refused('writeBench', { benchId }, wish)).toMatchObject({ status: 404 });
  });
});
