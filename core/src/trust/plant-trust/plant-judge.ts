import type { Certificate } from '../certificate.js';
import { CertificateJudge } from '../validation/judge.js';
import type { Judgement } from '../validation/judge.js';
import { KnownSignatures } from '../validation/known-signatures.js';
import { ReadTrustList } from '../validation/lists.js';
import { isWarning } from '../validation/problem.js';
import type { CertificateProblem } from '../validation/problem.js';
import type { Waiver } from '../validation/waivers.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import { crlsOf, trustNeeds } from './plant-trust.js';
import type { KnownLists, PlantTrust, TrustNeed, TrustParty } from './plant-trust.js';

/** What one application makes of another’s certificate. */
export type NeedVerdict = { readonly need: TrustNeed } & (
  | { readonly result: 'good'; readonly judgement: Judgement }
  | { readonly result: 'bad'; readonly judgement: Judgement; readonly problems: readonly CertificateProblem[] }
  | { readonly result: 'unknown'; readonly says: string }
);

/** Judges the certificates of a whole plant; each signature is verified once, whoever looks at it. */
export class PlantJudge {
  private readonly signatures: KnownSignatures;
  private readonly judges = new WeakMap<KnownLists, CertificateJudge>();

  constructor(
    private readonly rules: Pick<PlantTrust, 'crlsDemanded' | 'at'>,
    verifier: SignatureVerifier,
  ) {
    this.signatures = new KnownSignatures(verifier);
  }

  /** Every need of the plant’s links, judged. */
  async needs(plant: Pick<PlantTrust, 'parties' | 'links'>): Promise<readonly NeedVerdict[]> {
    const verdicts: NeedVerdict[] = [];
    for (const need of trustNeeds(plant)) verdicts.push(await this.need(need));
    return verdicts;
  }

  async need(need: TrustNeed): Promise<NeedVerdict> {
    const { holder, shown, host } = need;
    if (!shown.certificate)
      return { need, result: 'unknown', says: `The certificate of ${shown.name} was never seen.` };
    if (!holder.lists) return { need, result: 'unknown', says: `The lists of ${holder.name} have not been read yet.` };
    const judgement = await this.certificate(
      holder.lists,
      shown.certificate,
      shown.applicationUri,
      host,
      holder.waivers,
    );
    if (judgement.status === 'Good') return { need, result: 'good', judgement };
    const problems = judgement.findings.flatMap((found) => found ?? []).filter((problem) => !isWarning(problem));
    return { need, result: 'bad', judgement, problems };
  }

  /** One certificate against one application’s lists, all eleven steps; without a URI and host where those are null. */
  certificate(
    lists: KnownLists,
    certificate: Certificate,
    applicationUri: string | null,
    host: string | null,
    waivers: readonly Waiver[] = [],
  ): Promise<Judgement> {
    let judge = this.judges.get(lists);
    if (!judge) {
      judge = new CertificateJudge(
        new ReadTrustList(lists.trusted, lists.issuers, crlsOf(lists), lists.unreadableCrls),
        this.signatures,
      );
      this.judges.set(lists, judge);
    }
    return judge.judge({
      certificate,
      sentIssuers: [],
      at: this.rules.at,
      applicationUri,
      host,
      policy: null,
      crlsDemanded: this.rules.crlsDemanded,
      warnDays: 0,
      profile: 'application',
      waivers,
    });
  }

  /** The way from a certificate up to its root, through whatever authorities are known; leaf first. */
  async chainOf(certificate: Certificate, authorities: KnownLists): Promise<readonly Certificate[]> {
    return (await this.certificate(authorities, certificate, null, null)).path;
  }
}

/** The lists of a party, or empty ones where they are not known. */
export const listsOf = ({ lists }: Pick<TrustParty, 'lists'>): KnownLists => lists ?? emptyLists;
export const emptyLists: KnownLists = { trusted: [], issuers: [], trustedCrls: [], issuerCrls: [], rejected: [] };
