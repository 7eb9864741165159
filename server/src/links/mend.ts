import { printedStatusCode } from '@loyal-hinge/core';
import type { Change } from '@loyal-hinge/core';
import { appendAudit } from '../audit/trail.js';
import type { Database, Queryable } from '../database/database.js';
import { passwordOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { putLink } from '../plant/store.js';
import { acceptRejected, doorWords } from '../trust/stand-in-door.js';
import { findCertificate, trust } from '../trust/store.js';
import { doorOf } from './means-of-link.js';
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
    const check = await this.links.askAfresh(linkId, actor);
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
        await this.changed(
          { ...line, subject: client.id },
          { thumbprint: change.thumbprint, of: server.name, list: 'trusted' },
          (tx) => trust(tx, client.id, 'trusted', change.thumbprint),
        );
        return `${client.name} now trusts the certificate ${change.thumbprint} of ${server.name}.`;
      }
      case 'accept-client-certificate':
        return this.acceptAtServer(server, change.thumbprint, line);
      case 'by-hand':
        throw conflict(
          'This is done by a person at the machine, not by the product.',
          'Do it there, then check the link again.',
        );
    }
  }

  private async acceptAtServer(server: { id: string; name: string }, thumbprint: string, line: Line): Promise<string> {
    const door = await doorOf(this.db, this.secrets, server.id);
    if (!door)
      throw conflict(
        `There is no way to the lists of ${server.name} from here.`,
        'Move the certificate at the machine itself, then check again.',
      );
    const details = { thumbprint, from: 'rejected', to: 'trusted', way: doorWords };
    await this.changed({ ...line, subject: server.id }, details, async () => {
      const moved = await acceptRejected(door, thumbprint).catch(() => {
        throw conflict(
          `The lists of ${server.name} can’t be reached (${printedStatusCode('BadNotConnected')}).`,
          'Look whether it runs, and try again. Nothing was changed.',
        );
      });
      if (!moved)
        throw conflict(
          'This certificate no longer lies in the rejected list.',
          'Check the link again to see what holds now.',
        );
    });
    return `${server.name} now trusts the certificate ${thumbprint}; it was moved through ${doorWords}.`;
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

const changedMeanwhile = (what: string) =>
  conflict(`The ${what} was changed by somebody else in the meantime.`, 'Load the page anew and look again.');
