import type { Choosable } from '@loyal-hinge/contract';
import type { Application, Link, Machine, NeededItem, Zone } from '@loyal-hinge/core';
import { itemUses, securityFloors, securityModes, securityPolicyNames } from '@loyal-hinge/core';
import type { Choice } from '../forms/choose';
import type { Choices, PlantPart, PlantRow } from './state';

/** One field of a form: every value is a text, or a list of texts. */
export interface Field {
  readonly key: string;
  readonly label: string;
  readonly hint?: string;
  readonly kind: 'text' | 'lines' | 'one of' | 'some of';
  readonly options?: readonly Choice[];
  /** Shown only where another field has this value. */
  readonly when?: { readonly key: string; readonly is: string };
  readonly fixed?: boolean;
  /** There are more than are offered: they are looked for by words. */
  readonly many?: Choosable | undefined;
}

/** What a form offers for choosing. */
export interface Offered {
  readonly zones: readonly Zone[];
  readonly choices: Choices;
  /** What the row that is changed has chosen already, by its name. */
  readonly known: readonly Choice[];
}

/** Of so many one is found by looking through them. */
const many = 60;

export type Draft = Readonly<Record<string, string | readonly string[]>>;

const option = (key: string, word = key): Choice => ({ key, word });
const idField = (isNew: boolean): Field => ({
  key: 'id',
  label: 'Id',
  kind: 'text',
  fixed: !isNew,
  hint: 'Small letters, digits and hyphens; it stands in addresses and files.',
});
const nameField: Field = { key: 'name', label: 'Name', kind: 'text' };

/** The fields of a form for a part of the plant. */
export function fieldsOf(part: PlantPart, offered: Offered, isNew: boolean): readonly Field[] {
  const id = idField(isNew);
  switch (part) {
    case 'zones':
      return [
        nameField,
        id,
        { key: 'order', label: 'Position', kind: 'text', hint: 'From the process outwards: 1, 2, 3 …' },
      ];
    case 'machines':
      return [
        nameField,
        id,
        {
          key: 'zoneId',
          label: 'Zone',
          kind: 'one of',
          options: offered.zones.map((zone) => option(zone.id, zone.name)),
        },
        { key: 'description', label: 'Description', kind: 'text' },
        { key: 'hostNames', label: 'Host names', kind: 'lines', hint: 'One a line.' },
        {
          key: 'addresses',
          label: 'Addresses',
          kind: 'lines',
          hint: 'One a line; the first is the one that it calls from.',
        },
      ];
    case 'applications':
      return [
        nameField,
        id,
        {
          key: 'machineId',
          label: 'Machine',
          kind: 'one of',
          ...chosenFrom('machines', offered),
        },
        { key: 'applicationUri', label: 'Application URI', kind: 'text' },
        { key: 'kind', label: 'It is a', kind: 'one of', options: [option('server'), option('client')], fixed: !isNew },
        { key: 'ports', label: 'Known ports', kind: 'lines', hint: 'One a line.', when: { key: 'kind', is: 'server' } },
        {
          key: 'securityPolicies',
          label: 'Security policies that it has',
          kind: 'some of',
          options: securityPolicyNames.map((name) => option(name)),
          when: { key: 'kind', is: 'client' },
        },
        {
          key: 'securityModes',
          label: 'Modes that it has',
          kind: 'some of',
          options: securityModes.map((name) => option(name)),
          when: { key: 'kind', is: 'client' },
        },
      ];
    case 'links':
      return [
        nameField,
        id,
        { key: 'clientId', label: 'Client', kind: 'one of', ...chosenFrom('clients', offered) },
        { key: 'serverId', label: 'Server', kind: 'one of', ...chosenFrom('servers', offered) },
        { key: 'endpointUrl', label: 'Endpoint URL', kind: 'text', hint: 'opc.tcp://host:port' },
        {
          key: 'needs',
          label: 'Needed items',
          kind: 'lines',
          hint: `One a line: path below Objects, then what for (${itemUses.join(', ')}), divided by “:”. Without that: read, watch.`,
        },
        {
          key: 'identity',
          label: 'Signs in',
          kind: 'one of',
          options: [option('anonymous', 'anonymously'), option('user', 'as a user')],
        },
        { key: 'userName', label: 'User name', kind: 'text', when: { key: 'identity', is: 'user' } },
        {
          key: 'floor',
          label: 'Must be',
          kind: 'one of',
          options: securityFloors.map((floor) => option(floor, floor === 'any' ? 'nothing in particular' : floor)),
        },
        { key: 'staleSeconds', label: 'Values are stale after (seconds)', kind: 'text' },
      ];
  }
}

/** What a field of many offers: those that were looked for, and the one that is chosen already. */
function chosenFrom(of: Choosable, { choices, known }: Offered): Pick<Field, 'options' | 'many'> {
  const found = choices[of];
  const options = (found?.choices ?? []).map(({ id, name }) => option(id, name));
  const own = known.filter(({ key }) => !options.some((one) => one.key === key));
  const isMore = found !== null && found.fitting > found.choices.length;
  return { options: [...own, ...options], many: isMore || (found?.choices.length ?? 0) > many ? of : undefined };
}

