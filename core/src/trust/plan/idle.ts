import type { Certificate, Thumbprint } from '../certificate.js';
import type { NeedVerdict } from '../plant-trust/plant-judge.js';
import type { TrustParty } from '../plant-trust/plant-trust.js';

/** Whether a certificate may be what an application shows that nobody has seen yet, or above it. */
export const mayServe = ({ isAuthority, summary }: Certificate, { applicationUri }: TrustParty): boolean =>
  isAuthority || summary.applicationUris.includes(applicationUri);

/** The trusted certificates of an application that none of its needs hangs on. */
export function idleIn({ lists }: TrustParty, needs: readonly NeedVerdict[]): readonly Certificate[] {
  const used = new Set<Thumbprint>();
  for (const verdict of needs)
    if (verdict.result !== 'unknown') for (const one of verdict.judgement.path) used.add(one.thumbprint);
  const unseen = needs.filter(({ result }) => result === 'unknown').map(({ need }) => need.shown);
  return (lists?.trusted ?? []).filter(
    (certificate) => !used.has(certificate.thumbprint) && !unseen.some((shown) => mayServe(certificate, shown)),
  );
}
