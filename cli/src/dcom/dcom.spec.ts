import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hinge } from '../main.js';

let folder: string;
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'hinge-dcom-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function run(verb: string, ...lines: readonly (object | string)[]) {
  const file = join(folder, 'cases.jsonl');
  writeFileSync(file, lines.map((line) => (typeof line === 'string' ? line : JSON.stringify(line))).join('\n'));
  let [out, errors] = ['', ''];
  const args = ['dcom', verb, '--cases', file, '--json'];
  const code = await hinge(args, { write: (text) => (out += text) }, { write: (text) => (errors += text) });
  const answers = out.split('\n').flatMap((line) => (line === '' ? [] : [JSON.parse(line) as object]));
  return { code, answers, errors };
}
const me = 'S-1-5-21-1-2-3-1001';

describe('hinge dcom access', () => {
  it('answers each case with what decided it', async () => {
    const { code, answers } = await run(
      'access',
      {
        id: 'a',
        descriptor: 'D:(D;;0x10;;;AN)(A;;CCDCLC;;;WD)',
        token: { user: me, groups: ['S-1-1-0'] },
        mask: '0x4',
      },
      { id: 2, descriptor: 'D:(D;;0x10;;;AN)', token: { user: 'S-1-5-7', groups: [] }, mask: '0x10' },
      { id: 3, descriptor: 'D:', token: { user: me, groups: [] }, mask: '0x1' },
      { id: 4, descriptor: 'O:BA', token: { user: me, groups: [], denyOnly: ['S-1-5-32-544'] }, mask: 31 },
    );
    expect(code).toBe(0);
    expect(answers).toEqual([
      { id: 'a', allowed: true, granted: '0x4', decidedBy: { index: 1, type: 0, sid: 'S-1-1-0', mask: '0x7' } },
      { id: 2, allowed: false, granted: '0x0', decidedBy: { index: 0, type: 1, sid: 'S-1-5-7', mask: '0x10' } },
      { id: 3, allowed: false, granted: '0x0', decidedBy: null },
      { id: 4, allowed: true, granted: '0x1f', decidedBy: null },
    ]);
  });

  it('says of each wrong case what is wrong, and answers the others', async () => {
    const good = { id: 'good', descriptor: 'D:', token: { user: me, groups: [] }, mask: '0x1' };
    const { code, answers } = await run(
      'access',
      'no JSON',
      '[]',
      '',
      { ...good, id: 1, descriptor: 'D:(A;;GA;;;ZZ)' },
      { ...good, id: 2, descriptor: 'base64:AQAEgA==' },
      { ...good, id: 3, descriptor: 'base64:?' },
      { ...good, id: 4, mask: '0x1ffffffff' },
      { ...good, id: 5, token: { user: 'me', groups: [] } },
      { ...good, id: 6, token: { user: me, groups: 'all' } },
      { ...good, id: 7, descriptor: 5 },
      good,
    );
    expect(code).toBe(3);
    expect(answers).toMatchObject([
      { id: null, error: 'Line 1 is no JSON.' },
      { id: null, error: 'Line 2 is no JSON object.' },
      { id: 1, error: 'At character 11: “ZZ” is no SID.' },
      { id: 2, error: 'At byte 4: A descriptor has 20 bytes before its parts; this has 4.' },
      { id: 3, error: 'What stands behind “base64:” is no Base64.' },
      { id: 4, error: '“mask” must be a number of 32 bits, such as "0x1f".' },
      { id: 5, error: '“me” in “user” is no SID.' },
      { id: 6, error: '“groups” must be a list.' },
      { id: 7, error: '“descriptor” must be a text.' },
      { id: 'good', allowed: false },
    ]);
  });

  it('could not run without a file, or without --json', async () => {
    let errors = '';
    const told = { write: (text: string) => (errors += text) };
    expect(await hinge(['dcom', 'access', '--json'], told, told)).toBe(2);
    expect(await hinge(['dcom', 'access', '--cases', join(folder, 'none'), '--json'], told, told)).toBe(2);
    expect(await hinge(['dcom', 'access', '--cases', folder], told, told)).toBe(2);
    expect(errors).toContain('Say which file of cases.');
  });
});

describe('hinge dcom descriptor', () => {
  it('takes a descriptor apart, and writes it anew both ways', async () => {
    const domainSid = 'S-1-5-21-1-2-3';
    const text = 'O:DAG:SYD:P(A;CI;0x1f;;;BA)(OA;;CR;bf967aba-0de6-11d0-a285-00aa003049e2;;AU)';
    const [first] = (await run('descriptor', { id: 1, descriptor: text, domainSid })).answers;
    expect(first).toMatchObject({
      id: 1,
      owner: `${domainSid}-512`,
      group: 'S-1-5-18',
      control: '0x9004',
      dacl: [
        { type: 0, flags: 2, mask: '0x1f', sid: 'S-1-5-32-544' },
        { type: 5, flags: 0, mask: '0x100', sid: 'S-1-5-11', objectType: 'bf967aba-0de6-11d0-a285-00aa003049e2' },
      ],
      sacl: null,
      sddl: 'O:DAG:SYD:P(A;CI;CCDCLCSWRP;;;BA)(OA;;CR;bf967aba-0de6-11d0-a285-00aa003049e2;;AU)',
    });
    const { base64, ...told } = first as { base64: string };
    const { code, answers } = await run('descriptor', { id: 1, descriptor: `base64:${base64}`, domainSid });
    expect([code, answers]).toEqual([0, [{ ...told, base64 }]]);
  });

  it('refuses a domain that is none', async () => {
    const { code, answers } = await run('descriptor', { id: 1, descriptor: 'D:', domainSid: 'works' });
    expect([code, answers]).toEqual([3, [{ id: 1, error: '“domainSid” is no SID.' }]]);
  });
});

