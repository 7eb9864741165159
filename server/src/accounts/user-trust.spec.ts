import type { ServerAccess } from '@loyal-hinge/core';
import { cellOf } from './user-trust.js';

const listing = (...thumbprints: string[]): Pick<ServerAccess, 'userCertificates'> => ({
  userCertificates: thumbprints.map((thumbprint) => ({
    thumbprint,
    subject: `CN=${thumbprint}`,
    notAfter: '',
  })) as never,
});
const night = { thumbprints: ['night', 'works'], subjects: [], isWhole: true };

describe('whether a server trusts a user certificate', () => {
  it.each([
    ['not read yet', null, night, 'not known'],
    ['read before its users were looked at', { userCertificates: null }, night, 'not known'],
    ['listed', listing('night'), night, 'directly'],
    ['listed, and not kept here', listing('night'), null, 'directly'],
    ['below an authority', listing('works'), night, 'through an issuer'],
    ['nowhere', listing('other'), night, 'not at all'],
    // One above it that is not known here may be in the list.
    ['nowhere as far as is known', listing('other'), { ...night, isWhole: false }, 'not known'],
  ] as const)('%s', (_, access, certificate, standing) => {
    expect(cellOf('lehr', 'night', access, certificate as never, ['a'])).toMatchObject({ standing, linkIds: ['a'] });
  });
});
