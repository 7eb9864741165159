import { mayActAs } from '@loyal-hinge/contract';
import type { Mended } from '@loyal-hinge/contract';
import { isSameTarget, passwordTargetOf } from '@loyal-hinge/core';
import type { Change, Link, LinkInPlant, PasswordTarget, TrustChange } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { passwordOf } from '../secrets/sealing.js';
import type { SecretStore } from '../secrets/sealing.js';
import type { Runs } from '../heavy/jobs.js';
import { conflict, invalid, mayNot, notFound } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import type { WorkOrders } from '../orders/service.js';
import { wantsAnother } from '../proposals/wants-another.js';
import { settleSecrets } from '../plant/secret-owners.js';
import { putLink } from '../plant/store.js';
import type { TrustCarrier } from '../trust/push/carrier.js';
import type { ListJobs } from '../trust/lists/jobs.js';
import { findCertificate } from '../certificates/store.js';
import { keepPassword, shownPassword } from '../means/kept-passwords.js';
import type { PasswordRelease } from '../means/password-release.js';
import type { Links } from '../links/service.js';

/**
 * Carries remedies out. Each leaves a line in the audit trail in the same transaction as the change itself,
 * and the link is checked again to prove it.
 */
export class Mending {
  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly links: Links,
    private readonly carrier: TrustCarrier,
    private readonly release: PasswordRelease,
    private readonly orders: Pick<WorkOrders, 'propose'>,
    private readonly heavy: Runs<ListJobs>,
  ) {}

  async mend(linkId: string, change: Change, password: string | undefined, actor: Actor): Promise<Mended> {
    if (change.kind !== 'by-hand' && change.linkId !== linkId)
      throw invalid('The change is for another link.', [
        { place: 'change.linkId', says: 'It must be the link of the address.' },
      ]);
    const subject = await this.links.subject(linkId);
    const wish = await this.wishOf(subject, change);
    if (wish && (await wantsAnother(this.db))) {
      const why = `Asked for on the page of ${subject.link.name}.`;
      const lines = wish.changes.map((line) => ({ change: line, why, linkIds: [linkId] }));
      const { id } = await this.orders.propose({ title: `Mend ${subject.link.name}`.slice(0, 200), lines }, actor);
      return {
        says: 'This plant requires another person to approve this: it waits as a work order.',
        checkId: null,
        orderId: id,
      };
    }
    const says = wish
      ? await this.changeTrust(change.kind, wish, actor.name)
      : await this.carryOut(subject, change, password, actor);
    const [check] = await this.links.askAfresh([linkId], actor.name);
    if (!check) throw notFound('link', linkId);
    return { says, checkId: check.id, orderId: null };
  }

  /** What a change wishes of the lists of one end; null: it is of another kind. */
  private async wishOf({ client, server }: LinkInPlant, change: Change): Promise<TrustWish | null> {
    switch (change.kind) {
      case 'trust-server-certificate': {
        if (change.clientId !== client.id)
          throw invalid('The client is not this link’s.', [
            { place: 'change.clientId', says: 'It must be the client of the link.' },
          ]);
        await this.refuseUnknown(change.thumbprint);
        return {
          holderId: client.id,
          changes: [trusting(client.id, change.thumbprint)],
          details: { thumbprint: change.thumbprint, of: server.name, list: 'trusted' },
          says: () => `${client.name} now trusts the certificate ${change.thumbprint} of ${server.name}.`,
        };
      }
      case 'change-lists':
        if (change.holderId !== client.id && change.holderId !== server.id)
          throw invalid('The lists are of neither end of this link.', [
            { place: 'change.holderId', says: 'It must be the client or the server of the link.' },
          ]);
        return {
          holderId: change.holderId,
          changes: await this.heavy.run('listChanges', { holderId: change.holderId, wish: change.wish }),
          details: { ...change.wish },
          says: (carried) => carried,
        };
      case 'accept-client-certificate': {
        if (change.serverId !== server.id)
          throw invalid('The server is not this link’s.', [
            { place: 'change.serverId', says: 'It must be the server of the link.' },
          ]);
        await this.refuseUnknown(change.thumbprint);
        return {
          holderId: server.id,
          changes: [trusting(server.id, change.thumbprint)],
          details: { thumbprint: change.thumbprint, of: client.name, list: 'trusted' },
          says: (carried) => `${server.name} now trusts the certificate ${change.thumbprint}. ${carried}`,
        };
      }
      default:
        return null;
    }
  }

  private async refuseUnknown(thumbprint: string): Promise<void> {
    if (!(await findCertificate(this.db, thumbprint))) throw notFound('certificate', thumbprint);
  }

  private async carryOut(
    subject: LinkInPlant,
    change: Change,
    password: string | undefined,
    by: Actor,
  ): Promise<string> {
    const actor = by.name;
    const { link, server } = subject;
    const linkId = link.id;
    const line = { actor, action: change.kind, subject: linkId };
    switch (change.kind) {
      case 'set-endpoint-url':
        if (change.before !== link.endpointUrl) throw changedMeanwhile('endpoint URL');
        return `The endpoint URL is now ${change.after}. ${await this.redirect(line, by, subject, { ...link, endpointUrl: change.after }, password)}`.trim();
      case 'pin-address':
        return `The link now uses the address ${change.after}. ${await this.redirect(line, by, subject, { ...link, pinnedAddress: change.after }, password)}`.trim();
      case 'choose-endpoint':
        await this.changed(line, { before: link.chosenEndpoint, after: change.after }, (tx) =>
          putLink(tx, { ...link, chosenEndpoint: change.after }),
        );
        return change.after
          ? `The link now uses ${change.after.policy} (${change.after.mode}).`
          : 'The link now uses the best endpoint that both sides have.';
      case 'set-password':
        if (password === undefined)
          throw invalid('A password is needed.', [{ place: 'password', says: 'It is missing.' }]);
        return this.setPassword(line, passwordTargetOf(link, server), password);
      case 'release-password':
        if (!mayActAs(by.role, 'approver')) throw mayNot('approver');
        await this.release.release(linkId, change, actor);
        return 'The stored password goes to the new target from now on.';
      default:
        throw conflict(
          'This is done by a person at the machine, not by Loyal Hinge.',
          'Do it there, then check the link again.',
        );
    }
  }

  /**
   * Points a link elsewhere. Its kept password goes along only where the one who does it may say so, having seen old and new;
   * a password that is typed with it belongs to the new target.
   * @returns what became of the password, in words
   */
  private async redirect(
    line: Line,
    by: Actor,
    { link, server }: LinkInPlant,
    after: Link,
    password: string | undefined,
  ): Promise<string> {
    const [old, now] = [passwordTargetOf(link, server), passwordTargetOf(after, server)];
    const maySay = mayActAs(by.role, 'approver') && !(await wantsAnother(this.db));
    const [before, goes] = [placeOf(link), placeOf(after)];
    await this.changed(line, { before, after: goes }, async (tx) => {
      await putLink(tx, after);
      if (!old || !now) return;
      if (password !== undefined) await keepPassword(tx, this.secrets, link.id, password, now);
      else if (maySay && !isSameTarget(old, now) && (await this.secrets.move(tx, passwordOf(link.id), old, now)))
        await appendAudit(tx, { ...line, action: 'password released', details: { before: old, after: now } });
    });
    const { passwordMoves } = await shownPassword(this.db, this.secrets, { link: after, server });
    if (passwordMoves === null) return '';
    return 'The stored password belongs to the old target, and is not sent until somebody types it again or an approver releases it.';
  }

  private async setPassword(line: Line, target: PasswordTarget | null, password: string): Promise<string> {
    if (!target) throw conflict('This link signs in anonymously, so it has no password.', 'Give it a user name first.');
    await this.changed(line, { target }, (tx) => keepPassword(tx, this.secrets, line.subject, password, target));
    return 'The new password is stored, encrypted, for this target alone.';
  }

  /** Lists are changed by whichever way there is to them; a change that fails leaves its own line in the trail. */
  private async changeTrust(action: string, wish: TrustWish, actor: string): Promise<string> {
    const { holderId, changes, details } = wish;
    const line = { actor, action, subject: holderId };
    await this.changed(line, details, () => Promise.resolve());
    try {
      return wish.says((await this.carrier.change(holderId, changes, actor)).says);
    } catch (error) {
      await this.changed({ ...line, action: `${action} failed` }, details, () => Promise.resolve());
      throw error;
    }
  }

  private async changed(
    line: Line,
    details: Record<string, unknown>,
    change: (tx: Queryable) => Promise<unknown>,
  ): Promise<void> {
    await this.db.transaction(async (tx) => {
      await appendAudit(tx, { ...line, details });
      await change(tx);
      await settleSecrets(tx, line.actor);
    });
  }
}

const placeOf = ({ endpointUrl, pinnedAddress }: Link) => ({ endpointUrl, pinnedAddress });

interface Line {
  readonly actor: string;
  readonly action: string;
  readonly subject: string;
}

/** What is to be changed in the lists of one end of a link. */
interface TrustWish {
  readonly holderId: string;
  readonly changes: readonly TrustChange[];
  readonly details: Record<string, unknown>;
  /** What has come of it, by what the carrier says. */
  readonly says: (carried: string) => string;
}

const trusting = (holderId: string, thumbprint: string): TrustChange => ({
  kind: 'list-certificate',
  holderId,
  list: 'trusted',
  thumbprint,
  until: null,
});

const changedMeanwhile = (what: string) =>
  conflict(`The ${what} was changed by somebody else in the meantime.`, 'Reload the page and look again.');
