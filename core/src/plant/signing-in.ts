import type { LinkIdentity } from './plant.js';

/** What marks the name of a user certificate where it stands among user names; no user name may end with it. */
export const certificateMark = ' (user certificate)';

/**
 * The name under which an identity is known at a server, the same for all links that sign in alike: empty for anonymous, a
 * user name, or the name of a user certificate with its mark.
 */
export function signInNameOf(identity: LinkIdentity): string {
  switch (identity.kind) {
    case 'anonymous':
      return '';
    case 'user':
      return identity.userName;
    case 'certificate':
      return `${identity.certificate}${certificateMark}`;
  }
}

/** The name of the user certificate that stands among user names under this one; null: it is a user name. */
export const certificateNamed = (signInName: string): string | null =>
  signInName.endsWith(certificateMark) ? signInName.slice(0, -certificateMark.length) : null;

/** Such as: “display”, the user certificate “control-room”, an anonymous user. */
export function sayIdentity(identity: LinkIdentity): string {
  switch (identity.kind) {
    case 'anonymous':
      return 'an anonymous user';
    case 'user':
      return `“${identity.userName}”`;
    case 'certificate':
      return `the user certificate “${identity.certificate}”`;
  }
}
