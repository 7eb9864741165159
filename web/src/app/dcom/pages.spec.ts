import type { DcomMachine, DcomRow, DcomView } from '@loyal-hinge/contract';
import { comRights } from '@loyal-hinge/core';
import { Site, refused } from '../../testing/site';
import { order } from '../../testing/trust-answers';

const at = '2026-03-02T12:00:00.000Z';
const machine = (differs: Partial<DcomMachine> = {}): DcomMachine => ({
  machineId: 'tin-data',
  machine: 'Tin bath data',
  zone: 'Hot End',
  servers: 2,
  takenAt: at,
  takenBy: 'engineer',
  applications: 1,
  missing: 1,
  excess: 0,
  wide: 2,
  ...differs,
});
const row = (
  name: string,
  standings: readonly DcomRow['cells'][number]['standing'][],
  differs: Partial<DcomRow> = {},
): DcomRow => ({
  sid: `S-1-5-21-1-2-3-${name.length}`,
  name,
  isAccount: true,
  links: [],
  cells: comRights.map((right, index) => ({
    right,
    standing: standings[index] ?? 'none',
    says: `Why ${right} is so.`,
  })),
  ...differs,
});
const exported = (id: number, takenBy = 'engineer') => ({
  id,
  takenAt: at,
  takenBy,
  files: [{ name: 'settings.reg', bytes: 4000, holds: 'settings' as const }],
});
const application: DcomView['applications'][number] = {
  appId: '{1}',
  name: 'Tin bath data server',
  progIds: ['Works.Tin.1'],
  servers: ['Tin bath data server'],
  launchFrom: 'own',
  accessFrom: 'default',
  level: null,
  runAs: 'works\\opc',
  endpoints: [],
  faults: [],
  rows: [
    row('display', ['none', 'needed', 'none', 'needed', 'none', 'missing'], { links: ['Display to Tin bath'] }),
    row('Everyone', ['given', 'wide', 'given', 'wide', 'none', 'none'], { isAccount: false }),
    row('stranger', ['unknown', 'unknown'], { sid: null }),
  ],
};
/** D:(A;;CCLC;;;BA) */
const descriptor = 'AQAEgAAAAAAAAAAAAAAAABQAAAACACAAAQAAAAAAGAADAAAAAQIAAAAAAAUgAAAAIAIAAA==';
const permissionChange = {
  kind: 'set-permission' as const,
  machineId: 'tin-data',
  what: 'Access permission of Tin bath data',
  path: 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes\\AppID\\{5d8f0b52-3c1e-4f6a-9a70-2b6c1de90402}',
  name: 'AccessPermission',
  before: null,
  after: descriptor,
};
const view = (differs: Partial<DcomView> = {}): DcomView => ({
  machineId: 'tin-data',
  machine: 'Tin bath data',
  zone: 'Hot End',
  exports: [exported(7), exported(5, 'setup')],
  shown: 7,
  settings: [
    { what: 'DCOM is on', value: 'yes', isWeak: false },
    { what: 'Everyone includes anonymous', value: 'yes', isWeak: true },
    { what: 'Ports', value: null, isWeak: false },
  ],
  applications: [application, { ...application, appId: '{2}', name: 'Print helper', servers: [] }],
  smallest: {
    changes: [
      {
        what: 'access permission of Tin bath data',
        before: null,
        after: 'D:(A;;CCLC;;;BA)',
        says: ['display is given access from other machines.'],
        change: permissionChange,
        linkIds: ['display--tin'],
      },
    ],
    restarts: ['Tin bath data'],
    turns: [{ link: 'Display to Tin bath', isGained: true }],
    notes: [],
    apply: 'Windows Registry Editor Version 5.00\r\n',
    undo: 'Windows Registry Editor Version 5.00\r\n',
  },
  accounts: [{ name: 'tin-data\\display', sid: 'S-1-5-21-1-2-3-7', groups: 4 }],
  faults: [{ file: 'settings.reg', line: 12, says: 'This is no value.' }],
  ...differs,
});

describe('the machines over which DCOM matters', () => {
  it('say where rights are missing, where nearly everybody has them, and of which nothing is known', async () => {
    const unknown = machine({
      machineId: 'batch',
      machine: 'Batch data',
      takenAt: null,
      takenBy: null,
      missing: 0,
      wide: 0,
    });
    const site = await Site.open('/dcom', { dcomMachines: { machines: [machine(), unknown] } });
    expect(site.headline).toBe(
      'On 1 machine rights are missing; on 1 nearly everybody has them; of 1 the settings are not known.',
    );
    const [tin, batch] = site.rows();
    expect(tin?.join(' ')).toMatch(/Tin bath data.*Hot End.*2.*1.*2/);
    expect(batch?.join(' ')).toContain('none yet');
  });

  it('say that there are none', async () => {
    const site = await Site.open('/dcom', { dcomMachines: { machines: [] } });
    expect(site.headline).toBe('There is no classic application yet.');
    expect(site.text).toContain('It fills as soon as the plant has a classic application');
  });
});

