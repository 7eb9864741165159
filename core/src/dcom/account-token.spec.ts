import { readAccount } from './account-token.js';

const user = 'S-1-5-21-1004336348-1177238915-682003330-1107';
const enabled = 'Mandatory group, Enabled by default, Enabled group';
const groups = [
  ['Everyone', 'Well-known group', 'S-1-1-0', enabled],
  ['BUILTIN\\Administrators', 'Alias', 'S-1-5-32-544', 'Group used for deny only'],
  ['BUILTIN\\Users', 'Alias', 'S-1-5-32-545', enabled],
  ['Mandatory Label\\Medium Mandatory Level', 'Label', 'S-1-16-8192', ''],
] as const;
const account = {
  token: { user, groups: ['S-1-1-0', 'S-1-5-32-545'], denyOnly: ['S-1-5-32-544'] },
  label: 'S-1-16-8192',
};

describe('who somebody is, as their machine prints it', () => {
  it('is read from a table', () => {
    const text = [
      'USER INFORMATION',
      '----------------',
      '',
      'User Name        SID',
      '================ =============================================',
      `marrowby\\display ${user}`,
      '',
      'GROUP INFORMATION',
      'Group Name       Type             SID          Attributes',
      '================ ================ ============ ==========',
      ...groups.map(
        ([name, type, sid, attributes]) => `${name.padEnd(40)} ${type.padEnd(16)} ${sid.padEnd(12)} ${attributes}`,
      ),
      '',
      'PRIVILEGES INFORMATION',
      'SeChangeNotifyPrivilege Bypass traverse checking Enabled',
    ].join('\r\n');
    expect(readAccount(text)).toEqual({ name: 'marrowby\\display', ...account });
  });

  it('is read from CSV, in another language', () => {
    const inGerman = new Map<string, string>([
      [enabled, 'Verbindliche Gruppe, Standardmäßig aktiviert, Aktivierte Gruppe'],
      ['Group used for deny only', 'Gruppe, die nur für Verweigerungen gilt'],
    ]);
    const ofGroup = (attributes: string): string => inGerman.get(attributes) ?? '';
    const text = [
      '"Benutzername","SID"',
      `"marrowby\\display","${user}"`,
      '',
      '"Gruppenname","Typ","SID","Attribute"',
      ...groups.map(([name, type, sid, attributes]) => `"${name}","${type}","${sid}","${ofGroup(attributes)}"`),
    ].join('\n');
    expect(readAccount(text)).toEqual({ name: 'marrowby\\display', ...account });
  });

  it('is read from a list', () => {
    const text = [
      'User Name: marrowby\\display',
      `SID:       ${user}`,
      '',
      ...groups.flatMap(([name, type, sid, attributes]) => [
        `Group Name: ${name}`,
        `Type:       ${type}`,
        `SID:        ${sid}`,
        `Attributes: ${attributes}`,
        '',
      ]),
    ].join('\n');
    expect(readAccount(text)).toMatchObject(account);
  });

  it('is not known where no SID stands', () => {
    expect(readAccount('')).toBeNull();
    expect(readAccount('ERROR: not recognised')).toBeNull();
    expect(readAccount('S-1-5')).toBeNull();
  });
});
