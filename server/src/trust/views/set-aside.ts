import { certificateName, differencesBetween } from '@loyal-hinge/core';
import type { Certificate, TrustParty } from '@loyal-hinge/core';
import type { SetAsideEntry } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { allDismissals, dismiss } from '../lists/dismissals.js';
import { knownTrust } from '../known/known-trust.js';
import type { KnownTrust } from '../known/known-trust.js';
import { entriesOf } from '../lists/store.js';
import { unusualAbout } from '../../certificates/unusual.js';

const ofMs = (ms: number): string => new Date(ms).toISOString();

/** All certificates that lie in rejected lists, the newest first. */
export async function setAsideEntries(db: Database): Promise<SetAsideEntry[]> {
  const known = await knownTrust(db);
  const dismissals = await allDismissals(db);
  const at = new Date().toISOString();
  const found: SetAsideEntry[] = [];
  for (const party of known.trust.parties) {
    const entries = new Map(
      (await entriesOf(db, party.applicationId)).map((entry) => [`${entry.list} ${entry.thumbprint}`, entry]),
    );
    for (const certificate of party.lists?.rejected ?? []) {
      if (party.lists?.trusted.some((trusted) => trusted.is(certificate))) continue;
      const since = entries.get(`rejected ${certificate.thumbprint}`)?.since ?? at;
      const dismissed = dismissals.get(`${party.applicationId} ${certificate.thumbprint}`) ?? null;
      found.push(setAsideEntry(known, party, certificate, ofMs(Date.parse(since)), dismissed, at));
    }
  }
  return found.sort((left, right) => right.since.localeCompare(left.since) || left.holder.localeCompare(right.holder));
}

/** Puts a certificate off, or takes it up again, with its line in the trail. */
export async function putOff(
  db: Database,
  holderId: string,
  thumbprint: string,
  isDismissed: boolean,
  actor: string,
): Promise<void> {
  await db.transaction(async (tx) => {
    await appendAudit(tx, {
      actor,
      action: isDismissed ? 'set aside certificate dismissed' : 'set aside certificate looked at again',
      subject: holderId,
      details: { thumbprint },
    });
    await dismiss(tx, holderId, thumbprint, isDismissed ? actor : null);
  });
}

function setAsideEntry(
  { trust, shelf }: KnownTrust,
  holder: TrustParty,
  certificate: Certificate,
  since: string,
  dismissed: { readonly by: string; readonly at: string } | null,
  at: string,
): SetAsideEntry {
  const uris = certificate.summary.applicationUris;
  const claims = trust.parties.find(({ applicationUri }) => uris.includes(applicationUri)) ?? null;
  const issuer = [...shelf.certificates.values()].find(
    (one) =>
      one.isAuthority &&
      !one.is(certificate) &&
      one.subject.equals(certificate.issuer) &&
      one.extensions.subjectKeyId === certificate.extensions.authorityKeyId,
  );
  return {
    holderId: holder.applicationId,
    holder: holder.name,
    thumbprint: certificate.thumbprint,
    certificate: certificate.summary as SetAsideEntry['certificate'],
    since,
    claims: claims?.name ?? null,
    known: !claims?.certificate ? 'none' : claims.certificate.is(certificate) ? 'the same' : 'another',
    knownThumbprint: claims?.certificate?.thumbprint ?? null,
    differs: claims?.certificate ? [...differencesBetween(claims.certificate.summary, certificate.summary)] : [],
    issuer: issuer ? { thumbprint: issuer.thumbprint, name: certificateName(issuer) } : null,
    unusual: [...unusualAbout(certificate.summary, at)],
    blocks: trust.links
      .filter(
        ({ clientId, serverId }) =>
          claims !== null &&
          ((clientId === claims.applicationId && serverId === holder.applicationId) ||
            (serverId === claims.applicationId && clientId === holder.applicationId)),
      )
      .map(({ linkId, name }) => ({ linkId, name })),
    dismissed,
  };
}
