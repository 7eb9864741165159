import { subject } from '../testing/builders.js';
import { isSameTarget, passwordTargetOf, sayMovedTarget, sayPasswordTarget } from './password-target.js';
import type { PasswordTarget } from './password-target.js';

const { link, server } = subject({ identity: { kind: 'user', userName: 'display' } });
const target = passwordTargetOf(link, server) as PasswordTarget;

describe('the target of a password', () => {
  it('is a user at an application, by a URL and an address', () => {
    expect(sayPasswordTarget(target)).toBe(`“display” at ${link.endpointUrl} (${server.applicationUri})`);
    expect(sayPasswordTarget({ ...target, pinnedAddress: '10.0.0.7' })).toContain(', address 10.0.0.7 ');
    expect(passwordTargetOf({ ...link, identity: { kind: 'anonymous' } }, server)).toBeNull();
  });

  it.each<[string, Partial<PasswordTarget>]>([
    ['application', { applicationUri: 'urn:other' }],
    ['host', { endpointUrl: 'opc.tcp://other:4840' }],
    ['port', { endpointUrl: target.endpointUrl.replace(/:\d+$/, ':4999') }],
    ['address', { pinnedAddress: '10.0.0.66' }],
    ['user', { userName: 'root' }],
  ])('is another one where the %s is', (_what, differs) => {
    expect(isSameTarget(target, { ...target, ...differs })).toBe(false);
  });

  it('is told by what moved alone', () => {
    const moved = { ...target, pinnedAddress: '10.0.0.66', userName: 'root' };
    expect(sayMovedTarget(target, moved)).toBe(
      'the address was whichever the name leads to and is now 10.0.0.66; the user was “display” and is now “root”',
    );
  });

  it('stays the same where only letters that can’t be seen are taken out of its URL', () => {
    const endpointUrl = `${target.endpointUrl.replace('://', '://\u200b')} `;
    expect(isSameTarget(target, { ...target, endpointUrl })).toBe(true);
  });
});
