import { accountsOf, pausedUntil, refusedUserCodes, signInNameOf } from '@loyal-hinge/core';
import type { LinkInPlant } from '@loyal-hinge/core';
import { persist } from '../../database/database.js';
import type { Queryable } from '../../database/database.js';
import type { SignInGuard } from '../../probe/means.js';
import type { SecretStore } from '../../secrets/sealing.js';
import { noteLetIn, noteRefused, triesOf } from './store.js';

const patienceMs = 60_000;

/** Keeps count of how signing in as a link’s user goes; whoever has no password is counted, and never stopped. */
export function signInGuard(
  db: Queryable,
  secrets: SecretStore,
  { link, server }: Pick<LinkInPlant, 'link' | 'server'>,
  password: string | null,
): SignInGuard {
  const userName = signInNameOf(link.identity);
  const account = { applicationUri: accountsOf(server), userName };
  const mark = password === null ? '' : secrets.markOf(password);
  return {
    async whyPaused() {
      if (link.identity.kind !== 'user') return null;
      const tries = await triesOf(db, account, mark);
      const until = pausedUntil(tries, new Date().toISOString());
      return until === null ? null : { reason: 'refused before', code: tries.code, refusals: tries.refusals, until };
    },
    async note(code) {
      if (code === null) await persist(patienceMs, () => noteLetIn(db, account, link.id));
      else if (refusedUserCodes.has(code)) await persist(patienceMs, () => noteRefused(db, account, mark, code));
    },
  };
}