/** A row as texts to edit. */
export function draftOf(part: PlantPart, row: PlantRow | null, offered: Offered): Draft {
  switch (part) {
    case 'zones': {
      const zone = row as Zone | null;
      return { id: zone?.id ?? '', name: zone?.name ?? '', order: String(zone?.order ?? offered.zones.length + 1) };
    }
    case 'machines': {
      const machine = row as Machine | null;
      return {
        id: machine?.id ?? '',
        name: machine?.name ?? '',
        zoneId: machine?.zoneId ?? offered.zones[0]?.id ?? '',
        description: machine?.description ?? '',
        hostNames: (machine?.hostNames ?? []).join('\n'),
        addresses: (machine?.addresses ?? []).join('\n'),
      };
    }
    case 'applications': {
      const application = row as Application | null;
      return {
        id: application?.id ?? '',
        name: application?.name ?? '',
        machineId: application?.machineId ?? firstOf(offered, 'machines'),
        applicationUri: application?.applicationUri ?? '',
        kind: application?.kind ?? 'server',
        ports: application?.kind === 'server' ? application.ports.join('\n') : '4840',
        securityPolicies:
          application?.kind === 'client' ? application.securityPolicies : ['Basic256Sha256', 'Aes256_Sha256_RsaPss'],
        securityModes: application?.kind === 'client' ? application.securityModes : ['Sign', 'SignAndEncrypt'],
      };
    }
    case 'links': {
      const link = row as Link | null;
      return {
        id: link?.id ?? '',
        name: link?.name ?? '',
        clientId: link?.clientId ?? firstOf(offered, 'clients'),
        serverId: link?.serverId ?? firstOf(offered, 'servers'),
        endpointUrl: link?.endpointUrl ?? 'opc.tcp://',
        needs: (link?.needs ?? []).map((item) => `${item.path}: ${item.uses.join(', ')}`).join('\n'),
        identity: link?.identity.kind ?? 'user',
        userName: link?.identity.kind === 'user' ? link.identity.userName : '',
        floor: link?.floor ?? 'signed',
        staleSeconds: String((link?.staleAfterMs ?? 60_000) / 1000),
      };
    }
  }
}

const firstOf = ({ choices }: Offered, of: Choosable): string => choices[of]?.choices[0]?.id ?? '';

const text = (draft: Draft, key: string): string => String(draft[key] ?? '').trim();
const lines = (draft: Draft, key: string): string[] =>
  String(draft[key] ?? '')
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
const several = (draft: Draft, key: string): readonly string[] =>
  Array.isArray(draft[key]) ? (draft[key] as readonly string[]) : [];

/** The row that a draft describes; the server judges whether it is valid. */
export function rowOf(part: PlantPart, draft: Draft, before: PlantRow | null): PlantRow {
  const own = { id: text(draft, 'id'), name: text(draft, 'name') };
  switch (part) {
    case 'zones':
      return { ...own, order: Number(text(draft, 'order')) };
    case 'machines':
      return {
        ...own,
        zoneId: text(draft, 'zoneId'),
        description: text(draft, 'description'),
        hostNames: lines(draft, 'hostNames'),
        addresses: lines(draft, 'addresses'),
      };
    case 'applications': {
      const placed = { ...own, machineId: text(draft, 'machineId'), applicationUri: text(draft, 'applicationUri') };
      return text(draft, 'kind') === 'server'
        ? { kind: 'server', ...placed, ports: lines(draft, 'ports').map(Number) }
        : ({
            kind: 'client',
            ...placed,
            securityPolicies: several(draft, 'securityPolicies'),
            securityModes: several(draft, 'securityModes'),
          } as Application);
    }
    case 'links': {
      const link = before as Link | null;
      return {
        ...own,
        clientId: text(draft, 'clientId'),
        serverId: text(draft, 'serverId'),
        // As typed, blanks and all: it is judged, and shown beside what it should be.
        endpointUrl: String(draft['endpointUrl'] ?? ''),
        pinnedAddress: link?.pinnedAddress ?? null,
        chosenEndpoint: link?.chosenEndpoint ?? null,
        needs: lines(draft, 'needs').map(neededItem),
        identity:
          text(draft, 'identity') === 'user'
            ? { kind: 'user', userName: text(draft, 'userName') }
            : { kind: 'anonymous' },
        floor: text(draft, 'floor') as Link['floor'],
        kind: 'ua',
        staleAfterMs: Math.round(Number(text(draft, 'staleSeconds')) * 1000),
      };
    }
  }
}

/** `Furnace/Crown temperature: read, watch`; a colon inside a node id is left alone. */
export function neededItem(line: string): NeededItem {
  const colon = line.lastIndexOf(':');
  const uses =
    colon < 0
      ? []
      : line
          .slice(colon + 1)
          .split(',')
          .map((use) => use.trim());
  const known = uses.length > 0 && uses.every((use) => itemUses.some((item) => item === use));
  return known
    ? { path: line.slice(0, colon).trim(), uses: uses as NeededItem['uses'] }
    : { path: line, uses: ['read', 'watch'] };
}

/** A short id made of a name. */
export const idOf = (name: string): string =>
  name
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 80);
