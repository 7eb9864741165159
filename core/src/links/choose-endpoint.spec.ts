import { endpoint, subject } from '../testing/builders.js';
import { chooseEndpoint, endpointName } from './choose-endpoint.js';

const { client } = subject(
  {},
  {
    policies: ['None', 'Basic256', 'Basic256Sha256', 'Aes256_Sha256_RsaPss'],
    modes: ['None', 'Sign', 'SignAndEncrypt'],
  },
);
const none = endpoint('None', 'None', { certificate: null });
const chosenName = (...offered: Parameters<typeof chooseEndpoint>[0]) => {
  const { chosen } = chooseEndpoint(offered, client, null);
  return chosen ? endpointName(chosen) : null;
};

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
    expect(chooseEndpoint(offered, client, { policy: 'Basic256Sha256', mode: 'Sign' }).chosen).toBe(offered[0]);
    expect(chooseEndpoint(offered, client, { policy: 'Basic256', mode: 'Sign' }).chosen).toBeNull();
  });

  it('tells of every other one why it was skipped', () => {
    const offered = [
      endpoint('Aes128_Sha256_RsaOaep', 'Sign'),
      endpoint('Basic256Sha256', 'Sign', { securityPolicyUri: 'urn:unheard-of' }),
      endpoint('Basic256Sha256', 'Sign', { endpointUrl: 'opc.https://furnace:443' }),
      endpoint('Basic256', 'Sign'),
      endpoint('Basic256Sha256', 'SignAndEncrypt'),
    ];
    const { passedOver } = chooseEndpoint(offered, client, null);
    expect(passedOver.map(({ why }) => why)).toEqual([
      'Display client does not have Aes128_Sha256_RsaOaep.',
      'The policy urn:unheard-of is not known.',
      'It is not reached by opc.tcp.',
      'A stronger one is there.',
    ]);
  });
});
