import { randomBytes } from 'node:crypto';
import type { BenchHeard } from '@loyal-hinge/contract';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, plantGiven } from '../testing/given.js';
import { hearBenches } from '../testing/hear-benches.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { Relay } from '../testing/relay.js';
import { until } from '../testing/until.js';

const linkId = 'energy--dust-filter';
const page = randomBytes(16).toString('hex');
const nodeId = 'ns=1;s=Filter/Fan power';
const { plant } = plantGiven();
const own = ownServer('lost');
const relay = new Relay(inPlant('96.1'), 4840, inPlant('10.14'));
let engineer: Caller;
let url: string;
let benchId: string;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  engineer = await signIn('engineer', url, ownPassword);
  await relay.listen();
  const link = plant.links.find(({ id }) => id === linkId);
  await engineer.call('putLink', { id: linkId }, { ...link, pinnedAddress: inPlant('96.1') } as never);
  ({ benchId } = await engineer.call('openBench', { linkId }, { page }));
});
afterAll(() => Promise.all([relay.cut(), own.remove()]));

describe('a live session that is interrupted', () => {
  it('says so, is taken up again by itself, and goes on with what was watched', async () => {
    const { heard, stop } = hearBenches(url, engineer, page);
    await engineer.call('watchBench', { benchId }, { nodeIds: [nodeId], everyMs: 250 });
    const turns = () => heard.flatMap(({ session }) => session ?? []);
    const seen = async (fits: () => boolean) =>
      until(
        () => Promise.resolve(fits()),
        (is) => is,
      );
    const hasGood = ({ changes }: BenchHeard) => changes.some(([, value, , , code]) => value !== null && !code);
    await seen(() => heard.some(hasGood));
    expect(turns().at(-1)).toMatchObject({ isLost: false });
    const [interval] = heard.flatMap(({ watching }) => watching);
    expect(interval).toMatchObject({ slot: 0, revisedSamplingIntervalMs: 250 });
    expect(heard.flatMap(({ slots }) => slots)).toEqual([{ slot: 0, nodeId }]);
    await relay.cut();
    await seen(() => turns().at(-1)?.isLost === true);
    expect(await engineer.refused('browseBench', { benchId })).toMatchObject({
      status: 409,
      detail: expect.stringContaining('The session is lost.') as string,
    });
    await seen(() => /port 4840/.test(turns().at(-1)?.says ?? ''));
    await relay.listen();
    await seen(() => turns().at(-1)?.isLost === false);
    const before = heard.length;
    await seen(() => heard.slice(before).some(hasGood));
    const { nodes } = await engineer.call('browseBench', { benchId });
    expect(nodes.map(({ browseName }) => browseName)).toContain('Filter');
    await stop();
  });

  it('tells of each of a thousand items that are not there, and of the one that is', async () => {
    const { heard, stop } = hearBenches(url, engineer, page);
    const nodeIds = [nodeId, 'no node id', ...Array.from({ length: 1000 }, (_, index) => `ns=1;s=Nowhere ${index}`)];
    await engineer.call('watchBench', { benchId }, { nodeIds, everyMs: 250 });
    const newest = (): Map<string, string> => {
      const names = new Map(heard.flatMap(({ slots }) => slots.map(({ slot, nodeId: id }) => [slot, id])));
      return new Map(
        heard.flatMap(({ changes }) => changes.map(([slot, , , , code]) => [names.get(slot) ?? '', code ?? 'Good'])),
      );
    };
    const codes = await until(
      () => Promise.resolve(newest()),
      (told) => nodeIds.every((id) => told.has(id)),
    );
    await stop();
    const count = (code: string): number => [...codes.values()].filter((own) => own === code).length;
    expect([codes.get(nodeId), codes.get('no node id'), count('BadNodeIdUnknown')]).toEqual([
      'Good',
      'BadNodeIdInvalid',
      1000,
    ]);
  });

  it('refuses to be watched in a way that makes no sense', async () => {
    const tooOften = await engineer.refused('watchBench', { benchId }, { nodeIds: [nodeId], everyMs: 1 });
    expect(tooOften).toMatchObject({ status: 400, faults: [{ place: 'everyMs' }] });
    const twice = await engineer.refused('watchBench', { benchId }, { nodeIds: [nodeId, nodeId], everyMs: 250 });
    expect(twice).toMatchObject({ status: 400, faults: [{ place: 'nodeIds' }] });
  });
});
