import { accountsInGroups, membersIn, serviceOf, servicesIn } from './machine-lists.js';
import { Registry } from './registry.js';
import { readSettings, writtenSettings } from './kept-settings.js';
import { dcomSettings } from './settings.js';

const machine = 'S-1-5-21-41-41-41';
const users = { Group: 'Users', GroupSid: 'S-1-5-32-545' };
const administrators = { Group: 'Administrators', GroupSid: 'S-1-5-32-544' };
const trend = { Name: 'LEHR\\trend', SID: `${machine}-1001`, PrincipalSource: 'Local' };
const settings = dcomSettings(new Registry(), [
  { name: 'LehrOpc', runsAs: '.\\opc', state: 'Stopped', startMode: 'Disabled' },
]);
const keeps = (localAccountsKeepRights: boolean | null) => ({ logon: { ...settings.logon, localAccountsKeepRights } });

describe('what a machine lists beside its registry', () => {
  it('is told apart by its columns', () => {
    const service = { Name: 'LehrOpc', StartName: '.\\opc', State: 'Running', StartMode: 'Auto' };
    expect(servicesIn([service, { ...service, Name: ' ' }])).toEqual([
      { name: 'LehrOpc', runsAs: '.\\opc', state: 'Running', startMode: 'Auto' },
    ]);
    expect([servicesIn([]), servicesIn([{ ...users, ...trend }]), membersIn([service])]).toEqual([null, null, null]);
    expect(
      membersIn([
        { ...users, ...trend },
        { ...users, ...trend, SID: 'nobody' },
      ]),
    ).toEqual([{ group: 'S-1-5-32-545', name: 'LEHR\\trend', sid: `${machine}-1001`, isLocal: true }]);
  });

  it('makes accounts of those that are in groups, and of no group in a group', () => {
    const members = membersIn([
      { ...users, ...trend },
      { ...users, Name: 'Authenticated Users', SID: 'S-1-5-11', PrincipalSource: '' },
    ]);
    expect(accountsInGroups(members ?? [], settings)).toEqual([
      {
        name: 'LEHR\\trend',
        token: {
          user: `${machine}-1001`,
          groups: ['S-1-1-0', 'S-1-5-2', 'S-1-5-11', 'S-1-5-113', 'S-1-5-32-545'],
          denyOnly: [],
        },
        label: null,
      },
    ]);
  });

  it('leaves a local administrator no administrator over the network, unless the machine keeps that right', () => {
    const tokenOf = (source: string, keepsRights: boolean | null) =>
      accountsInGroups(
        membersIn([{ ...administrators, ...trend, PrincipalSource: source }]) ?? [],
        keeps(keepsRights),
      )[0]?.token;
    expect(tokenOf('Local', null)).toMatchObject({ denyOnly: ['S-1-5-32-544'] });
    expect(tokenOf('Local', null)?.groups).not.toContain('S-1-5-32-544');
    expect(tokenOf('Local', true)).toMatchObject({ denyOnly: [] });
    expect(tokenOf('ActiveDirectory', false)?.groups).toContain('S-1-5-32-544');
  });

  it('finds the service of an application, in any letters', () => {
    expect(serviceOf(settings, { service: 'LEHROPC' })?.startMode).toBe('Disabled');
    expect([serviceOf(settings, { service: 'other' }), serviceOf(settings, { service: null })]).toEqual([null, null]);
  });

  it('is kept with the settings; what was kept before it was read has none', () => {
    expect(readSettings(writtenSettings(settings))).toEqual(settings);
    const { services: _services, impersonationLevel: _level, ...old } = writtenSettings(settings);
    expect(readSettings(old)).toMatchObject({ services: [], impersonationLevel: null });
  });
});
