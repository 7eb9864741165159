import { securityPolicies } from './security-policies.js';
import { issuedWords, readIssuedPolicy, secretCover } from './user-tokens.js';

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

describe('what a server says of issued tokens', () => {
  const jwt = 'http://opcfoundation.org/UA/UserToken#JWT';

  it.each([
    [jwt, '{"ua:authorityUrl":"https://a.example"}', 'a JSON Web Token of https://a.example'],
    [jwt, '{"ua:authorityUrl":5}', 'a JSON Web Token; who issues it is not told'],
    [jwt, '{"ua:authorityUrl', 'a JSON Web Token; who issues it is not told'],
    ['urn:own', ' opc.tcp://gds.example:4840 ', 'a token by urn:own of opc.tcp://gds.example:4840'],
    ['', '', 'a token of no profile; who issues it is not told'],
  ])('%s with %s is %s', (type, issuerEndpointUrl, words) => {
    expect(issuedWords(readIssuedPolicy(type, issuerEndpointUrl))).toBe(words);
  });

  it('is never longer than somebody reads', () => {
    const { type, issuer } = readIssuedPolicy('x'.repeat(1e6), 'y'.repeat(1e6));
    expect([type.length, issuer.length]).toEqual([300, 300]);
  });
});
