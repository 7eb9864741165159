import { byNumber, counted, listed } from '../links/wording.js';
import { usualRules } from '../links/cause.js';
import { dayOf } from '../time.js';
import type { Instant } from '../time.js';
import type { ServerUser } from './role-set.js';

/** A link that signs in with an account. */
export interface AccountLink {
  readonly id: string;
  readonly name: string;
  readonly clientId: string;
  readonly client: string;
  /** A digest that is the same for the same password; null: none is kept, or the link has no use for it. */
  readonly passwordMark: string | null;
}

/** A user name at a server, or nobody’s, with all that is known of it. */
export interface Account {
  /** null: anonymous. */
  readonly userName: string | null;
  readonly links: readonly AccountLink[];
  /** The user certificate by which it signs in; null: it is no certificate. */
  readonly certificate: AccountCertificate | null;
  /** Signs in to administer the server, for this product. */
  readonly administers: boolean;
  /** As the server keeps the user; null: it has no such user, or its users are not known. */
  readonly user: ServerUser | null;
  readonly areUsersKnown: boolean;
  readonly signedInAt: Instant | null;
  /** Refusals in a row since then. */
  readonly refusals: number;
  /** Other servers at which the same password is used. */
  readonly sameElsewhere: readonly string[];
}

/** A user certificate as far as an account hangs on it. */
export interface AccountCertificate {
  /** Whether the server trusts it; null: that is not known. */
  readonly isTrusted: boolean | null;
  /** null: it is not stored here. */
  readonly validity: { readonly notBefore: Instant; readonly notAfter: Instant } | null;
}

/** What is wrong with an account, the gravest first. */
export const accountWeaknesses = [
  'refused',
  'certificate not stored',
  'certificate out of date',
  'certificate not trusted',
  'not at the server',
  'disabled',
  'certificate ends soon',
  'first password',
  'passwords differ',
  'never signed in',
  'shared',
  'same password elsewhere',
  'not used',
] as const;
export type AccountWeakness = (typeof accountWeaknesses)[number];

/** A weakness in words, and how grave it is. */
export interface SaidWeakness {
  readonly kind: AccountWeakness;
  readonly grade: 'fails' | 'weak' | 'slight';
  readonly says: string;
}

const judges: Readonly<Record<AccountWeakness, (account: Account, now: Instant) => Omit<SaidWeakness, 'kind'> | null>> =
  {
    refused: ({ refusals }) =>
      refusals === 0
        ? null
        : {
            grade: 'fails',
            says: byNumber(
              refusals,
              'The server refused it when it was tried last.',
              'The server refused it # times in a row.',
            ),
          },
    'certificate not stored': ({ certificate, links }) =>
      certificate?.validity === null && links.length > 0
        ? { grade: 'fails', says: 'Links sign in with it, and its certificate and key are not stored here.' }
        : null,
    'certificate out of date': ({ certificate, links }, now) => {
      if (!certificate?.validity || links.length === 0) return null;
      const { notBefore, notAfter } = certificate.validity;
      if (Date.parse(notAfter) < Date.parse(now)) return { grade: 'fails', says: `It expired on ${dayOf(notAfter)}.` };
      return Date.parse(notBefore) > Date.parse(now)
        ? { grade: 'fails', says: `It is valid only from ${dayOf(notBefore)}.` }
        : null;
    },
    'certificate not trusted': ({ certificate, links }) =>
      certificate?.isTrusted === false && links.length > 0
        ? { grade: 'fails', says: 'The server does not trust it as the certificate of a user.' }
        : null,
    'certificate ends soon': ({ certificate, links }, now) => {
      if (!certificate?.validity || links.length === 0) return null;
      const days = Math.floor((Date.parse(certificate.validity.notAfter) - Date.parse(now)) / dayMs);
      return days >= 0 && days < usualRules.expiresSoonDays
        ? { grade: 'weak', says: `It expires in ${counted(days, 'day')}.` }
        : null;
    },
    'not at the server': ({ links, areUsersKnown, user, userName, certificate }) =>
      userName === null || certificate || links.length === 0 || !areUsersKnown || user
        ? null
        : { grade: 'fails', says: 'Links use it, and the server has no such user.' },
    disabled: ({ user, links }) =>
      user?.flags.includes('Disabled') && links.length > 0
        ? { grade: 'fails', says: 'Links use it, and it is disabled at the server.' }
        : null,
    'first password': ({ user }) =>
      user?.flags.includes('MustChangePassword')
        ? { grade: 'weak', says: 'It still has the password that it was given first.' }
        : null,
    'passwords differ': ({ links }) => {
      const marks = new Set(links.flatMap(({ passwordMark }) => passwordMark ?? []));
      return marks.size < 2
        ? null
        : { grade: 'weak', says: `Its links store ${marks.size} different passwords; one at most is right.` };
    },
    'never signed in': ({ userName, links, signedInAt }) =>
      userName === null || links.length === 0 || signedInAt !== null
        ? null
        : { grade: 'slight', says: 'It was never let in from here.' },
    shared: ({ userName, links }) => {
      const clients = [...new Map(links.map(({ clientId, client }) => [clientId, client])).values()];
      return userName === null || clients.length < 2
        ? null
        : { grade: 'slight', says: `${counted(clients.length, 'client')} share it: ${named(clients)}.` };
    },
    'same password elsewhere': ({ sameElsewhere }) =>
      sameElsewhere.length === 0
        ? null
        : {
            grade: 'slight',
            says:
              sameElsewhere.length > mostNamed
                ? `The same password is used at ${sameElsewhere.length} other servers.`
                : `The same password is used at ${listed(sameElsewhere)}.`,
          },
    'not used': ({ userName, links, administers, user }) =>
      userName === null || links.length > 0 || administers || !user || user.flags.includes('Disabled')
        ? null
        : { grade: 'slight', says: 'No link of the plant uses it.' },
  };

const dayMs = 86_400_000;
const mostNamed = 3;

function named(names: readonly string[]): string {
  const more = names.length - mostNamed;
  return listed(more > 0 ? [...names.slice(0, mostNamed), `${more} more`] : names);
}

/** What is wrong with an account; nothing where all is well. */
export const weaknessesOfAccount = (account: Account, now: Instant): readonly SaidWeakness[] =>
  accountWeaknesses.flatMap((kind) => {
    const told = judges[kind](account, now);
    return told ? [{ kind, ...told }] : [];
  });
