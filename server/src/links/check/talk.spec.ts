import { securityPolicies } from '@loyal-hinge/core';
import { whyWithheld } from './talk.js';

const user = { kind: 'user', userName: 'display' } as const;
const open = { securityMode: 'None' } as const;
const secured = { securityMode: 'Sign' } as const;
const plain = { securityPolicyUri: securityPolicies.None.uri };
const inherits = { securityPolicyUri: '' };
const encrypting = { securityPolicyUri: securityPolicies.Basic256Sha256.uri };

describe('a password', () => {
  it('is withheld where neither the channel nor the token’s policy would encrypt it', () => {
    expect(whyWithheld(user, open, plain, 'glass')).toBe('password in clear');
    expect(whyWithheld(user, open, inherits, 'glass')).toBe('password in clear');
  });

  it('is sent where one of them does', () => {
    expect(whyWithheld(user, open, encrypting, 'glass')).toBeNull();
    expect(whyWithheld(user, secured, inherits, 'glass')).toBeNull();
  });

  it('can’t be sent where none is kept', () => {
    expect(whyWithheld(user, secured, inherits, null)).toBe('no password kept');
  });

  it('does not matter to whoever comes without a name', () => {
    expect(whyWithheld({ kind: 'anonymous' }, open, plain, null)).toBeNull();
  });
});
