import { counted, listed, whatIf } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type {
  HolderDetail,
  HorizonView,
  SetAsideEntry,
  TrustOverview,
  TrustPlans,
  TrustWayBody,
} from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { passwordOf } from '../database/sealing.js';
import type { SecretStore } from '../database/sealing.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid, notFound } from '../http/problems.js';
import { currentAuthority } from './authorities/store.js';
import type { TrustCarrier } from './carrier.js';
import { knownTrust } from './known-trust.js';
import { backTo } from './step-back.js';
import { allCrls, historyOf } from './lists-store.js';
import { nodeVerifier } from './node-signatures.js';
import { pushLinkId } from './push-link.js';
import { putOff, setAsideEntries } from './views/set-aside.js';
import { forgetWay, setWay } from './store.js';
import { holderView } from './views/holder.js';
import { horizonView } from './views/horizon.js';
import { overviewOf } from './views/overview.js';
import { plansOf } from './views/plans.js';

/** Who trusts whom, as it is shown; what to change, as it is planned. */
export class Trust {
  /** Applications whose lists are being read just now. */
  private readonly reading = new Set<string>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly carrier: TrustCarrier,
    private readonly events: EventLog,
    /** What was done may be proved by what was read. */
    private readonly afterReading: () => Promise<void>,
  ) {}

  async overview(): Promise<TrustOverview> {
    return overviewOf(await knownTrust(this.db), this.reading);
  }

  async plans(): Promise<TrustPlans> {
    return plansOf(await knownTrust(this.db), await currentAuthority(this.db));
  }

  /** Which links turn by changes, on paper. */
  async whatIf(changes: readonly TrustChange[]) {
    const known = await knownTrust(this.db);
    return [...(await whatIf(known.trust, changes, known.shelf, nodeVerifier))];
  }

  setAside = (): Promise<SetAsideEntry[]> => setAsideEntries(this.db);
  dismiss = (holderId: string, thumbprint: string, isDismissed: boolean, actor: string): Promise<void> =>
    putOff(this.db, holderId, thumbprint, isDismissed, actor);

  async horizon(): Promise<HorizonView> {
    return horizonView(await knownTrust(this.db));
  }

  async holder(applicationId: string): Promise<HolderDetail> {
    const [known, passwordKept] = await Promise.all([
      knownTrust(this.db),
      this.secrets.has(this.db, passwordOf(pushLinkId(applicationId))),
    ]);
    return holderView(this.db, known, applicationId, this.reading, passwordKept);
  }

  /** Changes that take the lists of an application back to what they were before an entry of its history. */
  async stepBack(applicationId: string, entryId: number): Promise<readonly TrustChange[]> {
    const entry = (await historyOf(this.db, applicationId)).find(({ id }) => id === entryId);
    if (!entry) throw notFound('entry of the history', String(entryId));
    const issuers = new Map((await allCrls(this.db)).map(({ id, issuer }) => [id, issuer.key]));
    const changes = backTo(applicationId, entry, (crlId) => issuers.get(crlId));
    if (changes.length === 0)
      throw conflict('Nothing that gives trust changed in this step.', 'Choose another entry of the history.');
    return changes;
  }

  async setWay(applicationId: string, body: TrustWayBody, actor: string): Promise<void> {
    const { plant } = await knownTrust(this.db);
    const application = plant.applications.find(({ id }) => id === applicationId);
    if (!application) throw notFound('application', applicationId);
    if (body.way === 'push') {
      const client = plant.applications.find(({ id }) => id === body.clientId);
      if (application.kind !== 'server')
        throw invalid('Push management is a server’s.', [{ place: 'way', says: 'Choose files for a client.' }]);
      if (client?.kind !== 'client')
        throw invalid('The desk must be a client of the plant.', [{ place: 'clientId', says: 'This is no client.' }]);
    }
    await this.db.transaction(async (tx) => {
      const { password: _kept, ...details } = body.way === 'push' ? body : { ...body, password: undefined };
      await appendAudit(tx, { actor, action: 'way to lists set', subject: applicationId, details });
      if (body.way === 'unknown') await forgetWay(tx, applicationId);
      else if (body.way === 'files')
        await setWay(tx, { applicationId, way: 'files', clientId: null, endpointUrl: null, userName: null });
      else {
        const { clientId, endpointUrl, userName } = body;
        await setWay(tx, { applicationId, way: 'push', clientId, endpointUrl, userName });
        if (body.password !== undefined)
          await this.secrets.keep(tx, passwordOf(pushLinkId(applicationId)), body.password);
      }
    });
    await this.events.tell({ kind: 'trust-changed', applicationId });
  }

  /** Begins to read all lists that can be read over push management; each tells when it is done. */
  async readAll(actor: string): Promise<readonly string[]> {
    const { trust } = await knownTrust(this.db);
    const pushed = trust.parties.filter(({ way }) => way === 'push').map(({ applicationId }) => applicationId);
    const begun = pushed.filter((applicationId) => !this.reading.has(applicationId));
    for (const applicationId of begun) {
      this.reading.add(applicationId);
      void this.read(applicationId, actor).catch(() => undefined);
    }
    return begun;
  }

  /** Reads the lists of one server, live. */
  async read(applicationId: string, actor: string): Promise<{ applicationId: string; ok: boolean; says: string }> {
    this.reading.add(applicationId);
    try {
      const lists = await this.carrier.read(applicationId, actor);
      await this.afterReading();
      const says = `Read: ${listed([counted(lists.trusted.length, 'trusted certificate'), counted(lists.issuers.length, 'issuer'), counted(lists.trustedCrls.length + lists.issuerCrls.length, 'CRL'), `${lists.rejected.length} set aside`])}.`;
      return { applicationId, ok: true, says };
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      return { applicationId, ok: false, says: error.message };
    } finally {
      this.reading.delete(applicationId);
      await this.events.tell({ kind: 'trust-changed', applicationId });
    }
  }
}
