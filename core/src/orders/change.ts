import type { PasswordTarget } from '../links/password-target.js';
import type { ChosenEndpoint } from '../plant/plant.js';

/** Something that can be changed to remove a cause. What is carried out by a person says so. */
export type Change =
  | { readonly kind: 'set-endpoint-url'; readonly linkId: string; readonly before: string; readonly after: string }
  | { readonly kind: 'pin-address'; readonly linkId: string; readonly before: string | null; readonly after: string }
  | {
      readonly kind: 'choose-endpoint';
      readonly linkId: string;
      readonly before: ChosenEndpoint | null;
      readonly after: ChosenEndpoint | null;
    }
  /** Put the server's certificate into the client's trusted list. */
  | {
      readonly kind: 'trust-server-certificate';
      readonly linkId: string;
      readonly clientId: string;
      readonly thumbprint: string;
    }
  /** Move the client's certificate from the server's rejected list to its trusted list. */
  | {
      readonly kind: 'accept-client-certificate';
      readonly linkId: string;
      readonly serverId: string;
      readonly thumbprint: string;
    }
  /** Changes a list of one end, by what is known of certificates and CRLs when it is carried out. */
  | { readonly kind: 'change-lists'; readonly linkId: string; readonly holderId: string; readonly wish: ListWish }
  /** Lets the kept password go to the target that the link has now. */
  | {
      readonly kind: 'release-password';
      readonly linkId: string;
      readonly before: PasswordTarget;
      readonly after: PasswordTarget;
    }
  | { readonly kind: 'set-password'; readonly linkId: string; readonly userName: string }
  | { readonly kind: 'by-hand' };

/** What a list lacks, as a validation tells it: by thumbprint where that is known, and otherwise by name and key. */
export type ListWish =
  | { readonly what: 'move-to-trusted'; readonly thumbprint: string }
  | { readonly what: 'supply-issuer'; readonly subject: string; readonly keyId: string | null }
  | { readonly what: 'trust-issuer'; readonly subject: string; readonly keyId: string | null }
  | { readonly what: 'supply-crl'; readonly issuer: string };

/** A change that removes a cause, with everything that someone working under a permit has to know beforehand. */
export interface Remedy {
  readonly title: string;
  /** The machine, application or setting that is changed. */
  readonly target: string;
  readonly before: string;
  readonly after: string;
  readonly change: Change;
  readonly restart: boolean;
  readonly undo: string;
}

type ByHand = Pick<Remedy, 'title' | 'target'> & Partial<Pick<Remedy, 'before' | 'after' | 'restart' | 'undo'>>;

/** A remedy that a person carries out at the machine. */
export function byHand({
  title,
  target,
  before = 'as it is',
  after = title,
  restart = false,
  undo = 'Set it back.',
}: ByHand): Remedy {
  return { title, target, before, after, change: { kind: 'by-hand' }, restart, undo };
}
