import { counted, listed } from '../links/wording.js';
import type { Plant } from './plant.js';

const parts = [
  ['zones', 'zone'],
  ['machines', 'machine'],
  ['applications', 'application'],
  ['links', 'link'],
] as const;
const mostNamed = 8;

/** What one plant has that another has not, or has otherwise, in a line for each kind of part and change. */
export function plantDifference(before: Plant, after: Plant): string[] {
  const lines = parts.flatMap(([part, word]) => {
    const [old, fresh] = [byId(before[part]), byId(after[part])];
    const added = [...fresh.values()].filter(({ id }) => !old.has(id));
    const removed = [...old.values()].filter(({ id }) => !fresh.has(id));
    const changed = [...fresh.values()].filter((row) => old.has(row.id) && written(row) !== written(old.get(row.id)));
    return [
      ...said('New', word, added),
      ...said('Gone', word, removed),
      ...said(
        'Changed',
        word,
        changed.map((row) => named(old.get(row.id) ?? row, row)),
      ),
    ];
  });
  const renamed =
    before.name === after.name ? [] : [`The plant is called ${after.name}, and no longer ${before.name}.`];
  return lines.length + renamed.length === 0 ? ['Nothing would be other than now.'] : [...renamed, ...lines];
}

const fieldWords: Readonly<Record<string, string>> = {
  name: 'name',
  order: 'order',
  zoneId: 'zone',
  description: 'description',
  hostNames: 'host names',
  addresses: 'addresses',
  machineId: 'machine',
  kind: 'kind',
  applicationUri: 'application URI',
  ports: 'ports',
  securityPolicies: 'security policies',
  securityModes: 'security modes',
  clientId: 'client',
  serverId: 'server',
  endpointUrl: 'endpoint URL',
  pinnedAddress: 'pinned address',
  chosenEndpoint: 'chosen endpoint',
  needs: 'needed items',
  identity: 'user',
  floor: 'least security',
  staleAfterMs: 'age at which values are stale',
};

/** A row with its name, and in what it differs. */
function named(before: Row, after: Row): Row {
  const [old, fresh] = [new Map(Object.entries(before)), new Map(Object.entries(after))];
  const differing = [...new Set([...old.keys(), ...fresh.keys()])].filter(
    (key) => written(old.get(key) ?? null) !== written(fresh.get(key) ?? null),
  );
  return { id: after.id, name: `${after.name} (${differing.map((key) => fieldWords[key] ?? key).join(', ')})` };
}

type Row = { readonly id: string; readonly name: string };

const byId = (rows: readonly Row[]): ReadonlyMap<string, Row> => new Map(rows.map((row) => [row.id, row]));

/** Fields in one order, so that the same row is written the same way. */
const written = (row: unknown): string =>
  JSON.stringify(row, (_key, value: unknown) =>
    value !== null && typeof value === 'object' && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([one], [other]) => (one < other ? -1 : 1)))
      : value,
  );

function said(how: string, word: string, rows: readonly Row[]): string[] {
  if (rows.length === 0) return [];
  const named = rows.slice(0, mostNamed).map(({ name }) => name);
  const more = rows.length - named.length;
  return [`${how}: ${counted(rows.length, word)}: ${listed(more > 0 ? [...named, `${more} more`] : named)}.`];
}
