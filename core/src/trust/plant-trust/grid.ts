import type { Certificate, Thumbprint } from '../certificate.js';
import { isWarning, sayProblem } from '../validation/problem.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import { PlantJudge } from './plant-judge.js';
import { trustNeeds } from './plant-trust.js';
import type { PlantTrust, TrustNeed, TrustParty } from './plant-trust.js';

/** How a certificate stands with an application: in its trusted list, below an authority there, in its rejected list, or nowhere. */
export const standings = ['directly', 'through an issuer', 'set aside', 'not at all', 'not known'] as const;
export type Standing = (typeof standings)[number];

export interface GridCell {
  readonly holderId: string;
  readonly thumbprint: Thumbprint;
  readonly standing: Standing;
  /** `Good`, or the status code with which the application refuses it. */
  readonly status: string;
  readonly says: string;
  /** Links that need this trust. */
  readonly linkIds: readonly string[];
}

export interface GridColumn {
  readonly thumbprint: Thumbprint;
  readonly certificate: Certificate;
  /** Applications that show it. */
  readonly shownBy: readonly string[];
}

export interface TrustGrid {
  readonly columns: readonly GridColumn[];
  /** Those that say something: needed, or somewhere in the lists. All others are nowhere, or their lists are not known. */
  readonly cells: readonly GridCell[];
}

/** Who (rows: applications) trusts whom (columns: certificates). */
export async function trustGrid(plant: PlantTrust, verifier: SignatureVerifier): Promise<TrustGrid> {
  const columns = columnsOf(plant);
  const needs = new Map<string, TrustNeed[]>();
  for (const need of trustNeeds(plant)) {
    if (!need.shown.certificate) continue;
    const key = `${need.holder.applicationId} ${need.shown.certificate.thumbprint}`;
    needs.set(key, [...(needs.get(key) ?? []), need]);
  }
  const judge = new PlantJudge(plant, verifier);
  const cells: GridCell[] = [];
  for (const holder of plant.parties)
    for (const column of columns) {
      const needed = needs.get(`${holder.applicationId} ${column.thumbprint}`) ?? [];
      const cell = await cellOf(judge, holder, column.certificate, needed);
      if (needed.length > 0 || (cell.standing !== 'not at all' && cell.standing !== 'not known')) cells.push(cell);
    }
  return { columns, cells };
}

function columnsOf({ parties }: PlantTrust): readonly GridColumn[] {
  const columns = new Map<Thumbprint, { certificate: Certificate; shownBy: string[] }>();
  const add = (certificate: Certificate): { shownBy: string[] } => {
    const known = columns.get(certificate.thumbprint) ?? { certificate, shownBy: [] };
    columns.set(certificate.thumbprint, known);
    return known;
  };
  for (const { applicationId, certificate } of parties) if (certificate) add(certificate).shownBy.push(applicationId);
  for (const { lists } of parties)
    for (const listed of [...(lists?.trusted ?? []), ...(lists?.issuers ?? []), ...(lists?.rejected ?? [])])
      add(listed);
  return [...columns].map(([thumbprint, column]) => ({ thumbprint, ...column }));
}

async function cellOf(
  judge: PlantJudge,
  holder: TrustParty,
  certificate: Certificate,
  needed: readonly TrustNeed[],
): Promise<GridCell> {
  const { lists, applicationId: holderId, name } = holder;
  const { thumbprint } = certificate;
  const cell = { holderId, thumbprint, linkIds: needed.map(({ link }) => link.linkId) };
  if (!lists)
    return { ...cell, standing: 'not known', status: '', says: `The lists of ${name} have not been read yet.` };
  const [need] = needed;
  const judged = await judge.certificate(
    lists,
    certificate,
    need?.shown.applicationUri ?? null,
    need?.host ?? null,
    holder.waivers,
  );
  const holds = (list: readonly Certificate[]): boolean => list.some((listed) => listed.is(certificate));
  const through = judged.path
    .slice(1)
    .find((issuer) => issuer.isAuthority && lists.trusted.some((trusted) => trusted.is(issuer)));
  const standing: Standing = holds(lists.trusted)
    ? 'directly'
    : through
      ? 'through an issuer'
      : holds(lists.rejected)
        ? 'set aside'
        : 'not at all';
  const found = judged.findings.flatMap((problems) => problems ?? []);
  const waived = found.filter((problem) => problem.waived);
  const problems = found.filter((problem) => !isWarning(problem) && (need || !aboutUse.has(problem.kind)));
  return {
    ...cell,
    standing,
    status: problems.length === 0 ? 'Good' : judged.status,
    says:
      problems.length > 0
        ? problems.map(sayProblem).join(' ')
        : waived.length > 0
          ? waived.map(sayProblem).join(' ')
          : through && standing !== 'directly'
            ? `Trusted below ${through.subject.text}.`
            : 'In its trusted list.',
  };
}

/** Where nobody shows the certificate to this application, its use is not the question: an authority is no application. */
const aboutUse: ReadonlySet<string> = new Set(['usage-wrong', 'host-mismatch', 'uri-mismatch']);
