import ipaddr from 'ipaddr.js';
import { deviceStandingOf, endpointUrlParts, standingOf } from '@loyal-hinge/core';
import type { FoundDevice, FoundServer, Machine } from '@loyal-hinge/core';
import type { DiscoveryState, DiscoveryWish, FoundDeviceView, FoundServerView } from '@loyal-hinge/contract';
import { DeviceLine, isAnswered } from '@loyal-hinge/field';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { EventLog } from '../events/event-log.js';
import { conflict, invalid } from '../http/problems.js';
import { isDeclared } from '../probe/address-ranges.js';
import { dialTcp, sayHello } from '../probe/dial.js';
import { resolveHost } from '../probe/resolve.js';
import { keepCertificate } from '../certificates/store.js';
import { UaConnection } from '../ua/connection.js';
import { listOfMachine } from './classic-discovery.js';
import type { AccountToSignIn, GoesThere } from './classic-discovery.js';
import type { MachineLocks } from '../processes/machine-locks.js';
import { readPlant } from './store.js';
import { declaredRangesOf, nameServerOf } from '../database/settings.js';

const mostAddresses = 1024;
/** Polite: so many places at once, and never two at the same address. */
const atOnce = 8;
const connectMs = 1200;
const callMs = 5000;
const resolveMs = 2000;
const waitsForMachineMs = 30_000;
const deviceMs = 1500;
/** A device that stands alone at its address is one of these (Messaging on TCP/IP 1.0b §4.4.1.2). */
const likelyUnits = [1, 255, 0];

interface Place {
  readonly host: string;
  readonly address: string;
  readonly port: number;
  readonly by: string;
  /** What is looked for there: a server of OPC UA, a mapper of COM, or a field device. */
  readonly kind: 'server' | 'mapper' | 'device';
}

/** Finds servers: asks discovery servers, dials addresses, and asks machines for their lists of classic ones. It proposes, and adds nothing to the plant. */
export class Discovery {
  private state: Omit<DiscoveryState, 'found' | 'devices'> & {
    readonly found: readonly FoundServer[];
    readonly devices: readonly FoundDevice[];
  } = {
    running: false,
    done: 0,
    total: 0,
    found: [],
    devices: [],
    faults: [],
    beganAt: null,
    by: null,
  };
  private stopping = new AbortController();
  /** Machines of the plant by their addresses, as they were when the search began. */
  private machines: ReadonlyMap<string, Machine> = new Map();

  constructor(
    private readonly db: Database,
    private readonly events: EventLog,
    private readonly locks: Pick<MachineLocks, 'take'>,
    /** The account of a classic link to a place on a machine; null: there is none that may be tried now. */
    private readonly accountOn: (machineId: string, goesThere: GoesThere) => Promise<AccountToSignIn | null>,
  ) {}

  async told(): Promise<DiscoveryState> {
    const plant = await readPlant(this.db, []);
    return {
      ...this.state,
      faults: [...this.state.faults],
      devices: this.state.devices.map(({ host, ...found }): FoundDeviceView => {
        const standing = deviceStandingOf(plant, { host, ...found });
        return { ...found, ...standing, proposal: standing.proposal as FoundDeviceView['proposal'] };
      }),
      found: this.state.found.map(({ host: _host, ...found }): FoundServerView => {
        const standing = standingOf(plant, { host: _host, ...found });
        return {
          ...found,
          standing: standing.standing,
          says: standing.says,
          proposal: standing.standing === 'new' ? (standing.proposal as FoundServerView['proposal']) : null,
        };
      }),
    };
  }

