import { endpoint, subject } from '../testing/builders.js';
import { chooseEndpoint, wishOf } from './choose-endpoint.js';
import { endpointName } from './endpoint.js';
import type { EndpointDescription } from './endpoint.js';
import { noFloor } from './floor.js';
import type { EntryFloor } from './floor.js';
import type { Link } from '../plant/plant.js';
import type { UserTokenPolicy } from '../ua/user-tokens.js';

const { client, link } = subject(
  {},
  {
    policies: ['None', 'Basic256', 'Basic256Sha256', 'Aes256_Sha256_RsaPss'],
    modes: ['None', 'Sign', 'SignAndEncrypt'],
  },
);
const none = endpoint('None', 'None', { certificate: null });
const choice = (
  offered: readonly EndpointDescription[],
  differs: Partial<Link> = {},
  floor: Partial<EntryFloor> = {},
) => chooseEndpoint(offered, wishOf({ client, link: { ...link, ...differs } }, { ...noFloor, ...floor }));
const chosenName = (...offered: readonly EndpointDescription[]) => {
  const { chosen } = choice(offered);
  return chosen ? endpointName(chosen) : null;
};
const takes = (...tokenTypes: readonly UserTokenPolicy['tokenType'][]) => ({
  userTokens: tokenTypes.map((tokenType) => ({ policyId: tokenType, tokenType, securityPolicyUri: '' })),
});

describe('the endpoint that a link takes', () => {
  it('is encrypted rather than signed, and signed rather than open', () => {
    expect(
      chosenName(none, endpoint('Aes256_Sha256_RsaPss', 'Sign'), endpoint('Basic256Sha256', 'SignAndEncrypt')),
    ).toBe('Basic256Sha256 (SignAndEncrypt)');
    expect(chosenName(none, endpoint('Basic256Sha256', 'Sign'))).toBe('Basic256Sha256 (Sign)');
    expect(chosenName(none)).toBe('no security');
  });

  it('has the strongest policy, and a deprecated one only where nothing else is', () => {
    expect(chosenName(endpoint('Basic256Sha256', 'Sign'), endpoint('Aes256_Sha256_RsaPss', 'Sign'))).toBe(
      'Aes256_Sha256_RsaPss (Sign)',
    );
    expect(chosenName(endpoint('Basic256', 'Sign'), endpoint('Basic256Sha256', 'Sign'))).toBe('Basic256Sha256 (Sign)');
    expect(chosenName(endpoint('Basic256', 'Sign'))).toBe('Basic256 (Sign)');
  });

  it('does not depend on the order in which the server lists them', () => {
    const offered = [none, endpoint('Basic256', 'SignAndEncrypt'), endpoint('Basic256Sha256', 'SignAndEncrypt')];
    expect(chosenName(...offered)).toBe(chosenName(...[...offered].reverse()));
  });

  it('is the one that a person chose, or none', () => {
    const offered = [endpoint('Basic256Sha256', 'Sign'), endpoint('Basic256Sha256', 'SignAndEncrypt')];
    expect(choice(offered, { chosenEndpoint: { policy: 'Basic256Sha256', mode: 'Sign' } }).chosen).toBe(offered[0]);
    expect(choice(offered, { chosenEndpoint: { policy: 'Basic256', mode: 'Sign' } }).chosen).toBeNull();
  });

  it('tells of every other one why it was skipped', () => {
    const offered = [
      endpoint('Aes128_Sha256_RsaOaep', 'Sign'),
      endpoint('Basic256Sha256', 'Sign', { securityPolicyUri: 'urn:unheard-of' }),
      endpoint('Basic256Sha256', 'Sign', { endpointUrl: 'opc.https://furnace:443' }),
      endpoint('Basic256', 'Sign'),
      endpoint('Basic256Sha256', 'SignAndEncrypt'),
    ];
    const { passedOver } = choice(offered);
    expect(passedOver.map(({ why }) => why)).toEqual([
      'Display client does not have Aes128_Sha256_RsaOaep.',
      'The policy urn:unheard-of is not known.',
      'It is not reached by opc.tcp.',
      'A stronger one is there.',
    ]);
  });

  it('is one that lets the identity in, where a secured one does', () => {
    const stronger = endpoint('Aes256_Sha256_RsaPss', 'SignAndEncrypt', takes('Certificate'));
    const weaker = endpoint('Basic256', 'Sign', takes('UserName'));
    const { chosen, token, passedOver } = choice([stronger, weaker]);
    expect([chosen, token?.tokenType]).toEqual([weaker, 'UserName']);
    expect(passedOver).toEqual([{ endpoint: stronger, why: 'It does not take user name and password.' }]);
  });

  it('is never one without security because of who is let in there', () => {
    const secured = endpoint('Basic256', 'Sign', takes('Certificate'));
    const { chosen, token } = choice([endpoint('None', 'None', takes('UserName')), secured]);
    expect([chosen, token]).toEqual([secured, null]);
  });

  it('is none that is below the floor, in policy, mode or key', () => {
    const why = (offered: EndpointDescription, floor: Partial<EntryFloor>) => {
      const { chosen, passedOver } = choice([offered], {}, floor);
      return chosen ? null : passedOver[0]?.why;
    };
    const signed = endpoint('Basic256', 'Sign');
    expect(why(signed, { policy: 'Basic256' })).toBeNull();
    expect(why(signed, { policy: 'Aes128_Sha256_RsaOaep' })).toBe(
      'The plant accepts no policy below Aes128_Sha256_RsaOaep.',
    );
    expect(why(signed, { mode: 'Sign' })).toBeNull();
    expect(why(signed, { mode: 'SignAndEncrypt' })).toBe('The plant accepts no mode below SignAndEncrypt.');
    expect(why(signed, { keyBits: 2048 })).toBeNull();
    expect(why(signed, { keyBits: 3072 })).toBe('The plant accepts no RSA key below 3072 bits; the server’s has 2048.');
  });

  it('lets nobody in by a kind of user that is below the floor', () => {
    const offered = [endpoint('Basic256Sha256', 'Sign', takes('UserName', 'Certificate'))];
    expect(choice(offered, {}, { tokens: ['UserName'] }).token?.tokenType).toBe('UserName');
    expect(choice(offered, {}, { tokens: ['Certificate'] })).toMatchObject({ chosen: offered[0], token: null });
  });
});
