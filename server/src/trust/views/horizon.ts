import { commonName, horizonOf } from '@loyal-hinge/core';
import type { Ending } from '@loyal-hinge/core';
import type { HorizonView } from '@loyal-hinge/contract';
import type { JudgedKnown } from '../known/keeper.js';

/** What ends when, with the names of what it takes down. */
export async function horizonView({ known, judged }: JudgedKnown): Promise<HorizonView> {
  const { endings, groups } = await horizonOf(judged);
  const applications = new Map([...known.applications.values()].map(({ id, name }) => [id, name] as const));
  const links = new Map(known.trust.links.map(({ linkId, name }) => [linkId, name]));
  const named = (ids: readonly string[], names: ReadonlyMap<string, string>): string[] =>
    ids.map((id) => names.get(id) ?? id);
  return {
    at: known.trust.at,
    endings: endings.map((ending) => ({
      ...ending,
      name: endingName(ending),
      applicationIds: [...ending.applicationIds],
      linkIds: [...ending.linkIds],
      applications: named(ending.applicationIds, applications),
      links: named(ending.linkIds, links),
    })),
    groups: groups.map((group) => ({ ...group, endingIds: [...group.endingIds] })),
  };
}

const prefixes: Partial<Record<Ending['kind'], string>> = { crl: 'CRL of ', waiver: 'Waiver for ' };
const endingName = ({ kind, subject }: Ending): string => `${prefixes[kind] ?? ''}${commonName(subject)}`;
