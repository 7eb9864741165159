import { commonName } from '../certificate.js';
import type { Certificate } from '../certificate.js';
import type { JudgedTrust } from '../plant-trust/judged-plant.js';
import type { PlantJudge } from '../plant-trust/plant-judge.js';
import type { KnownLists, TrustParty } from '../plant-trust/plant-trust.js';
import { PromisedCertificate } from '../plant-trust/promised.js';
import type { TrustChange } from '../plant-trust/trust-change.js';
import type { CertificateProblem } from '../validation/problem.js';
import { isWarning, sayProblem } from '../validation/problem.js';
import type { PlannedChange } from './planned-change.js';

/** Problems that disappear when the right thing lies in the right list. */
export const mendable: ReadonlySet<CertificateProblem['kind']> = new Set([
  'not-trusted',
  'wrong-list',
  'chain-incomplete',
  'crl-missing',
  'crl-stale',
  'crl-unreadable',
]);

/** How a certificate stands under the plant’s authority. */
interface Flaws {
  readonly isSignedByIt: boolean;
  /** Problems that trust does not mend. */
  readonly lasting: readonly CertificateProblem[];
}

/** Why an authority must sign anew for those who show a certificate, by the hosts by which they are dialled; null: it need not. */
export class RenewalReasons {
  private byParty = new WeakMap<TrustParty, Map<string | null, string | null>>();

  forget(): void {
    this.byParty = new WeakMap();
  }

  async of(party: TrustParty, host: string | null, find: () => Promise<string | null>): Promise<string | null> {
    const known = this.byParty.get(party) ?? new Map<string | null, string | null>();
    this.byParty.set(party, known);
    const before = known.get(host);
    if (before !== undefined) return before;
    const reason = await find();
    known.set(host, reason);
    return reason;
  }
}

/** Finds whom an authority must sign anew for, so that everybody shows a certificate of it. */
export class Renewals {
  private readonly judge: PlantJudge;

  /**
   * @param judged by whoever believes in promised certificates
   * @param under lists that trust the authority, with all issuers and CRLs that are known
   * @param reasons those that were found before, with the same authority, lists and judge
   */
  constructor(
    private readonly judged: JudgedTrust,
    private readonly authority: Certificate,
    private readonly under: KnownLists,
    private readonly reasons: RenewalReasons,
  ) {
    this.judge = judged.judge;
  }

  /** Everybody who is shown on a link must show a certificate of the authority, in order but for trust. */
  async wanted(): Promise<readonly PlannedChange[]> {
    const wanted: PlannedChange[] = [];
    for (const shown of this.judged.plant.parties) {
      if (!canBeGiven(shown)) continue;
      const byHost = this.linksByHost(shown);
      if (!byHost) continue;
      const linkIds: string[] = [];
      let why: string | null = null;
      for (const [host, onLinks] of byHost) {
        const reason = await this.reasons.of(shown, host, () => this.whyRenewed(shown, host));
        if (reason !== null) linkIds.push(...onLinks);
        why ??= reason;
      }
      if (why !== null) wanted.push({ change: renewing(shown, this.authority), why, linkIds });
    }
    return wanted;
  }

  /**
   * The links on which an application is shown to others, by the host by which it is dialled; null where one of the others
   * keeps lists that nobody knows: it would refuse a new certificate.
   */
  private linksByHost({ applicationId }: TrustParty): ReadonlyMap<string | null, readonly string[]> | null {
    const byHost = new Map<string | null, string[]>();
    for (const { linkId, clientId, serverId, host, secured } of this.judged.linksAt(applicationId)) {
      const [client, server] = [this.judged.partyOf(clientId), this.judged.partyOf(serverId)];
      if (!secured || !client || !server) continue;
      for (const [shown, holder, dialled] of [
        [server, client, host],
        [client, server, null],
      ] as const) {
        if (shown.applicationId !== applicationId) continue;
        if (!holder.lists) return null;
        const known = byHost.get(dialled);
        if (known) known.push(linkId);
        else byHost.set(dialled, [linkId]);
      }
    }
    return byHost;
  }

  /** Why the authority must sign anew for an application; null where what it shows is in order, or where that would not help. */
  private async whyRenewed(shown: TrustParty, host: string | null): Promise<string | null> {
    const today = await this.flaws(shown.certificate, shown.applicationUri, host);
    if (today.isSignedByIt && today.lasting.length === 0) return null;
    const after =
      shown.certificate &&
      new PromisedCertificate(shown.certificate, this.authority, shown.applicationUri, this.judged.plant.at);
    // A new certificate for the same key and the same hosts would not help.
    if ((await this.flaws(after, shown.applicationUri, host)).lasting.length > 0) return null;
    const [flaw] = today.isSignedByIt ? today.lasting : [];
    return flaw ? sayProblem(flaw) : `${commonName(this.authority.subject.text)} did not sign its certificate.`;
  }

  /** Whether the authority stands above what is shown, and what is wrong with that beside trust. */
  private async flaws(certificate: Certificate | null, applicationUri: string, host: string | null): Promise<Flaws> {
    if (!certificate) return { isSignedByIt: false, lasting: [] };
    const { path, findings } = await this.judge.certificate(this.under, certificate, applicationUri, host);
    const problems = findings.flatMap((found) => found ?? []);
    return {
      isSignedByIt: path.some((one) => one.is(this.authority)),
      lasting: problems.filter((problem) => !isWarning(problem) && !mendable.has(problem.kind)),
    };
  }
}

/** Whether there is a way to give an application a certificate: one that should answer and does not can’t be given any. */
const canBeGiven = ({ way, lists }: TrustParty): boolean => way !== 'unknown' && (way !== 'push' || lists !== null);

const renewing = ({ applicationId, certificate }: TrustParty, { thumbprint }: Certificate): TrustChange => ({
  kind: 'renew-certificate',
  applicationId,
  authority: thumbprint,
  before: certificate?.thumbprint ?? null,
});
