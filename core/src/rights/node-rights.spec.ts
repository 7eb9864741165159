import { refusalOf, rightBit, rightNames, rightsOn, sayRefusal } from './node-rights.js';
import type { NodeAttributes, RightName } from './node-rights.js';

const [currentRead, currentWrite, historyRead] = [1, 2, 4];
const permission = { writeAttribute: 1 << 2, writeRolePermissions: 1 << 3, read: 1 << 5, write: 1 << 6, call: 1 << 12 };
const [signingRequired, encryptionRequired] = [1, 2];

const variable = (differs: Partial<NodeAttributes> = {}): NodeAttributes => ({
  nodeClass: 'Variable',
  accessLevel: currentRead | currentWrite,
  userAccessLevel: currentRead | currentWrite,
  userPermissions: null,
  accessRestrictions: null,
  userWriteMask: 0,
  userExecutable: null,
  ...differs,
});
const named = (
  node: NodeAttributes,
  mode: 'None' | 'Sign' | 'SignAndEncrypt' = 'SignAndEncrypt',
): readonly RightName[] => rightNames.filter((name) => (rightsOn(node, mode) & rightBit(name)) !== 0);
const why = (node: NodeAttributes, name: RightName, mode: 'None' | 'Sign' = 'Sign') => refusalOf(node, name, mode)?.by;

describe('the rights on a node', () => {
  it('come from UserAccessLevel, where the server tells no permissions', () => {
    expect(named(variable())).toEqual(['read', 'write']);
    expect(named(variable({ userAccessLevel: currentRead | historyRead }))).toEqual(['read', 'read history']);
  });

  it('need a permission as well, where it does', () => {
    expect(named(variable({ userPermissions: permission.read }))).toEqual(['read']);
    expect(named(variable({ userPermissions: permission.read | permission.write }))).toEqual(['read', 'write']);
    expect(named(variable({ userAccessLevel: 0, userPermissions: permission.write }))).toEqual([]);
  });

  it('end where the channel is weaker than the node demands', () => {
    expect(named(variable({ accessRestrictions: encryptionRequired }), 'Sign')).toEqual([]);
    expect(named(variable({ accessRestrictions: encryptionRequired }))).toEqual(['read', 'write']);
    expect(named(variable({ accessRestrictions: signingRequired }), 'None')).toEqual([]);
    expect(named(variable({ accessRestrictions: signingRequired }), 'Sign')).toEqual(['read', 'write']);
  });

  it('are to call methods, and nothing else of them', () => {
    const method = variable({ nodeClass: 'Method', userAccessLevel: null, userExecutable: true });
    expect(named(method)).toEqual(['call']);
    expect(named({ ...method, userExecutable: false })).toEqual([]);
    expect(named({ ...method, userPermissions: permission.read })).toEqual([]);
  });

  it('are to change attributes and permissions only where that is told', () => {
    const all = permission.writeAttribute | permission.writeRolePermissions;
    expect(named(variable({ userAccessLevel: 0, userWriteMask: 4, userPermissions: all }))).toEqual([
      'change attributes',
      'change permissions',
    ]);
    expect(named(variable({ userAccessLevel: 0, userWriteMask: 4 }))).toEqual(['change attributes']);
    expect(named(variable({ userAccessLevel: 0 }))).toEqual([]);
  });

  it('come with what they fail at, the node itself told apart from its user', () => {
    expect(why(variable({ accessLevel: currentRead, userAccessLevel: currentRead }), 'write')).toBe('AccessLevel');
    expect(why(variable({ userAccessLevel: currentRead }), 'write')).toBe('UserAccessLevel');
    expect(why(variable({ userPermissions: permission.read }), 'write')).toBe('UserRolePermissions');
    expect(why(variable({ accessRestrictions: encryptionRequired }), 'write')).toBe('AccessRestrictions');
    expect(why(variable({ userAccessLevel: null }), 'write')).toBe('not told');
    expect(why(variable({ nodeClass: 'Object' }), 'write')).toBe('node class');
    expect(why(variable(), 'change attributes')).toBe('UserWriteMask');
    for (const by of ['AccessLevel', 'UserRolePermissions', 'not told', 'UserWriteMask'] as const)
      expect(sayRefusal({ by }, 'write')).toMatch(/\.$/);
  });
});
