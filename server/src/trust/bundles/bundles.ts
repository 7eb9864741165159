import { changedLists, decodeBase64, listsOf as listsOfParty, targetOf, isTrustChange } from '@loyal-hinge/core';
import { readPkiFolder, writePkiFolder } from '@loyal-hinge/core/bundles';
import type { PkiList } from '@loyal-hinge/core/bundles';
import type { BodyOf, ReportedBundle } from '@loyal-hinge/contract';
import { appendAudit } from '../../audit/trail.js';
import type { Database } from '../../database/database.js';
import { tellEvent } from '../../events/tell-event.js';
import { conflict, invalid, notFound } from '../../http/problems.js';
import { openLinesFor } from '../../orders/store.js';
import { wantsAnother } from '../../proposals/wants-another.js';
import { knownApplication } from '../../plant/known-application.js';
import { knownTrust } from '../known/known-trust.js';
import { listsOf, replaceLists } from '../lists/store.js';
import { noteReading } from '../lists/readings.js';
import { clientsHeld, keepCertificate, noteShown } from '../../certificates/store.js';

const listWords: Readonly<Record<PkiList, string>> = {
  own: 'own certificates',
  trusted: 'trusted certificates',
  issuers: 'issuers',
  trustedCrls: 'CRLs of the trusted list',
  issuerCrls: 'CRLs of the issuers list',
  rejected: 'set aside',
};

/** The PKI folder of an application as it shall be: its lists as they are known, with what open work orders still want. */
export async function exportedBundle(
  db: Database,
  applicationId: string,
): Promise<{ readonly name: string; readonly zip: Uint8Array }> {
  const { trust, shelf, readings } = await knownTrust(db);
  const party = trust.parties.find((one) => one.applicationId === applicationId);
  if (!party) throw notFound('application', applicationId);
  const open = (await openLinesFor(db))
    .map(({ change }) => change)
    .filter(isTrustChange)
    .filter((change) => targetOf(change) === applicationId);
  const lists = changedLists(listsOfParty(party), open, shelf);
  const ders = (parts: readonly { readonly der: Uint8Array }[]): Uint8Array[] => parts.map(({ der }) => der);
  const reading = readings.get(applicationId);
  const known = reading?.readAt
    ? `Made from its lists as they were read on ${new Date(reading.readAt).toISOString()} (${reading.by}).`
    : 'Its lists were never read: what is there today and is not in here would be lost. Add to it, do not replace.';
  const readMe = [
    `PKI folder for ${party.name} (${party.applicationUri}), in the layout of OPC 10000-12 Annex F.`,
    known,
    `${open.length} changes of open work orders are in it.`,
    'Put the folders in the place of those of the application, and restart it. Private keys are not in here and stay where they are.',
    '',
  ].join('\n');
  const zip = writePkiFolder(
    {
      own: party.certificate ? [party.certificate.der] : [],
      trusted: ders(lists.trusted),
      issuers: ders(lists.issuers),
      trustedCrls: ders(lists.trustedCrls),
      issuerCrls: ders(lists.issuerCrls),
      rejected: ders(lists.rejected),
    },
    applicationId,
    readMe,
  );
  return { name: `${applicationId}.zip`, zip };
}

/** Takes a copied PKI folder over as a report of its date. Lists that are not in it stay as they are known. */
export async function importedBundle(
  db: Database,
  applicationId: string,
  { file, copiedAt }: BodyOf<'importBundle'>,
  actor: string,
): Promise<ReportedBundle> {
  await knownApplication(db, applicationId);
  if ((await clientsHeld(db, [applicationId])).has(applicationId) && (await wantsAnother(db)))
    throw conflict(
      'Loyal Hinge holds these lists itself, and this plant requires a second person for what changes them.',
      'Propose a work order with the certificates that it shall trust.',
    );
  const read = readPkiFolder(decodeBase64(file.base64) ?? new Uint8Array());
  if (!read.ok) throw invalid(`${file.name}: ${read.says}`, [{ place: 'file', says: read.says }]);
  await db.transaction(async (tx) => {
    const known = await listsOf(tx, applicationId);
    const ders = (list: Exclude<PkiList, 'own'>): readonly Uint8Array[] =>
      read.found.has(list) ? read.folder[list] : known[list].map(({ der }) => der);
    const lists = {
      trusted: ders('trusted'),
      issuers: ders('issuers'),
      trustedCrls: ders('trustedCrls'),
      issuerCrls: ders('issuerCrls'),
      rejected: ders('rejected'),
    };
    const by = `the file ${file.name}`;
    await appendAudit(tx, {
      actor,
      action: 'lists reported',
      subject: applicationId,
      details: { by, readAt: copiedAt },
    });
    await replaceLists(tx, applicationId, lists, { actor, says: `Read from ${by}.` });
    await noteReading(tx, applicationId, { source: 'reported', by, readAt: copiedAt, fault: null, lists });
    for (const der of read.folder.own) {
      const thumbprint = await keepCertificate(tx, der);
      if (thumbprint) await noteShown(tx, applicationId, thumbprint);
    }
  });
  await tellEvent(db, { kind: 'trust-changed', applicationId });
  return {
    lists: [...read.found].map((list) => ({ list: listWords[list], count: read.folder[list].length })),
    passedOver: [...read.passedOver].slice(0, 100),
  };
}
