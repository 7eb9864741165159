import { byNumber } from '../links/wording.js';
import type { Certificate, Thumbprint } from './certificate.js';
import type { Crl } from './crl.js';
import type { JudgedTrust } from './plant-trust/judged-plant.js';
import type { NeedVerdict } from './plant-trust/plant-judge.js';
import { crlsOf } from './plant-trust/plant-trust.js';
import type { PlantTrust } from './plant-trust/plant-trust.js';

const dayMs = 86_400_000;

/** Something that ends by itself: a certificate by its validity, a CRL by its next update, a waiver by its date. */
export interface Ending {
  readonly id: string;
  readonly kind: 'application' | 'authority' | 'crl' | 'waiver';
  readonly subject: string;
  /** Milliseconds since 1970. */
  readonly begins: number;
  readonly ends: number;
  /** Applications that show it, or in whose lists it lies. */
  readonly applicationIds: readonly string[];
  /** Links that fall when it ends, if nothing is done: it stands in a chain that they hang on today. */
  readonly linkIds: readonly string[];
}

/** Endings that are best renewed together: they come close after each other and take down links of the same applications. */
export interface RenewalGroup {
  readonly endingIds: readonly string[];
  readonly by: number;
  readonly says: string;
}

export interface Horizon {
  /** What ends first stands first. */
  readonly endings: readonly Ending[];
  readonly groups: readonly RenewalGroup[];
}

/**
 * What ends when, and which links each takes down.
 * @param togetherDays endings no further apart than this, of applications that share a link, belong together
 */
export async function horizonOf({ plant, needsOf }: JudgedTrust, togetherDays = 45): Promise<Horizon> {
  const endings = new Map<string, Mutable>();
  const note = (id: string, made: () => Omit<Mutable, 'applicationIds' | 'linkIds'>): Mutable => {
    const known = endings.get(id) ?? { ...made(), applicationIds: new Set<string>(), linkIds: new Set<string>() };
    endings.set(id, known);
    return known;
  };
  const certificate = (one: Certificate): Mutable => note(one.thumbprint, () => endingOf(one));
  for (const { applicationId, certificate: own, lists } of plant.parties) {
    if (own) certificate(own).applicationIds.add(applicationId);
    for (const listed of [...(lists?.trusted ?? []), ...(lists?.issuers ?? [])])
      if (listed.isAuthority) certificate(listed).applicationIds.add(applicationId);
    for (const crl of lists ? crlsOf(lists) : [])
      if (crl.nextUpdate !== null) note(crl.id, () => endingOfCrl(crl)).applicationIds.add(applicationId);
  }
  for (const verdict of await allNeeds(plant, needsOf)) {
    const { need } = verdict;
    if (verdict.result === 'unknown') continue;
    for (const one of verdict.judgement.path) endings.get(one.thumbprint)?.linkIds.add(need.link.linkId);
    for (const { waived, subject, kind } of verdict.judgement.findings.flatMap((found) => found ?? []))
      if (waived) {
        const { holder, shown, link } = need;
        const id = `waiver ${holder.applicationId} ${shown.applicationId} ${kind}`;
        const waiver = note(id, () => endingOfWaiver(id, subject, plant.at, Date.parse(waived.until)));
        waiver.applicationIds.add(holder.applicationId);
        waiver.linkIds.add(link.linkId);
      }
    if (!plant.crlsDemanded) continue;
    const issuers = verdict.judgement.path.slice(1);
    for (const crl of need.holder.lists ? crlsOf(need.holder.lists) : [])
      if (issuers.some((issuer) => issuer.subject.equals(crl.issuer)))
        endings.get(crl.id)?.linkIds.add(need.link.linkId);
  }
  const told = [...endings.values()]
    .map((ending) => ({ ...ending, applicationIds: [...ending.applicationIds], linkIds: [...ending.linkIds] }))
    .sort((left, right) => left.ends - right.ends || left.subject.localeCompare(right.subject));
  return { endings: told, groups: groupsOf(told, togetherDays * dayMs) };
}

async function allNeeds(plant: PlantTrust, needsOf: JudgedTrust['needsOf']): Promise<readonly NeedVerdict[]> {
  const found: NeedVerdict[] = [];
  for (const holder of plant.parties) found.push(...(await needsOf(holder)));
  return found;
}

type Mutable = Omit<Ending, 'applicationIds' | 'linkIds'> & {
  readonly applicationIds: Set<string>;
  readonly linkIds: Set<string>;
};

const endingOf = ({ thumbprint, isAuthority, subject, notBefore, notAfter }: Certificate) => ({
  id: thumbprint as Thumbprint,
  kind: isAuthority ? ('authority' as const) : ('application' as const),
  subject: subject.text,
  begins: notBefore,
  ends: notAfter,
});

const endingOfCrl = ({ id, issuer, thisUpdate, nextUpdate }: Crl) => ({
  id,
  kind: 'crl' as const,
  subject: issuer.text,
  begins: thisUpdate,
  ends: nextUpdate ?? Number.POSITIVE_INFINITY,
});

const endingOfWaiver = (id: string, subject: string, begins: number, ends: number) => ({
  id,
  kind: 'waiver' as const,
  subject,
  begins,
  ends,
});

/** One after the other by time: an ending joins the group before it where it comes soon after it and shares a link with it. */
function groupsOf(endings: readonly Ending[], withinMs: number): readonly RenewalGroup[] {
  const groups: Ending[][] = [];
  for (const ending of endings.filter(
    ({ kind, linkIds }) => kind !== 'crl' && kind !== 'waiver' && linkIds.length > 0,
  )) {
    const joined = groups.find((group) => {
      const [first] = group;
      return (
        first !== undefined &&
        ending.ends - first.ends <= withinMs &&
        group.some((other) => other.linkIds.some((linkId) => ending.linkIds.includes(linkId)))
      );
    });
    if (joined) joined.push(ending);
    else groups.push([ending]);
  }
  return groups.flatMap((group) => {
    const [first] = group;
    if (!first || group.length < 2) return [];
    const links = new Set(group.flatMap(({ linkIds }) => linkIds)).size;
    return [
      {
        endingIds: group.map(({ id }) => id),
        by: first.ends,
        says: byNumber(
          links,
          `${group.length} certificates of # link end close together: one visit renews them all.`,
          `${group.length} certificates of # links end close together: one visit renews them all.`,
        ),
      },
    ];
  });
}