  async begin(wish: DiscoveryWish, actor: string): Promise<DiscoveryState> {
    if (this.state.running) throw conflict('Servers are being looked for already.', 'Wait until it ends, or stop it.');
    const ranges = await declaredRangesOf(this.db);
    const places = await this.placesToDial(wish, ranges);
    await this.db.transaction((tx) =>
      appendAudit(tx, {
        actor,
        action: 'servers looked for',
        subject: 'plant',
        details: { ...wish, places: places.length },
      }),
    );
    this.stopping = new AbortController();
    const plant = await readPlant(this.db, []);
    this.machines = new Map(plant.machines.flatMap((machine) => machine.addresses.map((at) => [at, machine] as const)));
    const total = places.length + wish.discoveryUrls.length;
    this.state = {
      running: true,
      done: 0,
      total,
      found: [],
      devices: [],
      faults: [],
      beganAt: new Date().toISOString(),
      by: actor,
    };
    void this.look(wish.discoveryUrls, places, ranges).finally(() => {
      this.state = { ...this.state, running: false };
      void this.tell();
    });
    return this.told();
  }

  stop(): void {
    this.stopping.abort(new Error('it was stopped.'));
  }

  private async look(urls: readonly string[], places: readonly Place[], ranges: readonly string[]): Promise<void> {
    const registered: Place[] = [];
    for (const url of urls) {
      registered.push(...(await this.ask(url, ranges)));
      this.count();
    }
    const seen = new Set<string>();
    const all = [...registered, ...places].filter(
      ({ address, port }) => !seen.has(`${address} ${port}`) && seen.add(`${address} ${port}`),
    );
    this.state = { ...this.state, total: urls.length + all.length };
    const waiting = new Map<string, Place[]>();
    for (const place of all) waiting.set(place.address, [...(waiting.get(place.address) ?? []), place]);
    const queues = [...waiting.values()];
    const work = async (): Promise<void> => {
      for (let queue = queues.shift(); queue; queue = queues.shift())
        for (const place of queue) {
          if (this.stopping.signal.aborted) return;
          await this.whileNobodyElse(place.address, () =>
            place.kind === 'mapper'
              ? this.askForList(place, ranges)
              : place.kind === 'device'
                ? this.askDevice(place)
                : this.visit(place),
          );
          this.count();
        }
    };
    await Promise.all(Array.from({ length: atOnce }, work));
  }

  /** FindServers and, where it is there, FindServersOnNetwork (Part 4 §5.5.2, §5.5.3). */
  private async ask(url: string, ranges: readonly string[]): Promise<Place[]> {
    const parts = endpointUrlParts(url);
    const place = parts ? await this.placeOf(parts.host, parts.port, url, ranges) : null;
    if (!place) {
      this.fault(
        parts
          ? `${url} can’t be asked: its host has no address inside the declared ranges.`
          : `${url} can’t be asked: it is no endpoint URL.`,
      );
      return [];
    }
    return (await this.whileNobodyElse(place.address, () => this.askAt(place, parts?.host ?? url, url, ranges))) ?? [];
  }

  private async askAt(place: Place, host: string, url: string, ranges: readonly string[]): Promise<Place[]> {
    const opened = await this.connect(place, url);
    if (!opened.ok) {
      this.fault(`${url} does not answer as a UA server (${opened.failure.code}).`);
      return [];
    }
    try {
      const [servers, network] = [await opened.value.findServers(), await opened.value.findServersOnNetwork()];
      if (!servers.ok) this.fault(`${url} refused FindServers (${servers.failure.code}).`);
      const urls = [
        ...(servers.ok ? servers.value.flatMap(({ discoveryUrls }) => discoveryUrls) : []),
        ...(network.ok ? network.value : []),
      ];
      const places: Place[] = [];
      for (const known of new Set(urls)) {
        const at = endpointUrlParts(known);
        const found = at ? await this.placeOf(at.host, at.port, `the discovery server ${host}`, ranges) : null;
        if (found) places.push(found);
        else this.fault(`${host} tells of ${known}, whose host has no address inside the declared ranges.`);
      }
      return places;
    } finally {
      await opened.value.close();
    }
  }

