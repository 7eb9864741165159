import type { Certificate, Thumbprint } from '../certificate.js';
import { isWarning, sayProblem } from '../validation/problem.js';
import type { SignatureVerifier } from '../x509/signatures.js';
import { JudgeMemory } from './judged-plant.js';
import type { JudgedTrust } from './judged-plant.js';
import type { NeedVerdict, PlantJudge } from './plant-judge.js';
import type { PlantTrust, TrustParty } from './plant-trust.js';

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

/**
 * Who (rows: applications) trusts whom (columns: certificates). Pairs are judged that exist: what a link needs, and what lies
 * in a list.
 */
export async function trustGrid(plant: PlantTrust, verifier: SignatureVerifier): Promise<TrustGrid> {
  const judged = new JudgeMemory(verifier).of(plant);
  const cells: GridCell[] = [];
  for (const holder of plant.parties) cells.push(...(await cellsOf(judged, holder)));
  return { columns: columnsOf(plant.parties), cells };
}

/** The cells of one application: everything that it needs, and everything that lies in its lists. */
export async function cellsOf({ judge, needsOf }: JudgedTrust, holder: TrustParty): Promise<readonly GridCell[]> {
  const needed = new Map<Thumbprint, NeedVerdict[]>();
  for (const verdict of await needsOf(holder)) {
    const { certificate } = verdict.need.shown;
    if (!certificate) continue;
    const known = needed.get(certificate.thumbprint);
    if (known) known.push(verdict);
    else needed.set(certificate.thumbprint, [verdict]);
  }
  const cells: GridCell[] = [];
  for (const [, verdicts] of needed) {
    const certificate = verdicts[0]?.need.shown.certificate;
    if (certificate) cells.push(await cellOf(judge, holder, certificate, verdicts));
  }
  for (const certificate of listedIn(holder)) {
    if (needed.has(certificate.thumbprint)) continue;
    needed.set(certificate.thumbprint, []);
    const cell = await cellOf(judge, holder, certificate, []);
    if (cell.standing !== 'not at all') cells.push(cell);
  }
  return cells;
}

const listedIn = ({ lists }: TrustParty): readonly Certificate[] =>
  lists ? [...lists.trusted, ...lists.issuers, ...lists.rejected] : [];

/** The certificates that some applications show or list, each once. */
function columnsOf(parties: readonly TrustParty[]): readonly GridColumn[] {
  const columns = new Map<Thumbprint, { certificate: Certificate; shownBy: string[] }>();
  const add = (certificate: Certificate): { shownBy: string[] } => {
    const known = columns.get(certificate.thumbprint) ?? { certificate, shownBy: [] };
    columns.set(certificate.thumbprint, known);
    return known;
  };
  for (const { applicationId, certificate } of parties) if (certificate) add(certificate).shownBy.push(applicationId);
  for (const party of parties) for (const listed of listedIn(party)) add(listed);
  return [...columns].map(([thumbprint, column]) => ({ thumbprint, ...column }));
}

async function cellOf(
  judge: PlantJudge,
  holder: TrustParty,
  certificate: Certificate,
  needed: readonly NeedVerdict[],
): Promise<GridCell> {
  const { lists, applicationId: holderId, name } = holder;
  const { thumbprint } = certificate;
  const cell = { holderId, thumbprint, linkIds: needed.map(({ need }) => need.link.linkId) };
  if (!lists)
    return { ...cell, standing: 'not known', status: '', says: `The lists of ${name} have not been read yet.` };
  const [first] = needed;
  const need = first?.need;
  const judged =
    first && first.result !== 'unknown'
      ? first.judgement
      : await judge.certificate(lists, certificate, null, null, holder.waivers);
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
