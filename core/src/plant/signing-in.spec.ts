import { certificateNamed, sayIdentity, signInNameOf } from './signing-in.js';
import type { LinkIdentity } from './plant.js';

describe('the name under which a link signs in', () => {
  it.each<[LinkIdentity, string, string | null, string]>([
    [{ kind: 'anonymous' }, '', null, 'an anonymous user'],
    [{ kind: 'user', userName: 'display' }, 'display', null, '“display”'],
    [{ kind: 'certificate', certificate: 'room' }, 'room (user certificate)', 'room', 'the user certificate “room”'],
  ])('of %j is %j', (identity, name, certificate, says) => {
    expect(signInNameOf(identity)).toBe(name);
    expect(certificateNamed(name)).toBe(certificate);
    expect(sayIdentity(identity)).toBe(says);
  });
});
