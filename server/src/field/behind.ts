import { FactBook, valuesBehind } from '@loyal-hinge/core';
import type { Fact, LinkInPlant } from '@loyal-hinge/core';
import type { LinkDetail } from '@loyal-hinge/contract';
import type { Queryable } from '../database/database.js';
import { statedOrigins } from './origins/stated.js';

/** Each item that a link reads, with where its value comes from, and both values as the check saw them. */
export async function behindRows(
  db: Queryable,
  { link, server }: LinkInPlant,
  facts: readonly Fact[],
): Promise<LinkDetail['behind']> {
  const read = link.needs.filter(({ uses }) => uses.includes('read') || uses.includes('watch'));
  if (read.length === 0) return [];
  const paths = read.map(({ path }) => path);
  const stated = new Map((await statedOrigins(db, server.id, paths)).map((one) => [one.path, one]));
  const seen = new Map(valuesBehind(new FactBook(facts)).map((one) => [one.path, one]));
  return paths.map((path) => {
    const [known, values] = [stated.get(path), seen.get(path)];
    return {
      path,
      origin: known?.origin ?? null,
      device: known?.device ?? null,
      served: values?.served ?? null,
      atDevice: values?.atDevice ?? null,
      agrees: values?.agrees ?? null,
      mapping: values?.mapping ? { kind: 'set-mapping' as const, serverId: server.id, path, ...values.mapping } : null,
    };
  });
}
