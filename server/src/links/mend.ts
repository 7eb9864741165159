import type { Change, TrustChange } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { passwordOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { putLink } from '../plant/store.js';
import type { TrustCarrier } from '../trust/carrier.js';
import { findCertificate } from '../trust/store.js';
import type { Links } from './service.js';

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
  ) {}

  async mend(
    linkId: string,
    change: Change,
    password: string | undefined,
    actor: string,
  ): Promise<{ says: string; checkId: string }> {
    if (change.kind !== 'by-hand' && change.linkId !== linkId)
      throw invalid('The change is for another link.', [
        { place: 'change.linkId', says: 'It must be the link of the address.' },
      ]);
    const says = await this.carryOut(linkId, change, password, actor);
    const [check] = await this.links.askAfresh([linkId], actor);
    if (!check) throw notFound('link', linkId);
    return { says, checkId: check.id };
  }

  private async carryOut(linkId: string, change: Change, password: string | undefined, actor: string): Promise<string> {
    const { link, client, server } = await this.links.subject(linkId);
    const line = { actor, action: change.kind, subject: linkId };
    switch (change.kind) {
      case 'set-endpoint-url':
        if (change.before !== link.endpointUrl) throw changedMeanwhile('endpoint URL');
        await this.changed(line, { before: change.before, after: change.after }, (tx) =>
          putLink(tx, { ...link, endpointUrl: change.after }),
        );
        return `The endpoint URL is now ${change.after}.`;
      case 'pin-address':
        await this.changed(line, { before: link.pinnedAddress, after: change.after }, (tx) =>
          putLink(tx, { ...link, pinnedAddress: change.after }),
        );
        return `The link now uses the address ${change.after}.`;
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
        await this.changed(line, { userName: change.userName }, (tx) =>
          this.secrets.keep(tx, passwordOf(linkId), password),
        );
        return 'The new password is kept, encrypted.';
      case 'trust-server-certificate': {
        if (change.clientId !== client.id)
          throw invalid('The client is not this link’s.', [
            { place: 'change.clientId', says: 'It must be the client of the link.' },
          ]);
        const certificate = await findCertificate(this.db, change.thumbprint);
        if (!certificate) throw notFound('certificate', change.thumbprint);
        const details = { thumbprint: change.thumbprint, of: server.name, list: 'trusted' };
        await this.changeTrust({ ...line, subject: client.id }, details, trusting(client.id, change.thumbprint));
        return `${client.name} now trusts the certificate ${change.thumbprint} of ${server.name}.`;
      }
      case 'accept-client-certificate': {
        const details = { thumbprint: change.thumbprint, of: client.name, list: 'trusted' };
        const says = await this.changeTrust(
          { ...line, subject: server.id },
          details,
          trusting(server.id, change.thumbprint),
        );
        return `${server.name} now trusts the certificate ${change.thumbprint}. ${says}`;
      }
      case 'by-hand':
        throw conflict(
          'This is done by a person at the machine, not by the product.',
          'Do it there, then check the link again.',
        );
    }
  }

  /** Lists are changed by whichever way there is to them; a change that fails leaves its own line in the trail. */
  private async changeTrust(line: Line, details: Record<string, unknown>, change: TrustChange): Promise<string> {
    await this.changed(line, details, () => Promise.resolve());
    try {
      return (await this.carrier.change(line.subject, [change], line.actor)).says;
    } catch (error) {
      await this.changed({ ...line, action: `${line.action} failed` }, details, () => Promise.resolve());
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
    });
  }
}

interface Line {
  readonly actor: string;
  readonly action: string;
  readonly subject: string;
}

const trusting = (holderId: string, thumbprint: string): TrustChange => ({
  kind: 'list-certificate',
  holderId,
  list: 'trusted',
  thumbprint,
  until: null,
});

const changedMeanwhile = (what: string) =>
  conflict(`The ${what} was changed by somebody else in the meantime.`, 'Load the page anew and look again.');
