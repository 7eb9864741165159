import { securityPolicies } from '@loyal-hinge/core';
import type { Link, LinkInPlant } from '@loyal-hinge/core';
import { whyWithheld } from './talk.js';

const on = (identity: Link['identity']) =>
  ({
    link: { endpointUrl: 'opc.tcp://furnace:4840', pinnedAddress: null, identity },
    server: { applicationUri: 'urn:works:furnace' },
  }) as LinkInPlant;
const user = on({ kind: 'user', userName: 'display' });
const glass = { password: 'glass', keptFor: null, userCertificate: null };
const noneKept = { password: null, keptFor: null, userCertificate: null };
const none = securityPolicies.None.uri;
const open = { securityMode: 'None', securityPolicyUri: none } as const;
const secured = { securityMode: 'Sign', securityPolicyUri: securityPolicies.Basic256Sha256.uri } as const;
const plain = { securityPolicyUri: none };
const inherits = { securityPolicyUri: '' };
const encrypting = { securityPolicyUri: securityPolicies.Basic256Sha256.uri };

describe('a user certificate', () => {
  it('can’t be used where it and its key are not kept', () => {
    const room = on({ kind: 'certificate', certificate: 'control-room' });
    expect(whyWithheld(room, secured, inherits, noneKept)).toEqual({
      reason: 'no user certificate',
      name: 'control-room',
    });
  });
});

describe('a password', () => {
  it('is withheld where neither the channel nor the token’s policy would encrypt it', () => {
    expect(whyWithheld(user, open, plain, glass)).toEqual({ reason: 'password in clear' });
    expect(whyWithheld(user, open, inherits, glass)).toEqual({ reason: 'password in clear' });
  });

  it('is withheld on a signed channel whose token gives the protection up', () => {
    expect(whyWithheld(user, secured, plain, glass)).toEqual({ reason: 'password in clear' });
    expect(whyWithheld(user, { ...secured, securityMode: 'SignAndEncrypt' }, plain, glass)).toBeNull();
  });

  it('is sent where one of them does', () => {
    expect(whyWithheld(user, open, encrypting, glass)).toBeNull();
    expect(whyWithheld(user, secured, inherits, glass)).toBeNull();
  });

  it('can’t be sent where none is kept', () => {
    expect(whyWithheld(user, secured, inherits, noneKept)).toEqual({ reason: 'no password kept' });
  });

  it('is not sent to another target than it was given for', () => {
    const keptFor = {
      applicationUri: 'urn:works:furnace',
      endpointUrl: 'opc.tcp://furnace:4841',
      pinnedAddress: null,
      userName: 'display',
    };
    expect(whyWithheld(user, secured, inherits, { ...noneKept, keptFor })).toEqual({
      reason: 'kept for another target',
      keptFor,
      wanted: { ...keptFor, endpointUrl: 'opc.tcp://furnace:4840' },
    });
  });

  it('does not matter to whoever comes without a name', () => {
    expect(whyWithheld(on({ kind: 'anonymous' }), open, plain, noneKept)).toBeNull();
  });
});
