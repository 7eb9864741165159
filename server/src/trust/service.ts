import { counted, listed } from '@loyal-hinge/core';
import type { LinkTurn, TrustChange } from '@loyal-hinge/core';
import type { GridPage, PartiesWish, PasswordMove, TrustFinding, TrustWayBody } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { SecretStore } from '../secrets/sealing.js';
import type { EventLog } from '../events/event-log.js';
import type { Runs } from '../heavy/jobs.js';
import { invalid, notFound } from '../http/problems.js';
import type { AnswerText } from '../http/serve.js';
import { keepPassword, noPassword, passwordOwner, shownPassword } from '../means/kept-passwords.js';
import type { PasswordRelease } from '../means/password-release.js';
import { settleSecrets } from '../plant/secret-owners.js';
import { findApplication } from '../plant/part.js';
import type { TrustCarrier } from './push/carrier.js';
import { pushLinkId } from './lists/push-link.js';
import { putOff } from './views/set-aside.js';
import { forgetWay, pushedApplications, setWay } from './lists/ways.js';
import { judgeAll } from './judge-all.js';
import type { TrustJobs } from './jobs.js';

/** Who trusts whom, as it is shown; what to change, as it is planned. */
export class Trust {
  /** Applications whose lists are being read just now. */
  private readonly reading = new Set<string>();

  constructor(
    private readonly db: Database,
    private readonly secrets: SecretStore,
    private readonly release: Pick<PasswordRelease, 'release'>,
    private readonly carrier: TrustCarrier,
    private readonly events: EventLog,
    private readonly heavy: Runs<TrustJobs>,
    /** What was done may be proved by what was read. */
    private readonly afterReading: () => Promise<void>,
  ) {}

  overview = (wish: GridPage, signal: AbortSignal): Promise<AnswerText<'trust'>> =>
    this.heavy.run('trustOverview', { wish, reading: [...this.reading] }, signal);
  parties = (wish: PartiesWish, signal: AbortSignal): Promise<AnswerText<'trustParties'>> =>
    this.heavy.run('trustParties', { wish, reading: [...this.reading] }, signal);
  plans = (find: string | undefined, signal: AbortSignal): Promise<AnswerText<'trustPlans'>> =>
    this.heavy.run('trustPlans', { find }, signal);
  /** Which links turn by changes, on paper. */
  whatIf = (changes: readonly TrustChange[], signal: AbortSignal): Promise<LinkTurn[]> =>
    this.heavy.run('trustWhatIf', { changes }, signal);
  setAside = (signal: AbortSignal): Promise<AnswerText<'setAside'>> => this.heavy.run('setAside', undefined, signal);
  dismiss = (holderId: string, thumbprint: string, isDismissed: boolean, actor: string): Promise<void> =>
    putOff(this.db, holderId, thumbprint, isDismissed, actor);

  horizon = (signal: AbortSignal): Promise<AnswerText<'horizon'>> => this.heavy.run('horizon', undefined, signal);
  certificate = (thumbprint: string, signal: AbortSignal): Promise<AnswerText<'certificatePage'>> =>
    this.heavy.run('certificatePage', { thumbprint }, signal);

  async finding(signal: AbortSignal): Promise<TrustFinding> {
    await judgeAll(this.heavy, signal);
    return this.heavy.run('trustFinding', undefined, signal);
  }

  async holder(applicationId: string, signal: AbortSignal): Promise<AnswerText<'trustHolder'>> {
    const owner = await passwordOwner(this.db, pushLinkId(applicationId));
    const held = owner ? await shownPassword(this.db, this.secrets, owner) : noPassword;
    return this.heavy.run('trustHolder', { applicationId, reading: [...this.reading], held }, signal);
  }

  /** Lets the kept password of push management go to the target that it has now. */
  async releasePassword(applicationId: string, move: PasswordMove, actor: string): Promise<void> {
    await this.release.release(pushLinkId(applicationId), move, actor);
    await this.events.tell({ kind: 'trust-changed', applicationId });
  }

  async setWay(applicationId: string, body: TrustWayBody, actor: string): Promise<void> {
    const application = await findApplication(this.db, applicationId);
    if (!application) throw notFound('application', applicationId);
    if (body.way === 'push') {
      const client = await findApplication(this.db, body.clientId);
      if (application.kind !== 'server')
        throw invalid('Push management is a server’s.', [{ place: 'way', says: 'Choose files for a client.' }]);
      if (client?.kind !== 'client')
        throw invalid('Push management needs a client of the plant.', [
          { place: 'clientId', says: 'This is no client.' },
        ]);
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
          await keepPassword(tx, this.secrets, pushLinkId(applicationId), body.password, {
            applicationUri: application.applicationUri,
            endpointUrl,
            pinnedAddress: null,
            userName,
          });
      }
      await settleSecrets(tx, actor);
    });
    await this.events.tell({ kind: 'trust-changed', applicationId });
  }

  /** Begins to read all lists that can be read over push management; each tells when it is done. */
  async readAll(actor: string): Promise<readonly string[]> {
    const begun = (await pushedApplications(this.db)).filter((applicationId) => !this.reading.has(applicationId));
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
