import { Socket } from 'node:net';
import { join } from 'node:path';
import { walkClassic } from '@loyal-hinge/classic';
import { AttributeIds } from 'node-opcua-client';
import type { ClassicMachine, ToldSignIn } from '../classic/classic-machine.js';
import { dayMs, derIn, makeApplication } from '../certificates.js';
import type { KeyAndCertificate } from '../certificates.js';
import {
  addressBook,
  applicationUriOf,
  classicStandIns,
  classicUsers,
  hostsOfClient,
  inBlock,
  marrowbyGlass,
  mapperPort,
  standInServers,
} from '../marrowby/index.js';
import { host } from '../marrowby/machines.js';
import { plantCertificates } from '../plant-certificates.js';
import type { PlantCertificates } from '../plant-certificates.js';
import { startClassicMachine } from '../start-classic.js';
import { keptSecrets } from '../start-plant.js';
import { startUaServer } from '../ua-server.js';
import type { RunningServer } from '../ua-server.js';
import { visit } from '../visitors.js';
import { OwnFirewall, ZoneFirewall } from './barriers.js';
import { atNight, setClock } from './night-clock.js';
import { NightNetwork } from './night-network.js';
import { writePackets } from './packet-file.js';
import { WindowsLog, auditing, services } from './windows-log.js';

/** A file that somebody brings along after the night. */
export interface NightFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

const expiry = '02:10';
const locksAfter = 5;
const settlesMs = 40;
const minuteMs = 60_000;
const classicId = 'lehr-data';
const [furnaceId, gasMeterId, lehrId] = ['furnace-server', 'gas-meter-server', 'lehr-server'];

/**
 * Plays a night of the made-up plant with its real servers and clients, and writes down what passed between them, and what
 * machines wrote into their logs: a client’s certificate expires at 02:10, an account gets locked, a rule for the way back is
 * taken out of a firewall, a laptop scans ports, and a server falls and comes back.
 * @param folder holds the plant’s keys, certificates and passwords; nothing else may run at its addresses meanwhile
 */
export async function playNight(folder: string): Promise<readonly NightFile[]> {
  const [{ passwords }, certificates] = await Promise.all([keptSecrets(folder), plantCertificates(folder)]);
  const night = new Night(folder, new Map(Object.entries(passwords)), certificates);
  try {
    await night.begin();
    await night.evening();
    await night.accountIsLocked();
    await night.ruleIsTakenOut();
    await night.laptopScans();
    await night.certificateExpires();
    await night.serverFalls();
    await night.morning();
    return night.files();
  } finally {
    await night.end();
  }
}

class Night {
  private readonly network = new NightNetwork(addressBook);
  private readonly servers = new Map<string, RunningServer>();
  private lehrData: ClassicMachine | null = null;
  private formerEnergy: KeyAndCertificate | null = null;
  private readonly lehrDataLog = new WindowsLog('LEHR-DATA', auditing);
  private readonly furnaceLog = new WindowsLog('FURNACE', services);
  private readonly trendLog = new WindowsLog('TREND-STATION', auditing);
  private readonly trendFirewall = new OwnFirewall(inBlock('40.71'), []);
  private readonly processFirewall = new ZoneFirewall(
    { prefix: inBlock('40.'), interface: 'ctl0' },
    [
      { prefix: inBlock('20.'), interface: 'hot0' },
      { prefix: inBlock('30.'), interface: 'cold0' },
    ],
    [4840],
  );

  constructor(
    private readonly folder: string,
    private readonly passwords: ReadonlyMap<string, string>,
    private readonly certificates: PlantCertificates,
  ) {}

  async begin(): Promise<void> {
    this.formerEnergy = await makeApplication(
      {
        commonName: 'Energy board',
        applicationUri: applicationUriOf('energy-client'),
        hosts: hostsOfClient('energy'),
        fromDay: -730,
        toDay: (atNight(expiry) - Date.now()) / dayMs,
      },
      null,
    );
    await clockAt(atNight('22:00'));
    await Promise.all([furnaceId, gasMeterId, lehrId].map((id) => this.startServer(id)));
    this.lehrData = await this.startClassic();
  }

  /** All is as it should be. */
  async evening(): Promise<void> {
    for (const time of ['22:05', '22:35', '23:05']) {
      await clockAt(atNight(time));
      await this.display();
      await this.history();
      await this.energy();
    }
  }

