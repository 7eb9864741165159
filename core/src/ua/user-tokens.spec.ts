import { securityPolicies } from './security-policies.js';
import { secretCover } from './user-tokens.js';

const uri = (name: keyof typeof securityPolicies | '') => (name === '' ? '' : securityPolicies[name].uri);
const cover = (
  policy: keyof typeof securityPolicies,
  securityMode: 'None' | 'Sign' | 'SignAndEncrypt',
  token: keyof typeof securityPolicies | '',
) => secretCover({ securityPolicyUri: uri(policy), securityMode }, { securityPolicyUri: uri(token) });

describe('a password', () => {
  it('is covered by the policy of its token, and by that of the endpoint where the token names none', () => {
    expect(cover('None', 'None', 'Basic256Sha256')).toEqual({ by: 'token', policy: securityPolicies.Basic256Sha256 });
    expect(cover('Basic256', 'Sign', '')).toEqual({ by: 'token', policy: securityPolicies.Basic256 });
  });

  it('whose token says that nothing covers it is covered by a channel that encrypts, and by no other', () => {
    expect(cover('Basic256Sha256', 'SignAndEncrypt', 'None')).toEqual({ by: 'channel' });
    expect(cover('Basic256Sha256', 'Sign', 'None')).toEqual({ by: 'nothing' });
    expect(cover('None', 'None', '')).toEqual({ by: 'nothing' });
  });

  it('is not taken as covered by a policy that is not known', () => {
    const unheardOf = { securityPolicyUri: 'urn:unheard-of' };
    expect(secretCover({ securityPolicyUri: uri('None'), securityMode: 'None' }, unheardOf)).toEqual({ by: 'nothing' });
  });
});