  /** One connection at a time per machine; one that stays in use is passed over, and told. */
  private async whileNobodyElse<Result>(address: string, dial: () => Promise<Result>): Promise<Result | null> {
    const machine = this.machines.get(address);
    const wish = { holder: 'the search for servers', patienceMs: waitsForMachineMs, signal: this.stopping.signal };
    try {
      return await this.locks.take(machine?.id ?? `address ${address}`, wish, dial);
    } catch (error) {
      if (!this.stopping.signal.aborted)
        this.fault(`${machine?.name ?? address} was skipped: ${error instanceof Error ? error.message : 'an error'}`);
      return null;
    }
  }

  private async visit(place: Place): Promise<void> {
    const { signal } = this.stopping;
    const { address, port, host } = place;
    const dialled = await dialTcp(address, port, null, connectMs, signal);
    if (!dialled.socket) return;
    const url = `opc.tcp://${host.includes(':') ? `[${host}]` : host}:${port}`;
    const said = await sayHello(dialled.socket, url, callMs, signal);
    if (said.outcome !== 'answered' || said.answer.kind === 'other') return;
    const opened = await this.connect(place, url);
    if (!opened.ok)
      return this.fault(`${url} says Hello as a UA server, and opens no channel (${opened.failure.code}).`);
    try {
      const listing = await opened.value.getEndpoints();
      const servers = await opened.value.findServers();
      const [first] = listing.ok ? listing.value : [];
      if (!first) return this.fault(`${url} reports no endpoints${listing.ok ? '' : ` (${listing.failure.code})`}.`);
      const uri = first.description.applicationUri;
      const described = servers.ok ? servers.value.find(({ applicationUri }) => applicationUri === uri) : undefined;
      const secured = listing.ok ? listing.value.find(({ certificate }) => certificate !== null) : undefined;
      const thumbprint = secured?.certificate
        ? await keepCertificate(this.db, secured.certificate).catch(() => null)
        : null;
      const found: FoundServer = {
        endpointUrl: url,
        host,
        address,
        port,
        applicationUri: uri,
        applicationName: described?.applicationName ?? '',
        thumbprint,
        by: place.by,
      };
      this.state = { ...this.state, found: [...this.state.found, found] };
    } finally {
      await opened.value.close();
    }
  }

  private async askForList(place: Place, ranges: readonly string[]): Promise<void> {
    const { signal } = this.stopping;
    const dialled = await dialTcp(place.address, place.port, null, connectMs, signal);
    if (!dialled.socket) return;
    dialled.socket.destroy();
    const machine = this.machines.get(place.address);
    const goesThere: GoesThere = async (host, port) =>
      port === place.port && (await this.resolved(host)).includes(place.address);
    const account = machine ? await this.accountOn(machine.id, goesThere) : null;
    const list = await listOfMachine(
      { ...place, account },
      {
        timeoutMs: callMs,
        signal,
        resolve: (host) => this.resolved(host),
        mayDial: (address) => isDeclared(address, ranges),
      },
    );
    if (!list) return;
    if (list.fault !== null) this.fault(list.fault);
    this.state = { ...this.state, found: [...this.state.found, ...list.servers] };
  }

  /**
   * Asks the units that a device alone mostly has for one register. Whatever it answers, it speaks the protocol; where its
   * port is open and nothing comes, it may have another unit, or be busy with somebody else.
   */
  private async askDevice({ host, address, port, by }: Place): Promise<void> {
    const { signal } = this.stopping;
    const found = (unit: number | null, speaks: boolean): void =>
      void (this.state = {
        ...this.state,
        devices: [...this.state.devices, { host, address, port, by, unit, speaks }],
      });
    for (const unit of likelyUnits) {
      const { socket, outcome } = await dialTcp(address, port, null, connectMs, signal);
      // Who breaks the connection off is there, and most likely busy: it is left alone.
      if (outcome === 'reset') return found(null, false);
      if (!socket) return;
      const line = new DeviceLine(socket, deviceMs);
      const asked = await line.read({ unit, table: 'holding', first: 0, count: 1 }, signal);
      line.close();
      if (isAnswered(asked)) return found(unit, true);
      if (asked.outcome === 'other-transaction') return found(null, true);
      if (asked.outcome === 'reset') return found(null, false);
      // What speaks something else is no device of this kind.
      if (!('received' in asked) || asked.received > 0) return;
    }
    found(null, false);
  }