  /** A program has an old password, and tries until the account is locked; from then on the right password is refused, too. */
  async accountIsLocked(): Promise<void> {
    for (let minute = 0; minute < 7; minute += 1) {
      await clockAt(atNight('23:31') + minute * minuteMs);
      await this.trends('Lehr.Zone8.Temperature', `${this.passwordOf(classicUsers.reader).slice(1)}x`);
    }
    for (const time of ['23:40', '23:45', '23:50', '23:55']) {
      await clockAt(atNight(time));
      await this.trends('Lehr.Zone1.Temperature');
    }
    await clockAt(atNight('00:04'));
    this.lehrData?.unlock(classicUsers.reader);
    this.lehrDataLog.write(4767, {
      TargetUserName: classicUsers.reader,
      TargetDomainName: 'LEHR-DATA',
      SubjectUserName: 'administrator',
      SubjectDomainName: 'LEHR-DATA',
    });
    await clockAt(atNight('00:05'));
    await this.trends('Lehr.Zone1.Temperature');
  }

  /** Who puts the trend station’s own firewall in order takes a rule out that was needed: nobody reaches it any more. */
  async ruleIsTakenOut(): Promise<void> {
    await clockAt(atNight('00:30'));
    await this.trends('Lehr.Exhaust.Pressure');
    await clockAt(atNight('00:40'));
    this.noteRule(4948);
    this.network.barriers.add(this.trendFirewall);
    for (const time of ['00:41', '00:51', '01:01', '01:11']) {
      await clockAt(atNight(time));
      await this.trends('Lehr.Exhaust.Pressure');
    }
  }

  async laptopScans(): Promise<void> {
    await clockAt(atNight('01:20'));
    this.network.barriers.add(this.processFirewall);
    const ports = [21, 22, 23, 80, 102, 135, 139, 443, 445, 502, 1433, 3389, 4840, 5900, 8080, 44_818];
    for (const target of ['20.11', '20.12', '30.11', '40.61'])
      for (const port of ports) await this.network.from(inBlock('40.31'), () => knock(inBlock(target), port));
    this.network.barriers.delete(this.processFirewall);
  }

  async certificateExpires(): Promise<void> {
    await clockAt(atNight('01:35'));
    await this.energy();
    await clockAt(atNight('02:05'));
    await this.energy();
    for (let minute = 0; minute < 12; minute += 1) {
      await clockAt(atNight('02:10:20') + minute * minuteMs);
      await this.energy();
    }
  }

  async serverFalls(): Promise<void> {
    await clockAt(atNight('03:19'));
    await this.display();
    await clockAt(atNight('03:20'));
    await this.servers.get(furnaceId)?.stop();
    this.servers.delete(furnaceId);
    this.furnaceLog.write(7034, { param1: 'Furnace server', param2: '1' });
    for (let times = 0; times < 22; times += 1) {
      await clockAt(atNight('03:20:30') + times * (minuteMs / 2));
      await this.display();
    }
    await clockAt(atNight('03:32'));
    await this.startServer(furnaceId);
    this.furnaceLog.write(7036, { param1: 'Furnace server', param2: 'running' });
    await clockAt(atNight('03:32:30'));
    await this.display();
  }

  /** The rule is put back, and the energy board has a new certificate. */
  async morning(): Promise<void> {
    await clockAt(atNight('05:28'));
    this.noteRule(4946);
    this.network.barriers.delete(this.trendFirewall);
    await clockAt(atNight('05:31'));
    await this.trends('Lehr.Exhaust.Pressure');
    await clockAt(atNight('05:50'));
    await this.energy();
    this.formerEnergy = null;
    await clockAt(atNight('06:12'));
    await this.energy();
  }

  files(): readonly NightFile[] {
    const text = (name: string, written: string): NightFile => ({ name, bytes: Buffer.from(written) });
    return [
      { name: 'control-room-tap.pcap', bytes: writePackets(this.network.segments) },
      text('lehr-data-security.xml', this.lehrDataLog.text),
      text('furnace-system.xml', this.furnaceLog.text),
      text('trend-station-security.xml', this.trendLog.text),
      text('trend-station-firewall.log', this.trendFirewall.text),
      text('process-firewall.log', this.processFirewall.text),
    ];
  }

  async end(): Promise<void> {
    await Promise.allSettled([...this.servers.values()].map((server) => server.stop()));
    await this.lehrData?.stop();
  }

  private async startServer(id: string): Promise<void> {
    const standIn = standInServers.find((one) => one.id === id);
    if (!standIn) throw new Error(`no server ${id}`);
    const trusted = standIn.lists.trusted.map((listed) => this.certificates.listed(listed));
    if (this.formerEnergy) trusted.push(derIn(this.formerEnergy.certificatePem));
    const lists = { trustedCertificates: trusted, trustedCrls: [], issuerCertificates: [], issuerCrls: [] };
    const folders = { own: join(this.folder, 'own', id), pki: join(this.folder, 'night', 'pki', id) };
    const starting = startUaServer({ ...standIn, isAuditing: false }, folders, this.passwords, {
      lists,
      users: [],
      since: [],
    });
    this.servers.set(id, await starting);
  }

