import { changedLists, decodeBase64, listsOf, targetOf } from '@loyal-hinge/core';
import { readPkiFolder, writePkiFolder } from '@loyal-hinge/core/bundles';
import type { PkiList } from '@loyal-hinge/core/bundles';
import type { ReportedBundle } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { invalid, notFound } from '../http/problems.js';
import { openLinesFor } from '../orders/store.js';
import type { TrustCarrier } from './carrier.js';
import { knownTrust } from './known-trust.js';
import { keepCertificate, noteShown } from './store.js';

const listWords: Readonly<Record<PkiList, string>> = {
  own: 'own certificates',
  trusted: 'trusted certificates',
  issuers: 'issuers',
  trustedCrls: 'CRLs of the trusted list',
  issuerCrls: 'CRLs of the issuers list',
  rejected: 'set aside',
};

/** PKI folders that go by hand: fetched for a machine, or copied from one. */
export class Bundles {
  constructor(
    private readonly db: Database,
    private readonly carrier: TrustCarrier,
    private readonly events: EventLog,
    private readonly afterReading: () => Promise<void>,
  ) {}

  /** The lists as they shall be: as they are known, with what open work orders still want. */
  async exported(applicationId: string): Promise<{ readonly name: string; readonly zip: Uint8Array }> {
    const { trust, shelf, readings } = await knownTrust(this.db);
    const party = trust.parties.find((one) => one.applicationId === applicationId);
    if (!party) throw notFound('application', applicationId);
    const open = (await openLinesFor(this.db))
      .map(({ change }) => change)
      .filter((change) => targetOf(change) === applicationId);
    const lists = changedLists(listsOf(party), open, shelf);
    const ders = (parts: readonly { readonly der: Uint8Array }[]): Uint8Array[] => parts.map(({ der }) => der);
    const reading = readings.get(applicationId);
    const known = reading?.readAt
      ? `Made from its lists as they were read on ${new Date(reading.readAt).toISOString()} (${reading.by}).`
      : 'Its lists were never read: what lies there today and is not in here would be lost. Add to it, do not replace.';
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
  async imported(
    applicationId: string,
    file: { readonly name: string; readonly base64: string },
    copiedAt: string,
    actor: string,
  ): Promise<ReportedBundle> {
    const { trust } = await knownTrust(this.db);
    const party = trust.parties.find((one) => one.applicationId === applicationId);
    if (!party) throw notFound('application', applicationId);
    const read = readPkiFolder(decodeBase64(file.base64) ?? new Uint8Array());
    if (!read.ok) throw invalid(`${file.name}: ${read.says}`, [{ place: 'file', says: read.says }]);
    const known = listsOf(party);
    const ders = (list: Exclude<PkiList, 'own'>): readonly Uint8Array[] =>
      read.found.has(list) ? read.folder[list] : known[list].map(({ der }) => der);
    await this.carrier.report(
      applicationId,
      {
        trusted: ders('trusted'),
        issuers: ders('issuers'),
        trustedCrls: ders('trustedCrls'),
        issuerCrls: ders('issuerCrls'),
        rejected: ders('rejected'),
      },
      copiedAt,
      `the file ${file.name}`,
      actor,
    );
    for (const der of read.folder.own) {
      const thumbprint = await keepCertificate(this.db, der);
      if (thumbprint) await noteShown(this.db, applicationId, thumbprint);
    }
    await this.afterReading();
    await this.events.tell({ kind: 'trust-changed', applicationId });
    return {
      lists: [...read.found].map((list) => ({ list: listWords[list], count: read.folder[list].length })),
      passedOver: [...read.passedOver].slice(0, 100),
    };
  }
}
