import type { LinkInPlant } from '../../../plant/plant.js';
import type { CertificateProblem, CertificateProblemKind } from '../../../trust/validation/problem.js';
import type { ListWish, Remedy } from '../../../orders/change.js';
import { dayOf } from '../../../time.js';
import { cause } from '../../cause.js';
import type { Cause, CauseShape, Evidence, Sight } from '../../cause.js';
import type { FactOf } from '../../facts.js';
import type { StepId } from '../../steps.js';

/** Both certificates are judged by the same causes: the server's in step 6, the client's in step 8. */
export const certificateSteps: readonly StepId[] = ['server-certificate', 'client-certificate'];

export interface CertificateEvidence<Kind extends CertificateProblemKind> extends Evidence {
  readonly problem: Extract<CertificateProblem, { readonly kind: Kind }>;
  readonly side: CertificateSide;
}

/** Whose certificate it is, and who would have to trust it. */
export interface CertificateSide {
  readonly of: 'server' | 'client';
  readonly owner: string;
  readonly judge: string;
  /** The application whose lists would have to change. */
  readonly judgeId: string;
  readonly fact: FactOf<'certificate-validation'>;
}

/** A cause that counts as weak for as long as somebody answers for it (Part 4 §6.1.3: the error may be suppressed). */
export function waivable<Kind extends CertificateProblemKind>(shape: CauseShape<CertificateEvidence<Kind>>): Cause {
  return cause({
    ...shape,
    severityOf: ({ problem }) => (problem.waived ? 'weak' : shape.severity),
    meaning: (found, sight) => {
      const { waived } = found.problem;
      const says = shape.meaning(found, sight);
      return waived ? `${says} ${found.side.judge} skips this until ${dayOf(waived.until)}; then it is refused.` : says;
    },
  });
}

/** The first problem of a kind in the step's validation, or null. */
export function problemOf<Kind extends CertificateProblemKind>(
  sight: Sight,
  step: StepId,
  kind: Kind,
): CertificateEvidence<Kind> | null {
  const side = certificateSide(sight, step);
  const problem = side?.fact.validation.problems.find(
    (found): found is CertificateEvidence<Kind>['problem'] => found.kind === kind,
  );
  return side && problem ? { because: [side.fact], problem, side } : null;
}

/** The validation that belongs to a step, or null where none was made. */
export function certificateSide({ facts, subject }: Sight, step: StepId): CertificateSide | null {
  const of = step === 'server-certificate' ? 'server' : 'client';
  const fact = facts.all('certificate-validation').findLast((candidate) => candidate.of === of);
  return fact ? { of, ...endsOf(subject, of), fact } : null;
}

function endsOf(
  { client, server }: LinkInPlant,
  of: 'server' | 'client',
): Pick<CertificateSide, 'owner' | 'judge' | 'judgeId'> {
  return of === 'server'
    ? { owner: server.name, judge: client.name, judgeId: client.id }
    : { owner: client.name, judge: server.name, judgeId: server.id };
}

/** A remedy that changes a list of the side that judges; the product carries it out where it can reach that list. */
export const listRemedy = (
  side: CertificateSide,
  { subject }: Sight,
  wish: ListWish,
  words: Pick<Remedy, 'title' | 'before' | 'after' | 'undo'>,
): Remedy => ({
  ...words,
  target: side.judge,
  change: { kind: 'change-lists', linkId: subject.link.id, holderId: side.judgeId, wish },
  restart: false,
});
