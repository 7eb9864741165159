import { passwordTargetOf, sayPasswordTarget } from '@loyal-hinge/core';
import type { PasswordMove } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { passwordOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import { conflict } from '../http/problems.js';
import { wantsAnother } from '../proposals/wants-another.js';
import { passwordOwner } from './kept-passwords.js';

/** Lets a kept password go to another target, which nothing else does: the one who asks has seen the old and the new one. */
export class PasswordRelease {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
  ) {}

  /** @param linkId a link’s, or that of the push management of a server (`pushLinkId`) */
  async release(linkId: string, { before, after }: PasswordMove, actor: string): Promise<void> {
    const owner = await passwordOwner(this.db, linkId);
    const now = owner && passwordTargetOf(owner.link, owner.server);
    if (!now || sayPasswordTarget(now) !== sayPasswordTarget(after)) throw changedMeanwhile();
    const name = passwordOf(linkId);
    const needsAnother = await wantsAnother(this.db);
    await this.db.transaction(async (tx) => {
      if (needsAnother && (await this.secrets.about(tx, name))?.movedBy.includes(actor))
        throw conflict(
          'This plant requires another person to release the password than those who changed its target.',
          'Ask another approver, or type the password again.',
        );
      if (!(await this.secrets.move(tx, name, before, now))) throw changedMeanwhile();
      await appendAudit(tx, { actor, action: 'password released', subject: linkId, details: { before, after: now } });
    });
  }
}

const changedMeanwhile = () =>
  conflict('The target was changed by somebody else in the meantime.', 'Reload the page and look again.');