  private startClassic(): Promise<ClassicMachine> {
    const standIn = classicStandIns.find(({ machine }) => machine.id === classicId);
    if (!standIn) throw new Error(`no machine ${classicId}`);
    const folder = join(this.folder, 'night', 'classic', classicId);
    // No field device is awake in the played night.
    const programs = standIn.programs.map((program) => ({
      ...program,
      items: program.items.map(({ polled: _, ...item }) => item),
    }));
    const telling = { locksAfter, signInTold: (told: ToldSignIn) => this.noteSignIn(told) };
    return this.network.from(standIn.machine.addresses[0] ?? '', () =>
      startClassicMachine({ ...standIn, programs }, folder, this.passwords, telling),
    );
  }

  private display(): Promise<void> {
    return this.visit('line-display-client', '40.21', 'furnace', 'display');
  }
  private history(): Promise<void> {
    return this.visit('history-client', '50.21', 'lehr', 'collector');
  }
  private energy(): Promise<void> {
    return this.visit('energy-client', '60.21', 'gas-meter', 'collector', this.formerEnergy);
  }

  private async visit(
    clientId: string,
    address: string,
    server: string,
    userName: string,
    certificate: KeyAndCertificate | null = null,
  ): Promise<void> {
    const visitor = {
      ...(certificate ?? this.certificates.of(clientId)),
      applicationUri: applicationUriOf(clientId),
      endpointUrl: `opc.tcp://${host(server)}:4840`,
      userName,
      password: this.passwordOf(userName),
    };
    const readTime = { nodeId: 'i=2258', attributeId: AttributeIds.Value };
    await this.network
      .from(inBlock(address), () => visit(visitor, (session) => session.read(readTime)))
      .catch(() => undefined);
  }

  /** The trend display asks for an item of a classic server, reads it, and waits to be told of changes. */
  private async trends(item: string, password = this.passwordOf(classicUsers.reader)): Promise<void> {
    const address = inBlock('40.71');
    const link = marrowbyGlass.links.find(
      ({ needs, kind }) => kind === 'classic' && needs.some(({ path }) => path === item),
    );
    const program = link?.endpointUrl.split('/').at(-1) ?? '';
    await this.network.from(address, () =>
      walkClassic(
        {
          host: host(classicId),
          mapperPort,
          localAddress: address,
          identity: {
            account: { user: classicUsers.reader, domain: '', password },
            level: link?.classic?.level ?? 'integrity',
            workstation: 'TREND-STATION',
          },
          server: program.startsWith('{') ? { clsid: program.slice(1, -1) } : { progId: program },
          needs: { items: [item], browse: false, read: true, watch: { updateRateMs: 1000 } },
          timeoutMs: 4000,
          resolve: (name) => Promise.resolve(this.network.resolve(name)),
          mayDial: () => true,
        },
        () => undefined,
      ),
    );
  }

  private noteSignIn({ user, workstation, address, outcome }: ToldSignIn): void {
    const target = { TargetUserName: user, TargetDomainName: 'LEHR-DATA', LogonType: '3' };
    const from = { WorkstationName: workstation, IpAddress: address, IpPort: '0' };
    if (outcome === 'let in') return this.lehrDataLog.write(4624, { ...target, ...from });
    const subStatus = outcome === 'locked' ? '0xc0000234' : '0xc000006a';
    const status = outcome === 'locked' ? subStatus : '0xc000006d';
    this.lehrDataLog.write(4625, { ...target, Status: status, SubStatus: subStatus, ...from });
    if (outcome === 'just locked')
      this.lehrDataLog.write(4740, {
        TargetUserName: user,
        TargetDomainName: workstation,
        SubjectUserName: 'LEHR-DATA$',
      });
  }

  private noteRule(eventId: 4946 | 4948): void {
    this.trendLog.write(eventId, {
      ProfileChanged: 'All',
      RuleId: '{OPC-CALLBACKS}',
      RuleName: 'Calls back from OPC servers',
    });
  }

  private passwordOf(user: string): string {
    return this.passwords.get(user) ?? '';
  }
}

/** Opens a connection and leaves. */
function knock(address: string, port: number): Promise<void> {
  return new Promise((resolve) => {
    const socket = new Socket();
    socket.once('connect', () => socket.end());
    socket.once('error', () => undefined);
    socket.once('close', () => resolve());
    socket.connect({ host: address, port });
  });
}

/** Sets the clock forward, once all that was under way is over. */
async function clockAt(time: number): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve, settlesMs));
  setClock(time);
}
