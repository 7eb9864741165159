import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { byNumber, passwordTargetOf } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import { links } from '../database/schema.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { keepPassword, passwordFor, passwordOwner } from '../means/kept-passwords.js';
import { findApplication } from '../plant/part.js';
import { newPasswordOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import { pushLink, pushLinkId } from '../trust/lists/push-link.js';
import { wayOf } from '../trust/lists/ways.js';
import { addPassword, findPassword, forgetEarlier, noteSent, seenAccess } from './store.js';

const patienceMs = 5 * 60_000;

/** A password of an account that a work order sets. */
export interface NewPassword {
  readonly serverId: string;
  readonly userName: string;
  readonly secretId: string;
}

/** Passwords of accounts: sealed when somebody types them, opened when a work order sets them, used by all links from then on. */
export class AccountPasswords {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
  ) {}

  /** Seals a password for a work order. @throws a problem where the server does not take one of this length */
  async seal(serverId: string, userName: string, password: string, actor: string): Promise<string> {
    const server = await findApplication(this.db, serverId);
    if (server?.kind !== 'server') throw notFound('server', serverId);
    const length = (await seenAccess(this.db, [serverId])).get(serverId)?.access.passwordLength;
    if (length && (password.length < length.least || password.length > length.most))
      throw invalid(`${server.name} takes passwords of ${length.least} to ${length.most} characters.`, [
        { place: 'password', says: `This one has ${password.length}.` },
      ]);
    const id = randomUUID();
    await this.db.transaction(async (tx) => {
      await addPassword(tx, { id, serverId, userName, madeBy: actor });
      await this.secrets.keep(tx, newPasswordOf(id), password, null);
      await appendAudit(tx, { actor, action: 'new password sealed', subject: serverId, details: { userName } });
    });
    return id;
  }

  /** Opens it to be sent; that it was is noted first, so that it is known that it may hold. */
  async open({ serverId, userName, secretId }: NewPassword): Promise<string> {
    const row = await persist(patienceMs, () => findPassword(this.db, { id: secretId, serverId, userName }));
    const password = row && (await persist(patienceMs, () => this.secrets.find(this.db, newPasswordOf(secretId))));
    if (password === null)
      throw conflict('The new password of this line is not stored any more.', 'Propose the change again.');
    await persist(patienceMs, () => noteSent(this.db, secretId));
    return password;
  }

  /** The present password of push management. */
  async ofPush(serverId: string): Promise<string> {
    const owner = await passwordOwner(this.db, pushLinkId(serverId));
    const kept = owner && (await passwordFor(this.db, this.secrets, owner));
    if (!kept || kept.password === null)
      throw conflict(
        'The password of the administrator is not stored.',
        'Type it on the Trust page, under the server’s name.',
      );
    return kept.password;
  }

  /** From now on all links that sign in with the account use the password, and so does push management. @returns in words */
  async use(wanted: NewPassword, actor: string): Promise<string> {
    const password = await this.open(wanted);
    const { serverId, userName } = wanted;
    return persist(patienceMs, () =>
      this.db.transaction(async (tx) => {
        const server = await findApplication(tx, serverId);
        if (server?.kind !== 'server') throw notFound('server', serverId);
        const rows = await tx
          .select()
          .from(links)
          .where(and(eq(links.serverId, serverId), eq(links.kind, 'ua')));
        const way = await wayOf(tx, serverId);
        const ofPush = way && pushLink(way, server.name);
        const targets = [...rows, ...(ofPush ? [ofPush] : [])].flatMap((link) => {
          const target = passwordTargetOf(link, server);
          return target?.userName === userName ? [{ id: link.id, target }] : [];
        });
        for (const { id, target } of targets) await keepPassword(tx, this.secrets, id, password, target);
        await forgetEarlier(tx, this.secrets, wanted);
        const details = { userName, links: targets.map(({ id }) => id) };
        await appendAudit(tx, { actor, action: 'password of an account changed', subject: serverId, details });
        return byNumber(targets.length, '# link uses the new password now.', '# links use the new password now.');
      }),
    );
  }
}
