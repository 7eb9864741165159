import { linkUrlParts, registeredMapperPort } from '../../links/link-url.js';
import type { Link, LinkInPlant, Machine, Plant } from '../../plant/plant.js';
import { linkInPlant } from '../../plant/plant.js';
import { addTo } from './add-to.js';
import type { Attempt, AttemptPlace } from './attempt.js';
import { isSameUser } from './same-user.js';

/** Finds to which link of a plant attempts belong, by machines, ports and users. */
export class LinkFinder {
  private readonly byAddress = new Map<string, Machine>();
  private readonly byName = new Map<string, Machine>();
  /** By the machines of both ends. */
  private readonly links = new Map<string, LinkInPlant[]>();
  private readonly byServer = new Map<string, LinkInPlant[]>();
  private readonly byId = new Map<string, LinkInPlant>();
  private readonly portsOf = new Map<string, ReadonlySet<number>>();

  constructor(plant: Plant) {
    for (const machine of plant.machines) {
      for (const address of machine.addresses) this.byAddress.set(address, machine);
      for (const name of [machine.id, machine.name, ...machine.hostNames]) {
        const lower = name.toLowerCase();
        this.byName.set(lower, machine);
        const short = lower.split('.')[0] ?? lower;
        if (!this.byName.has(short)) this.byName.set(short, machine);
      }
    }
    for (const link of plant.links) {
      const found = linkInPlant(plant, link.id);
      if (!('link' in found)) continue;
      const key = keyOf(found.clientMachine, found.serverMachine);
      addTo(this.links, key, found);
      addTo(this.byServer, found.serverMachine.id, found);
      this.byId.set(link.id, found);
      this.portsOf.set(link.id, new Set([linkUrlParts(link)?.port ?? 0, ...found.server.ports]));
    }
  }

  /** A link by its id; null: the plant has none such, or not both of its ends. */
  linkNamed(id: string): LinkInPlant | null {
    return this.byId.get(id) ?? null;
  }

  /** The machine at an end; null: the plant doesn’t know it. */
  machineOf({ address, name }: AttemptPlace): Machine | null {
    const known = address === null ? undefined : this.byAddress.get(address);
    if (known) return known;
    if (name === null) return null;
    const lower = name.toLowerCase();
    return this.byName.get(lower) ?? this.byName.get(lower.split('.')[0] ?? lower) ?? null;
  }

  /** null: it belongs to none. */
  linkOf(attempt: Attempt): LinkInPlant | null {
    const [client, server] = [this.machineOf(attempt.from), this.machineOf(attempt.to)];
    if (!server) return null;
    if (isNotTold(attempt.from)) return this.onlyLinkAs(server, attempt);
    if (!client) return null;
    const between = this.links.get(keyOf(client, server)) ?? [];
    const fitting = between.filter(({ link }) => this.fits(link, attempt));
    return fitting.find(({ link }) => signsInAs(link, attempt.as)) ?? fitting[0] ?? null;
  }

  /** The classic link whose server tried to call its client back, in vain; null: it is no such attempt. */
  wayBackOf(attempt: Attempt): LinkInPlant | null {
    const { kind, from, to, ended } = attempt;
    if (!ended.hasFailed || kind === 'ua') return null;
    const [server, client] = [this.machineOf(from), this.machineOf(to)];
    if (!server || !client || to.port === null || (to.port < firstFreePort && to.port !== registeredMapperPort))
      return null;
    const between = this.links.get(keyOf(client, server)) ?? [];
    return between.find(({ link }) => link.kind === 'classic' && isWatched(link)) ?? null;
  }

  /** Where nobody tells from where: the link to that machine that alone signs in as this user. */
  private onlyLinkAs(server: Machine, attempt: Attempt): LinkInPlant | null {
    if (attempt.as === null) return null;
    const there = this.byServer.get(server.id) ?? [];
    const fitting = there.filter(({ link }) => this.fits(link, attempt) && signsInAs(link, attempt.as));
    return fitting.length === 1 ? (fitting[0] ?? null) : null;
  }

  private fits(link: Link, { kind, to, facts }: Attempt): boolean {
    if (kind !== null && kind !== link.kind) return false;
    if (to.port === null)
      return kind !== null || facts.some((fact) => fact.kind.startsWith('classic-') && link.kind === 'classic');
    if (this.portsOf.get(link.id)?.has(to.port)) return true;
    /* Objects of classic servers are at ports that nobody knows before. */
    return link.kind === 'classic' && kind === 'classic';
  }
}

/** Whether nothing tells which machine it is. */
export const isNotTold = ({ address, name }: AttemptPlace): boolean => address === null && name === null;

const firstFreePort = 1024;
const isWatched = ({ needs }: Link): boolean => needs.some(({ uses }) => uses.includes('watch'));
const keyOf = (client: Machine, server: Machine): string => `${client.id} ${server.id}`;

const signsInAs = ({ identity }: Link, as: string | null): boolean =>
  as === null ? identity.kind === 'anonymous' : identity.kind === 'user' && isSameUser(identity.userName, as);