describe('hinge dcom settings', () => {
  const ole = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Ole';
  const written = (name: string, lines: readonly string[], encoding: 'utf16le' | 'utf8' = 'utf16le'): string => {
    const file = join(folder, name);
    const text = ['Windows Registry Editor Version 5.00', ...lines].join('\r\n');
    writeFileSync(file, Buffer.from(`${encoding === 'utf16le' ? '\ufeff' : ''}${text}`, encoding));
    return file;
  };
  const settings = async (...args: readonly string[]) => {
    let [out, errors] = ['', ''];
    const code = await hinge(
      ['dcom', 'settings', ...args],
      { write: (text) => (out += text) },
      { write: (text) => (errors += text) },
    );
    return { code, out, errors };
  };

  it('takes several exports together, as systems write them, and says who may what', async () => {
    const one = written('ole.reg', [`[${ole}]`, '"EnableDCOM"="Y"', '"LegacyAuthenticationLevel"=dword:6']);
    const other = written('policy.reg', [
      '[HKEY_LOCAL_MACHINE\\SOFTWARE\\Policies\\Microsoft\\Windows NT\\DCOM]',
      '"MachineLaunchRestriction"="D:(A;;CCDCLCSWRP;;;BA)(D;;1;;;AN)"',
    ]);
    const { code, out } = await settings(one, other);
    expect(code).toBe(0);
    expect(out).toContain('DCOM: on\nAuthentication level: packet privacy\n');
    expect(out).toContain(
      'The limit by policy, launch: Administrators may launch near, launch far, activate near, activate far\n',
    );
    expect(out).toContain('Anonymous Logon may not launch near');
    const told = JSON.parse((await settings(one, other, '--json')).out) as object;
    expect(told).toMatchObject({
      isOn: true,
      launchPolicy: {
        sddl: 'D:(A;;CCDCLCSWRP;;;BA)(D;;CC;;;AN)',
        entries: [
          { index: 0, gives: true, sid: 'S-1-5-32-544', name: 'Administrators' },
          { index: 1, gives: false, sid: 'S-1-5-7' },
        ],
      },
      faults: [],
    });
  });

  it('says what an account may with an application, and which entry decides', async () => {
    const appId = '{0B5A2C4E-7D1F-4C3A-9E21-6F8B5D2A1C30}';
    const clsid = '{5E7C1A92-3B4D-4F6E-8A10-2C9D7B6E5F41}';
    const classes = 'HKEY_LOCAL_MACHINE\\SOFTWARE\\Classes';
    const hexOf = async (descriptor: string): Promise<string> => {
      const [answer] = (await run('descriptor', { id: 1, descriptor })).answers as { base64: string }[];
      return [...Buffer.from(answer?.base64 ?? '', 'base64')]
        .map((byte) => byte.toString(16).padStart(2, '0'))
        .join(',');
    };
    const file = written('scales.reg', [
      `[${ole}]`,
      `"MachineLaunchRestriction"=hex:${await hexOf('D:(A;;0x1f;;;BA)(A;;0xb;;;WD)')}`,
      `[${classes}\\AppID\\${appId}]`,
      '@="Batch scales"',
      `"LaunchPermission"=hex:${await hexOf('D:(A;;0x1f;;;BU)')}`,
      `[${classes}\\CLSID\\${clsid}]`,
      `"AppID"="${appId}"`,
      `[${classes}\\CLSID\\${clsid}\\ProgID]`,
      '@="Marrowby.BatchScales.1"',
    ]);
    const account = join(folder, 'account.txt');
    writeFileSync(account, `works\\display ${me}\nEveryone Group S-1-1-0 a, b, c\nUsers Alias S-1-5-32-545 a, b, c\n`);
    const { code, out } = await settings(file, '--account', account, '--class', 'marrowby.batchscales.1');
    expect(code).toBe(3);
    expect(out).toContain('works\\display and Batch scales:\n');
    expect(out).toContain('  launch near   may: by the own permission, entry 1 (Users)\n');
    expect(out).toContain('  launch far    may not: by the restriction, which has no entry that gives it\n');
    expect(out).toContain('  access far    is not known: the export has no default permission\n');
    const { decisions } = JSON.parse((await settings(file, '--account', account, '--json')).out) as {
      decisions: object[];
    };
    expect(decisions).toMatchObject([
      { appId, rights: [{ right: 'launch near', isAllowed: true }, {}, {}, {}, {}, {}] },
    ]);
    expect(await settings(file, '--class', 'Marrowby.Scales')).toMatchObject({
      code: 2,
      errors: 'No class in these exports goes by “Marrowby.Scales”; there are Marrowby.BatchScales.1.\n',
    });
    writeFileSync(account, 'nobody');
    expect((await settings(file, '--account', account)).code).toBe(2);
  });

  it('says at which line of which file something is wrong, and what it found all the same', async () => {
    const file = written(
      'wrong.reg',
      [`[${ole}]`, '"EnableDCOM"="Y"', '"DefaultLaunchPermission"=hex:1', 'noise'],
      'utf8',
    );
    const { code, out, errors } = await settings(file);
    expect([code, out.split('\n')[0]]).toEqual([3, 'DCOM: on']);
    expect(errors).toContain('wrong.reg, line 4: Bytes have two digits each');
    expect(errors).toContain('wrong.reg, line 5: This is no value');
  });

  it('could not run on what is no export', async () => {
    const file = join(folder, 'none.reg');
    writeFileSync(file, 'hello');
    expect(await settings(file)).toMatchObject({ code: 2, errors: expect.stringContaining('is no export') as string });
    expect((await settings()).code).toBe(2);
  });
});