describe('one machine', () => {
  const answers = { dcomMachine: view() };

  it('shows by person what is needed, missing and too wide, and why', async () => {
    const site = await Site.open('/dcom/tin-data', answers);
    expect(site.headline).toBe('Tin bath data: 1 right is missing; 2 are given to nearly everybody.');
    expect(site.text).toContain(
      'Works.Tin.1; launch permission: its own; access permission: the machine’s default; runs as works\\opc.',
    );
    expect(site.one('hinge-rights-grid tbody tr').textContent).toMatch(
      /display.*for Display to Tin bath.*needed.*missing/s,
    );
    await site.press(/^missing$/);
    expect(site.text).toContain('display, access far: Why access far is so.');
    await site.press(/^missing$/);
    expect(site.text).not.toContain('Why access far is so.');
    expect(site.text).toContain('In which groups stranger is, nobody knows yet');
  });

  it('says the smallest change in words, and what must be started anew', async () => {
    const site = await Site.open('/dcom/tin-data', answers);
    expect(site.text).toMatch(
      /access permission of Tin bath data.*display is given access from other machines\..*none of its own.*D:\(A;;CCLC;;;BA\)/,
    );
    expect(site.text).toContain('Afterwards Display to Tin bath can do what is needed; no link loses one.');
    expect(site.text).toContain('Counts once these were started anew: Tin bath data.');
    expect(site.button(/Save the file that changes it/).disabled).toBe(false);
    const nothing = { changes: [], restarts: [], turns: [], notes: [], apply: '', undo: '' };
    const whole = await Site.open('/dcom/tin-data', { dcomMachine: view({ smallest: nothing }) });
    expect(whole.text).toContain('Nothing has to be changed');
  });

  it('proposes the smallest settings as a work order, or says why that can’t be', async () => {
    const site = await Site.open('/dcom/tin-data', { ...answers, proposeOrder: refused('It is so already.') });
    await site.press(/Propose a work order/);
    expect(site.one('[role=alert]').textContent).toContain('It is so already.');
    site.answers.proposeOrder = order();
    site.answers.order = order();
    await site.press(/Propose a work order/);
    expect(site.asked('proposeOrder').at(-1)).toEqual({
      title: 'Smallest DCOM settings of Tin bath data',
      lines: [
        {
          change: permissionChange,
          why: 'display is given access from other machines.',
          linkIds: ['display--tin'],
        },
      ],
    });
    expect(site.url).toBe('/orders/o1');
  });

  it('shows the machine’s own settings, its other applications, and what could not be read', async () => {
    const site = await Site.open('/dcom/tin-data', answers);
    expect(site.one('dd.weak').textContent).toContain('yes');
    expect(site.text).toContain('not in the export');
    expect(site.text).toContain('1 other application of this machine');
    expect(site.text).toContain('1 line could not be read');
    expect(site.text).toContain('settings.reg, line 12: This is no value.');
  });

  it('says what to type on the machine where nothing is known', async () => {
    const empty = view({
      exports: [],
      shown: null,
      applications: [],
      settings: [],
      smallest: null,
      accounts: [],
      faults: [],
    });
    const site = await Site.open('/dcom/tin-data', { dcomMachine: empty });
    expect(site.headline).toBe('The settings of Tin bath data are not known yet.');
    expect(site.text).toContain('reg export "HKLM\\SOFTWARE\\Microsoft\\Ole" 1.reg /y');
    expect(site.text).toContain('whoami /all /fo csv');
  });

  it('takes files that somebody brings, and says what was read', async () => {
    const site = await Site.open('/dcom/tin-data', { ...answers, importMachineSettings: view() });
    await site.choose(/Bring files/, 'settings.reg', 'REGEDIT4');
    expect(site.told).toContain('2 applications and 1 account were read. 1 line could not be read.');
    const refusing = await Site.open('/dcom/tin-data', {
      ...answers,
      importMachineSettings: refused('This is no export.', 400, 'invalid'),
    });
    await refusing.choose(/Bring files/, 'holiday.txt', 'sun');
    expect(refusing.text).toContain('This is no export.');
  });

  it('compares with the export before', async () => {
    const differences = [{ what: 'DCOM', before: 'on', after: null }];
    const site = await Site.open('/dcom/tin-data', {
      ...answers,
      compareMachineSettings: { before: exported(5), after: exported(7), differences },
    });
    await site.press(/Compare with the export before/);
    expect(site.text).toMatch(/What changed since.*DCOM.*on.*not there/);
    await site.press(/Close the comparison/);
    expect(site.text).not.toContain('What changed since');
  });

  it('says why it can’t be shown', async () => {
    const site = await Site.open('/dcom/nowhere', {
      dcomMachine: refused('There is no machine “nowhere”.', 404, 'not-found'),
    });
    expect(site.text).toContain('There is no machine “nowhere”.');
  });
});

describe('a descriptor that somebody pastes', () => {
  it('is told entry by entry, from SDDL, hexadecimal or Base64', async () => {
    const site = await Site.open('/dcom/descriptor', {});
    expect(site.headline).toBe('What a security descriptor means');
    await site.fill(/Descriptor/, 'O:BAG:BAD:(D;;RP;;;AN)(A;;CCDCLCSWRP;;;WD)');
    expect(site.headline).toBe('It lets everybody in from other machines.');
    const [denied, given] = site.rows();
    expect(denied?.join(' ')).toMatch(/1 Anonymous Logon \(S-1-5-7\) denies activate far/);
    expect(given?.join(' ')).toMatch(
      /Everyone \(S-1-1-0\) gives launch near, launch far, activate near, activate far access near, access far/,
    );
    await site.fill(/Descriptor/, '"X"=hex:01,00,04,80,00,00,00,00,00,00,00,00,00,00,00,00,00,00,00,00');
    expect(site.headline).toBe('It lets everybody do everything.');
    await site.fill(/Descriptor/, 'D:(A;;CC;;;ZZ)');
    expect(site.headline).toBe('This is no security descriptor.');
    expect(site.text).toMatch(/At character \d+: “ZZ” is no SID\./);
  });
});
