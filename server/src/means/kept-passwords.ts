import { isPlantFault, isSameTarget, passwordTargetOf } from '@loyal-hinge/core';
import type { LinkInPlant, PasswordTarget } from '@loyal-hinge/core';
import type { PasswordMove, PasswordState } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { tellHeld } from '../events/notices.js';
import { passwordOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import type { SecretTarget } from '../database/schema.js';
import { findApplication, subjectAround } from '../plant/part.js';
import { typedAgain } from '../accounts/tries/store.js';
import { pushLink, serverOfPushLink } from '../trust/lists/push-link.js';
import { wayOf } from '../trust/lists/ways.js';

/** The password of a link as far as it may be used now. */
export interface KeptPassword {
  readonly password: string | null;
  /** The target that it was given for, where that is another one; null: it may be used, or there is none. */
  readonly keptFor: PasswordTarget | null;
}

type Owner = Pick<LinkInPlant, 'link' | 'server'>;

const isPasswords = (target: SecretTarget): target is PasswordTarget => 'endpointUrl' in target;

/** Opens the password of a link only for the target that it was given for. */
export async function passwordFor(db: Queryable, secrets: SecretStore, { link, server }: Owner): Promise<KeptPassword> {
  const target = passwordTargetOf(link, server);
  const kept = target && (await secrets.findFor(db, passwordOf(link.id), target));
  if (!kept) return { password: null, keptFor: null };
  if ('secret' in kept) return { password: kept.secret, keptFor: null };
  return { password: null, keptFor: isPasswords(kept.keptFor) ? kept.keptFor : null };
}

/** Keeps the password that a person typed for a link, or for push management: it is tried, whatever became of the one before. */
export async function keepPassword(
  tx: Queryable,
  secrets: SecretStore,
  linkId: string,
  password: string,
  target: PasswordTarget,
): Promise<void> {
  await secrets.keep(tx, passwordOf(linkId), password, target);
  await typedAgain(tx, target);
  await tellHeld(tx, linkId);
}

/** A link with its server, or the push management of a server as a link; null where there is none. */
export async function passwordOwner(db: Queryable, linkId: string): Promise<Owner | null> {
  const serverId = serverOfPushLink(linkId);
  if (serverId === null) {
    const subject = await subjectAround(db, linkId);
    return isPlantFault(subject) ? null : subject;
  }
  const [server, way] = await Promise.all([findApplication(db, serverId), wayOf(db, serverId)]);
  const link = way && pushLink(way, server?.name ?? serverId);
  return link && server?.kind === 'server' ? { link, server } : null;
}

/** What is shown of a password, and where it would have to go to be used; nothing is opened for that. */
export async function shownPassword(
  db: Queryable,
  secrets: SecretStore,
  { link, server }: Owner,
): Promise<{ readonly passwordState: PasswordState; readonly passwordMoves: PasswordMove | null }> {
  const after = passwordTargetOf(link, server);
  const before = after && (await secrets.about(db, passwordOf(link.id)))?.target;
  if (!after || !before || !isPasswords(before)) return noPassword;
  return isSameTarget(before, after)
    ? { passwordState: 'kept', passwordMoves: null }
    : { passwordState: 'for another target', passwordMoves: { before, after } };
}

export const noPassword = { passwordState: 'none', passwordMoves: null } as const;
