import { NotRead, isList, isObject, textOf } from './syntax.js';
import type { Json, JsonObject, NftChain, NftRule, NftRuleSet, NftSet, NftTable } from './syntax.js';

const whole = 'Give the whole output of “nft -j list ruleset”.';

/** Reads the output of `nft -j list ruleset`. @throws NotRead saying what to do */
export function readNftJson(text: string): NftRuleSet {
  const made = {
    tables: [] as NftTable[],
    chains: [] as NftChain[],
    sets: [] as NftSet[],
    rules: [] as NftRule[],
    notes: [] as { line: number; says: string }[],
  };
  for (const entry of entriesIn(text)) {
    if (!isObject(entry)) throw new NotRead(0, `An entry of “nftables” is no object. ${whole}`);
    const [kind = '', body] = entryIn(entry);
    if (!isObject(body)) continue;
    const place = { family: textIn(body, 'family'), table: textIn(body, 'table'), name: textIn(body, 'name') };
    switch (kind) {
      case 'table':
        made.tables.push({
          family: place.family,
          name: place.name,
          isDormant: namesIn(body['flags']).includes('dormant'),
          /* Some versions of nft put the table’s name there. */
          hasUnknownFlags: namesIn(body['flags']).some((flag) => !knownFlags.has(flag)),
        });
        break;
      case 'chain':
        made.chains.push({ ...place, base: baseOf(body) });
        break;
      case 'set':
      case 'map':
        made.sets.push({ ...place, elements: listOf(body['elem']), isMap: kind === 'map' });
        break;
      case 'rule':
        made.rules.push({
          family: place.family,
          table: place.table,
          chain: textIn(body, 'chain'),
          text: null,
          statements: listOf(body['expr']),
          unread: null,
        });
        break;
      case 'flush':
        if ('ruleset' in body && made.tables.length === 0) break;
        throw notListed(kind);
      case 'element':
      case 'insert':
      case 'replace':
      case 'delete':
        throw notListed(kind);
      default:
    }
  }
  return made;
}

const notListed = (kind: string): NotRead =>
  new NotRead(0, `“${kind}” is a command, and no part of a listing. ${whole}`);

/** What a file adds means the same as what a listing holds. */
function entryIn(entry: JsonObject): readonly [string, Json] | readonly [] {
  const [first] = Object.entries(entry);
  if (first?.[0] === 'add' && isObject(first[1])) return Object.entries(first[1])[0] ?? [];
  return first ?? [];
}

function entriesIn(text: string): readonly Json[] {
  let read: Json;
  try {
    read = JSON.parse(text) as Json;
  } catch {
    throw new NotRead(0, `This is no JSON, or it is cut off. ${whole}`);
  }
  const entries = isObject(read) ? read['nftables'] : undefined;
  if (!isList(entries)) throw new NotRead(0, `This JSON has no list “nftables”. ${whole}`);
  return entries;
}

const textIn = (body: JsonObject, name: string): string => textOf(body[name]) ?? '';
/** One alone stands without a list. */
const listOf = (value: Json | undefined): readonly Json[] =>
  value === undefined || value === null ? [] : isList(value) ? value : [value];

const knownFlags = new Set(['dormant', 'owner', 'persist']);
const namesIn = (value: Json | undefined): readonly string[] =>
  listOf(value).filter((name) => typeof name === 'string');

function baseOf(body: JsonObject): NftChain['base'] {
  const hook = textOf(body['hook']);
  if (hook === null) return null;
  return {
    hook,
    type: textIn(body, 'type'),
    priority: typeof body['prio'] === 'number' ? body['prio'] : 0,
    policy: textOf(body['policy']) ?? 'accept',
    devices: body['dev'] === undefined && (hook === 'ingress' || hook === 'egress') ? null : namesIn(body['dev']),
  };
}
