import { readFile, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { descriptorBytes, readSddl, registryExportText, registryFileBytes } from '@loyal-hinge/core';
import { signIn } from '../testing/calls.js';
import type { Caller } from '../testing/calls.js';
import { given, plantGiven } from '../testing/given.js';
import { ownPassword, ownServer } from '../testing/own-server.js';
import { until } from '../testing/until.js';

const own = ownServer('dcom');
let url: string;
let engineer: Caller;
let viewer: Caller;
beforeAll(async () => {
  await own.setUp();
  ({ url } = await own.serve());
  [engineer, viewer] = [await signIn('engineer', url, ownPassword), await signIn('viewer', url, ownPassword)];
});
afterAll(() => own.remove());

const reader = 'S-1-5-21-41-41-41-1001';
const tinAppId = '{5d8f0b52-3c1e-4f6a-9a70-2b6c1de90402}';

function permission(name: string, sddl: string) {
  const read = readSddl(sddl);
  if (!read.ok) throw new Error(read.fault.says);
  return { name, bytes: descriptorBytes(read.value) };
}
/** An export that gives the reader access to the tin bath’s server, and nobody else from another machine. */
const mending = registryExportText([
  {
    path: `HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID\\${tinAppId}`,
    values: [permission('AccessPermission', `O:BAG:BAD:(A;;CCLC;;;${reader})`)],
  },
]);
const fileOf = (name: string, bytes: Uint8Array) => ({ name, base64: Buffer.from(bytes).toString('base64') });

describe('what machines’ exports say of DCOM', () => {
  it('lists machines with classic servers, and of which the settings are known', async () => {
    const { machines } = await viewer.call('dcomMachines');
    expect(machines.map(({ machineId }) => machineId)).toEqual(
      expect.arrayContaining(['lehr-data', 'tin-data', 'batch-data', 'trend-station']),
    );
    const byId = new Map(machines.map((machine) => [machine.machineId, machine]));
    expect(byId.get('batch-data')).toMatchObject({ takenAt: null, missing: 0 });
    expect(byId.get('tin-data')).toMatchObject({ takenBy: 'setup', servers: 2 });
    expect(byId.get('tin-data')?.missing).toBeGreaterThan(0);
    expect(byId.get('lehr-data')).toMatchObject({ missing: 0, wide: 0, excess: 0 });
    expect(byId.get('silo-data')?.wide).toBeGreaterThan(0);
  });

  it('says who may what with a server, and why, down to the entry', async () => {
    const { applications, accounts } = await viewer.call('dcomMachine', { machineId: 'tin-data' });
    const tin = applications.find(({ appId }) => appId === tinAppId);
    expect(tin).toMatchObject({ servers: ['Tin bath data server'], launchFrom: 'default', accessFrom: 'default' });
    expect(accounts).toEqual([{ name: 'tin-data\\trend', sid: reader, groups: 5 }]);
    const trend = tin?.rows.find(({ sid }) => sid === reader);
    expect(trend?.links).toEqual(['Trends of tin bath data']);
    const cells = Object.fromEntries((trend?.cells ?? []).map((cell) => [cell.right, cell]));
    expect(cells['launch far']).toMatchObject({
      standing: 'needed',
      says: 'Given by entry 1 of the machine’s default permission, for Authenticated Users; the machine’s limit lets it through.',
    });
    expect(cells['access far']).toMatchObject({
      standing: 'missing',
      says: 'No entry of the machine’s default permission gives it.',
    });
  });

  it('keeps what is brought, zipped or not, with its history, and compares', async () => {
    const machineId = 'tin-data';
    const [before] = (await viewer.call('dcomMachine', { machineId })).exports;
    const text = mending.replace(tinAppId, '{99999999-9999-4999-8999-999999999999}');
    const zip = zipSync({ 'a/settings.reg': registryFileBytes(text), 'notes.txt': strToU8('nothing') });
    const view = await engineer.call('importMachineSettings', { machineId }, { files: [fileOf('all.zip', zip)] });
    expect(view.exports).toHaveLength(2);
    expect(view.exports[0]).toMatchObject({
      takenBy: 'engineer',
      files: [
        { name: 'a/settings.reg', holds: 'settings' },
        { name: 'notes.txt', holds: 'nothing' },
      ],
    });
    const [after] = view.exports;
    const places = { machineId, before: String(before?.id), after: String(after?.id) };
    const { differences } = await viewer.call('compareMachineSettings', places);
    expect(differences).toContainEqual({ what: 'DCOM', before: 'on', after: null });
    const older = await viewer.call('dcomMachine', { machineId });
    expect(older.shown).toBe(after?.id);
    const { entries } = await engineer.query('audit', { subject: machineId });
    expect(entries[0]).toMatchObject({ action: 'machine settings imported', actor: 'engineer' });
  });

  it('reads services and members of groups from tables', async () => {
    const services = '"Name","StartName","State","StartMode"\r\n"TinOpc",".\\opc","Running","Auto"\r\n';
    const groups = `"Group","GroupSid","Name","SID","PrincipalSource"\r\n"Users","S-1-5-32-545","TIN-DATA\\oven","${reader.replace(/1001$/, '1007')}","Local"\r\n`;
    const files = [
      fileOf('settings.reg', registryFileBytes(mending)),
      fileOf('services.csv', strToU8(`\ufeff${services}`)),
      fileOf('groups.csv', strToU8(groups)),
    ];
    const view = await engineer.call('importMachineSettings', { machineId: 'tin-data' }, { files });
    expect(view.exports[0]?.files.map(({ holds }) => holds)).toEqual(['settings', 'services', 'groups']);
    expect(view.accounts).toEqual([{ name: 'TIN-DATA\\oven', sid: reader.replace(/1001$/, '1007'), groups: 5 }]);
  });

  it('works out the way back at the machine of a client', async () => {
    const machineId = 'trend-station';
    const closed = registryExportText([
      {
        path: 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole',
        values: [permission('DefaultAccessPermission', 'D:(A;;CCDCLC;;;BA)')],
      },
    ]);
    const account = `"User Name","SID"\r\n"trend-station\\trend","${reader}"\r\n`;
    const files = [fileOf('settings.reg', registryFileBytes(closed)), fileOf('account.csv', strToU8(account))];
    const { smallest } = await engineer.call('importMachineSettings', { machineId }, { files });
    const change = smallest?.changes.find(({ what }) => what === 'The machine’s default access permission');
    expect(change?.says).toEqual([
      'trend-station\\trend is given access from other machines: servers call back as this account.',
    ]);
    expect(change?.linkIds).toContain('trend--lehr-data');
  });

  it('refuses what is no export, and says what to bring', async () => {
    const machineId = 'tin-data';
    const nothing = { files: [fileOf('holiday.txt', strToU8('sun'))] };
    expect(await engineer.refused('importMachineSettings', { machineId }, nothing)).toMatchObject({
      status: 400,
      faults: [{ place: 'files', says: expect.stringContaining('commands on this page') as string }],
    });
    expect(await viewer.refused('importMachineSettings', { machineId }, nothing)).toMatchObject({ status: 403 });
    expect(await engineer.refused('importMachineSettings', { machineId: 'nowhere' }, nothing)).toMatchObject({
      status: 404,
    });
    expect(await viewer.refused('dcomMachine', { machineId: 'nowhere' })).toMatchObject({ status: 404 });
    const broken = { files: [fileOf('cut.zip', zipSync({ 'a.reg': strToU8(mending) }).subarray(0, 60))] };
    expect(await engineer.refused('importMachineSettings', { machineId }, broken)).toMatchObject({ status: 400 });
  });

  it('tells of lines that can’t be read, and keeps the others', async () => {
    const text = `${mending}\r\n"Broken"=hex:zz\r\n`;
    const files = [fileOf('settings.reg', registryFileBytes(text))];
    const view = await engineer.call('importMachineSettings', { machineId: 'batch-data' }, { files });
    expect(view.faults).toHaveLength(1);
    expect(view.applications).toHaveLength(1);
  });
});

describe('a check of a classic link', () => {
  it('says which entry refuses, by the export of the machine', async () => {
    const { id } = await engineer.call('checkLink', { linkId: 'trend--cutter-data' }, {});
    const { facts, assessment } = await until(
      () => engineer.call('check', { checkId: id }),
      ({ check: { endedAt } }) => endedAt !== null,
    );
    expect(facts).toContainEqual(expect.objectContaining({ kind: 'classic-rights', source: 'reported' }));
    expect(assessment.headline).toContain('launch far is not given. No entry of the machine’s limit gives it.');
  });

  it('takes a needed item for a pattern where no item has that name, by whole names or by their parts', async () => {
    const link = plantGiven().plant.links.find(({ id }) => id === 'trend--lehr-data');
    const needs = ['Lehr/Zone[1-3]/Temperature', 'Lehr.Belt.S*'].map((path) => ({ path, uses: ['read', 'watch'] }));
    await engineer.call('putLink', { id: 'trend--lehr-data' }, { ...link, needs } as never);
    const { id } = await engineer.call('checkLink', { linkId: 'trend--lehr-data' }, {});
    const { facts, assessment } = await until(
      () => engineer.call('check', { checkId: id }),
      ({ check: { endedAt } }) => endedAt !== null,
    );
    expect(facts.flatMap((fact) => (fact.kind === 'item-pattern' ? [[fact.pattern, fact.paths]] : []))).toEqual([
      ['Lehr/Zone[1-3]/Temperature', [1, 2, 3].map((zone) => `Lehr.Zone${zone}.Temperature`)],
      ['Lehr.Belt.S*', ['Lehr.Belt.Speed']],
    ]);
    expect(assessment.state).toBe('Sound');
  });

  it('says that DCOM’s settings make a guest of everybody, where the export says so', async () => {
    const folder = join(dirname(given('HINGE_TEST_HANDOVER')), 'classic', 'batch-data');
    const files = [fileOf('settings.reg', await readFile(join(folder, 'settings.reg')))];
    await engineer.call('importMachineSettings', { machineId: 'batch-data' }, { files });
    const { id } = await engineer.call('checkLink', { linkId: 'trend--batch-data' }, {});
    const { assessment } = await until(
      () => engineer.call('check', { checkId: id }),
      ({ check: { endedAt } }) => endedAt !== null,
    );
    expect(assessment).toMatchObject({ partedAt: 'activation', leadingCause: 'guest-only' });
  });
});

describe('writing over a classic link', () => {
  it('is done on asking alone, with the value that is there, and proves the step', async () => {
    const linkId = 'trend--lehr-data';
    const path = 'Lehr.Zone1.SetPoint';
    const { link } = await engineer.call('link', { linkId });
    const needs = [{ path, uses: ['read' as const, 'write' as const] }];
    await engineer.call('putLink', { id: linkId }, { ...link, needs });
    const checkOf = async (id: string) =>
      until(
        () => engineer.call('check', { checkId: id }),
        ({ check: { endedAt } }) => endedAt !== null,
      );
    const plain = await checkOf((await engineer.call('checkLink', { linkId }, {})).id);
    const writeStep = ({ assessment }: typeof plain) => assessment.steps.find(({ step }) => step === 'write');
    expect(writeStep(plain)).toMatchObject({ verdict: 'holds', source: 'reckoned' });
    const proof = { paths: [path], why: 'Permit 12.' };
    const proved = await checkOf((await engineer.call('proveWrites', { linkId }, proof)).id);
    expect(proved.facts).toContainEqual(
      expect.objectContaining({ kind: 'item-written', path, outcome: 'same value', before: '515', by: 'engineer' }),
    );
    expect(writeStep(proved)).toMatchObject({ verdict: 'holds', source: 'tried' });
    const later = await checkOf((await engineer.call('checkLink', { linkId }, {})).id);
    expect(writeStep(later)).toMatchObject({ verdict: 'holds', source: 'reported' });
  });
});

describe('a classic link that is parted', () => {
  const linkId = 'trend--tin-data';
  const put = join(dirname(given('HINGE_TEST_HANDOVER')), 'classic', 'tin-data', 'x-mending.reg');
  afterAll(() => rm(put, { force: true }));

  async function checked() {
    const { id } = await engineer.call('checkLink', { linkId }, {});
    const told = await until(
      () => engineer.call('check', { checkId: id }),
      ({ check: { endedAt } }) => endedAt !== null,
    );
    return told.assessment;
  }

  it('is sound once the smallest settings were put in force on its machine, and parted once they were taken back', async () => {
    const newest = await engineer.call('dcomMachine', { machineId: 'tin-data' });
    const first = String(newest.exports.at(-1)?.id);
    const { smallest } = await engineer.query('dcomMachine', { export: first }, { machineId: 'tin-data' });
    const words = smallest?.changes.flatMap(({ says }) => says) ?? [];
    expect(words).toContain(
      'Authenticated Users loses launch and activation from other machines, which no link needs.',
    );
    expect(words).toContain('tin-data\\trend is given access from other machines.');
    expect(await checked()).toMatchObject({ state: 'Parted', partedAt: 'access', leadingCause: 'access-refused' });
    const apply = registryFileBytes(smallest?.apply ?? '');
    await writeFile(put, apply);
    const there = await readFile(join(dirname(put), 'settings.reg'));
    const files = [fileOf('settings.reg', there), fileOf('x-mending.reg', apply)];
    await engineer.call('importMachineSettings', { machineId: 'tin-data' }, { files });
    expect(await checked()).toMatchObject({ state: 'Sound', partedAt: null });
    await writeFile(put, registryFileBytes(smallest?.undo ?? ''));
    expect(await checked()).toMatchObject({ state: 'Parted', leadingCause: 'access-refused' });
  });
});

describe('the smallest settings as a work order', () => {
  const machineId = 'cutter-data';

  it('are set by a person, proved by a newer export, and taken back by an order of their own', async () => {
    const { smallest } = await engineer.call('dcomMachine', { machineId });
    const changes = smallest?.changes ?? [];
    const limit = changes.find(({ what }) => /limit/i.test(what));
    expect(limit?.linkIds).toEqual(['trend--cutter-data']);
    const lines = changes.map(({ change, linkIds }) => ({ change, why: 'The link needs it.', linkIds }));
    const { id } = await engineer.call('proposeOrder', {}, { title: 'Let the trends in', lines });
    const approver = await signIn('administrator', url, ownPassword);
    await approver.call('approveOrder', { id }, {});
    await engineer.call('carryOutOrder', { id }, {});
    const begun = await until(
      () => engineer.call('order', { id }),
      ({ lines: now }) => now.every(({ state }) => state === 'by hand'),
    );
    expect(begun.lines[0]).toMatchObject({ way: 'by hand', says: expect.stringContaining('reg import') as string });
    const done = await engineer.call('lineDoneByHand', { id, position: '1' }, {});
    expect(done.lines.map(({ state }) => state)).toEqual(lines.map(() => 'done'));
    const file = fileOf('after.reg', registryFileBytes(smallest?.apply ?? ''));
    await engineer.call('importMachineSettings', { machineId }, { files: [file] });
    expect(await engineer.call('order', { id })).toMatchObject({ state: 'proved' });

    const back = await engineer.call('undoLine', { id, position: '1' }, {});
    const { before, after } = begun.lines[0] ?? {};
    expect(back).toMatchObject({ state: 'proposed', lines: [{ before: after, after: before }] });
  });

  it('change permissions of DCOM, and nothing else of a registry', async () => {
    const { smallest } = await engineer.call('dcomMachine', { machineId: 'silo-data' });
    const [first] = smallest?.changes ?? [];
    const proposed = (differs: object) => {
      const line = { change: { ...first?.change, ...differs }, why: 'why', linkIds: [] };
      return engineer.refused('proposeOrder', {}, { title: 'Something else', lines: [line] } as never);
    };
    expect(await proposed({ name: 'RunAs' })).toMatchObject({ status: 400 });
    expect(await proposed({ path: 'HKEY_LOCAL_MACHINE\\SYSTEM' })).toMatchObject({ status: 400 });
    expect(await proposed({ after: Buffer.from('no descriptor').toString('base64') })).toMatchObject({ status: 400 });
  });
});
