import { randomBytes } from 'node:crypto';
import type { Link } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { inPlant, plantGiven, thumbprintIn } from '../testing/given.js';
import { startOneServer } from '../testing/one-server.js';
import type { OneServer } from '../testing/one-server.js';
import { Pair, listing } from '../testing/orders.js';
import { wantSecondPerson } from '../testing/second-person.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const taken = plantGiven();
const own = ownServer('password_targets');
const linkId = 'energy--furnace';
const kept = taken.passwords.find((one) => one.linkId === linkId)?.password ?? '';
const clientPem = taken.clients.find(({ applicationId }) => applicationId === 'energy-client')?.certificatePem ?? '';
const address = inPlant('98.1');
const plantUrl = taken.plant.links.find(({ id }) => id === linkId)?.endpointUrl ?? '';

/** It claims to be the furnace, at another address inside the ranges, and hears whatever it is told. */
let hostile: OneServer;
let engineer: Caller;
let administrator: Caller;
let approver: Caller;
let link: Link;

beforeAll(async () => {
  [hostile] = await Promise.all([
    startOneServer({
      id: 'furnace-server',
      address,
      hosts: [new URL(plantUrl.replace('opc.tcp', 'http')).hostname],
      trusted: [clientPem],
      passwords: { collector: randomBytes(9).toString('base64url') },
    }),
    own.setUp(),
  ]);
  const { url } = await own.serve();
  [engineer, administrator, approver] = [
    await signIn('engineer', url, ownPassword),
    await signIn('administrator', url, ownPassword),
    await signIn('approver', url, ownPassword),
  ];
  link = (await engineer.call('link', { linkId })).link as Link;
  // The client trusts it, as an engineer can arrange.
  const files = [{ name: 'furnace.pem', base64: Buffer.from(hostile.certificatePem).toString('base64') }];
  await engineer.call('recognise', {}, { files });
  await new Pair(engineer, administrator).carryOut([listing('energy-client', thumbprintIn(hostile.certificatePem))]);
}, 120_000);
afterAll(() => Promise.all([hostile.stop(), own.remove()]));

const there = `opc.tcp://${address}:4840`;
const pointTo = (caller: Caller, change: Partial<Link>) =>
  caller.call('putLink', { id: linkId }, { ...link, ...change } as never);

async function check(caller = engineer) {
  const { id } = await caller.call('checkLink', { linkId }, {});
  const { assessment } = await until(
    () => caller.call('check', { checkId: id }),
    ({ check: { endedAt } }) => endedAt !== null,
  );
  return assessment;
}

/** Why nobody was signed in. */
async function causesOfNoSession() {
  const { steps } = await check();
  return steps.find(({ step }) => step === 'identity')?.findings.map(({ causeId }) => causeId);
}

async function release(caller: Caller) {
  const { steps } = await check();
  const remedies = steps.flatMap(({ findings }) => findings.flatMap((finding) => finding.remedies));
  const change = remedies.find((remedy) => remedy.change.kind === 'release-password')?.change;
  if (!change) throw new Error('no release was offered');
  return { change, refused: () => caller.refused('mend', { linkId }, { change }) };
}

describe('a kept password', () => {
  it.each([
    ['another URL', { endpointUrl: there }],
    ['the same URL, pinned to another address', { pinnedAddress: address }],
  ])('is not sent to another server that an engineer points its link to, by %s', async (_how, change) => {
    await pointTo(engineer, change);
    expect(await causesOfNoSession()).toEqual(['password-elsewhere']);
    expect(await engineer.call('link', { linkId })).toMatchObject({ passwordState: 'for another target' });
    expect(await engineer.refused('openBench', { linkId }, {})).toMatchObject({ status: 409 });
    expect(hostile.heard).toEqual([]);
    await pointTo(engineer, {});
    expect(await engineer.call('link', { linkId })).toMatchObject({ passwordState: 'kept' });
  });

  it('is let go by an approver who saw old and new, not by an engineer, and by another person where the plant says so', async () => {
    await pointTo(engineer, { endpointUrl: there, pinnedAddress: address });
    await pointTo(administrator, { endpointUrl: there });
    const { change, refused } = await release(engineer);
    expect(change).toMatchObject({ before: { endpointUrl: link.endpointUrl }, after: { endpointUrl: there } });
    expect(await refused()).toMatchObject({ status: 403 });
    const letGo = await wantSecondPerson(administrator, approver);
    expect(await administrator.refused('mend', { linkId }, { change })).toMatchObject({
      status: 409,
      detail: expect.stringContaining('another person'),
    });
    await letGo();
    const other = { ...change, after: { ...(change as { after: object }).after, endpointUrl: link.endpointUrl } };
    expect(await administrator.refused('mend', { linkId }, { change: other })).toMatchObject({ status: 409 });
    expect(hostile.heard).toEqual([]);
    const { checkId } = await administrator.call('mend', { linkId }, { change });
    await until(
      () => engineer.call('check', { checkId: checkId ?? '' }),
      ({ check: { endedAt } }) => endedAt !== null,
    );
    expect(hostile.heard).toContainEqual({ userName: 'collector', password: kept });
  });

  it('goes with its link: an id that comes again finds none', async () => {
    await engineer.call('removeLink', { id: linkId });
    await pointTo(engineer, {});
    expect(await engineer.call('link', { linkId })).toMatchObject({ passwordState: 'none' });
    expect(await causesOfNoSession()).toEqual(['password-not-kept']);
    const names = await own.read<{ name: string }>(`select name from secrets where name like '%${linkId}'`);
    expect(names).toEqual([]);
  });
});
