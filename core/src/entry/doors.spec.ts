import { linkOf, takes } from '../testing/doors.js';
import { certificate, endpoint } from '../testing/builders.js';
import { securityPolicies } from '../ua/security-policies.js';
import { readIssuedPolicy } from '../ua/user-tokens.js';
import { doorKey, doorsOf, isWeakDoor, passageOf } from './doors.js';
import { noFloor } from './floor.js';
import type { EntryFloor } from './floor.js';
import type { EndpointDescription } from './endpoint.js';

const weaknesses = (offered: EndpointDescription, floor: Partial<EntryFloor> = {}) =>
  doorsOf([offered], { ...noFloor, ...floor }).flatMap((door) => door.weaknesses);
const good = takes('Basic256Sha256', 'SignAndEncrypt', 'UserName');

describe('the doors of a server', () => {
  it('stand once each, however many addresses they are offered at, the best first', () => {
    const elsewhere = { ...good, endpointUrl: 'opc.tcp://10.0.0.1:4840' };
    const https = { ...takes('Basic256', 'Sign', 'UserName'), endpointUrl: 'opc.https://furnace:443' };
    const none = takes('None', 'None', 'Anonymous', 'UserName');
    expect(doorsOf([none, elsewhere, good, https], noFloor).map(doorKey)).toEqual([
      'Basic256Sha256|SignAndEncrypt|UserName',
      'None|None|UserName',
      'None|None|Anonymous',
    ]);
  });

  it('say what is weak about them, and nothing of a good one', () => {
    expect(weaknesses(good)).toEqual([]);
    expect(weaknesses(takes('None', 'None', 'Anonymous'))).toEqual(['no security', 'anonymous']);
    expect(weaknesses(takes('None', 'None', 'UserName'))).toEqual(['no security', 'password in clear']);
    expect(weaknesses(takes('Basic128Rsa15', 'SignAndEncrypt', 'Certificate'))).toEqual(['deprecated policy']);
    expect(weaknesses({ ...good, securityPolicyUri: 'urn:own' })).toEqual(['unknown policy']);
    expect(weaknesses({ ...good, certificate: certificate({ keyBits: 1024 }) })).toEqual(['short key']);
    expect(weaknesses(good, { tokens: ['Certificate'] })).toEqual(['below the floor']);
  });

  it('are not weak because messages are signed only', () => {
    const [door] = doorsOf([takes('Basic256Sha256', 'Sign', 'UserName')], noFloor);
    expect([door?.weaknesses, door && isWeakDoor(door)]).toEqual([['signed only'], false]);
  });

  it('show a password in clear where the token gives up the endpoint’s protection', () => {
    const userTokens = [
      { policyId: 'user', tokenType: 'UserName' as const, securityPolicyUri: securityPolicies.None.uri },
    ];
    expect(weaknesses(endpoint('Basic256Sha256', 'Sign', { userTokens }))).toEqual([
      'password in clear',
      'signed only',
    ]);
    expect(weaknesses(endpoint('Basic256Sha256', 'SignAndEncrypt', { userTokens }))).toEqual([]);
  });

  it('say what token is wanted and who issues it, and that it can be read where nothing covers it', () => {
    const issued = readIssuedPolicy(
      'http://opcfoundation.org/UA/UserToken#JWT',
      '{"ua:authorityUrl":"https://a.example"}',
    );
    const userTokens = [{ policyId: 'jwt', tokenType: 'IssuedToken' as const, securityPolicyUri: '', issued }];
    expect(doorsOf([endpoint('None', 'None', { userTokens })], noFloor)).toMatchObject([
      {
        issued: 'a JSON Web Token of https://a.example',
        cover: 'nothing',
        weaknesses: ['no security', 'token in clear'],
      },
    ]);
    // Seen before anybody asked for that.
    const [before] = doorsOf([takes('Basic256Sha256', 'SignAndEncrypt', 'IssuedToken')], noFloor);
    expect([before?.issued, before?.weaknesses]).toEqual([null, []]);
  });
});

describe('a link', () => {
  const fault = (offered: readonly EndpointDescription[], ...link: Parameters<typeof linkOf>) =>
    passageOf(offered, linkOf(...link)).fault;

  it('gets in by the door of its own kind of user', () => {
    const { door, fault: none } = passageOf([good], linkOf('a', ['Basic256Sha256']));
    expect([door && doorKey(door), none]).toEqual(['Basic256Sha256|SignAndEncrypt|UserName', null]);
  });

  it('does not get in without an endpoint, a token, the security that it must have, or protection for its password', () => {
    expect(fault([good], 'a', ['Basic256'])).toMatch(/no endpoint in common/);
    expect(fault([good], 'a', ['Basic256Sha256'], { anonymous: true })).toMatch(/kind of user/);
    expect(fault([takes('Basic256', 'Sign', 'UserName')], 'a', ['Basic256'], { floor: 'encrypted' })).toMatch(
      /must be encrypted/,
    );
    expect(fault([takes('None', 'None', 'UserName')], 'a', ['None'])).toMatch(/in clear/);
  });
});