  private connect(place: Place, endpointUrl: string) {
    return UaConnection.open(
      { endpointUrl, address: place.address, port: place.port, from: null, timeoutMs: callMs },
      {
        securityPolicyUri: 'http://opcfoundation.org/UA/SecurityPolicy#None',
        securityMode: 'None',
        serverCertificate: null,
      },
      null,
      this.stopping.signal,
    );
  }

  private async placeOf(host: string, port: number, by: string, ranges: readonly string[]): Promise<Place | null> {
    const address = (await this.resolved(host)).find((one) => isDeclared(one, ranges));
    return address === undefined ? null : { host, address, port, by, kind: 'server' };
  }

  private async resolved(host: string): Promise<readonly string[]> {
    return (await resolveHost(host, await nameServerOf(this.db), resolveMs, this.stopping.signal)).addresses;
  }

  private async placesToDial(
    { machines, ranges: asked, ports, mapperPorts, devicePorts }: DiscoveryWish,
    ranges: readonly string[],
  ): Promise<Place[]> {
    const plant = machines ? await readPlant(this.db, []) : null;
    const known = (plant?.machines ?? []).flatMap(({ addresses, hostNames, name }) =>
      addresses.map((address, index) => ({
        host: index === 0 ? (hostNames[0] ?? address) : address,
        address,
        by: `the addresses of ${name}`,
      })),
    );
    const swept = asked.flatMap((range) =>
      addressesIn(range).map((address) => ({ host: address, address, by: `the range ${range}` })),
    );
    if (swept.length > mostAddresses)
      throw invalid(`These ranges hold more than ${mostAddresses} addresses.`, [
        { place: 'ranges', says: 'Choose smaller ones.' },
      ]);
    const outside = swept.find(({ address }) => !isDeclared(address, ranges));
    if (outside)
      throw invalid(`${outside.address} is outside the address ranges that the plant has declared.`, [
        { place: 'ranges', says: 'Only declared addresses are dialled; see Settings.' },
      ]);
    return [...known.filter(({ address }) => isDeclared(address, ranges)), ...swept].flatMap((place) => [
      ...ports.map((port) => ({ ...place, port, kind: 'server' as const })),
      ...mapperPorts.map((port) => ({ ...place, port, kind: 'mapper' as const })),
      ...devicePorts.map((port) => ({ ...place, port, kind: 'device' as const })),
    ]);
  }

  private count(): void {
    this.state = { ...this.state, done: this.state.done + 1 };
    if (this.state.done % 4 === 0) void this.tell();
  }

  private fault(says: string): void {
    this.state = { ...this.state, faults: [...this.state.faults, says].slice(-100) };
  }

  private tell(): Promise<void> {
    return this.events.tell({ kind: 'discovery-changed' }).catch(() => undefined);
  }
}

/** All addresses of an IPv4 range; of a larger one, one more than may be asked for. */
function addressesIn(range: string): readonly string[] {
  const [base, bits] = ipaddr.parseCIDR(range);
  if (base.kind() !== 'ipv4')
    return bits === 128 ? [base.toString()] : Array.from({ length: mostAddresses + 1 }, () => base.toString());
  const count = Math.min(2 ** (32 - bits), mostAddresses + 1);
  const first = ipaddr.IPv4.networkAddressFromCIDR(range).octets.reduce((sum, octet) => sum * 256 + octet, 0);
  return Array.from({ length: count }, (_, index) => {
    const value = first + index;
    return [24, 16, 8, 0].map((shift) => Math.floor(value / 2 ** shift) % 256).join('.');
  });
}
