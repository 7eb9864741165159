import { copyFile, mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { OPCUACertificateManager } from 'node-opcua-certificate-manager';
import { MessageSecurityMode, SecurityPolicy } from 'node-opcua-secure-channel';
import { OPCUAServer } from 'node-opcua-server';
import type { ServerSession } from 'node-opcua-server';
import { ApplicationType, UserTokenPolicy, UserTokenType } from 'node-opcua-types';
import { writePem } from '@loyal-hinge/core';
import { AuditEvents } from './audit-events.js';
import { AccessManagement, fixedIdentities, mustChange } from './access-management.js';
import type { KeptAccess } from './access-management.js';
import { firstAccess } from './first-access.js';
import { applicationUriOf } from './marrowby/index.js';
import type { StandInServer } from './marrowby/index.js';
import { keep, keyFiles } from './certificates.js';
import { tellOfOthers } from './directory.js';
import { exposeCounters } from './counters.js';
import { exposeItems, removeDevices } from './expose-items.js';
import { PushManagement, wellBehaved } from './push-management.js';
import type { PendingChanges, PushQuirks } from './push-management.js';
import { tellStandby } from './tell-standby.js';
import { TrustStore } from './trust-store.js';
import type { StoredLists } from './trust-store.js';
import type { Stoppable } from './other-ports.js';

/** A running stand-in: a real UA server with its own certificate, trust list and rejected list. */
export interface RunningServer extends Stoppable {
  readonly id: string;
  /** Takes lists over that somebody brought along by hand. */
  takeLists(lists: Partial<StoredLists>): Promise<void>;
  /** From now on push management has these quirks. */
  behave(quirks: PushQuirks): Promise<void>;
}

export interface ServerFolders {
  /** Holds the server's key and certificate. */
  readonly own: string;
  /** Holds its trust list and rejected list, in the layout of the UA library. */
  readonly pki: string;
}

/** Lists with which a stand-in begins, and how long something has lain there. */
export interface BeginningLists {
  readonly lists: StoredLists;
  /** User certificates that it trusts, DER. */
  readonly users: readonly Uint8Array[];
  readonly since: readonly { readonly der: Uint8Array; readonly at: Date }[];
}

/**
 * Starts a stand-in on its own loopback address.
 * @param passwords by user name
 * @param beginning put into its lists at the very first start
 * @param hear is told every user name and password that somebody sends, right or wrong
 */
export async function startUaServer(
  standIn: StandInServer,
  folders: ServerFolders,
  passwords: ReadonlyMap<string, string>,
  beginning: BeginningLists,
  hear: (userName: string, password: string) => void = () => undefined,
): Promise<RunningServer> {
  const standing = new StandIn(standIn, folders, passwords, hear);
  await standing.setUp(beginning);
  await standing.start();
  return {
    id: standIn.id,
    takeLists: (lists) => standing.takeLists(lists),
    behave: (quirks) => standing.behave(quirks),
    stop: () => standing.stop(),
  };
}

/** Between the answer to ApplyChanges and the moment at which the lines go down. */
const restartAfterMs = 300;

class StandIn {
  private readonly store: TrustStore;
  /** For the certificates of users. */
  private readonly userStore: TrustStore;
  private readonly files: ReturnType<typeof keyFiles>;
  private running: {
    readonly server: OPCUAServer;
    readonly certificates: OPCUACertificateManager;
    readonly users: OPCUACertificateManager;
    readonly ends: readonly (() => void)[];
  } | null = null;
  private readonly audit = new AuditEvents();
  private restarting: Promise<void> = Promise.resolve();
  private isStopped = false;
  private quirks: PushQuirks = wellBehaved;
  private access: KeptAccess | null = null;

  constructor(
    private readonly standIn: StandInServer,
    private readonly folders: ServerFolders,
    private readonly passwords: ReadonlyMap<string, string>,
    private readonly hear: (userName: string, password: string) => void,
  ) {
    this.store = new TrustStore(folders.pki);
    this.userStore = new TrustStore(this.userFolder);
    this.files = keyFiles(folders.own);
  }

  async setUp({ lists, users, since }: BeginningLists): Promise<void> {
    // The library keeps a key of its own beside the lists, and would make one.
    for (const folder of [this.folders.pki, this.userFolder]) {
      const kept = join(folder, 'own', 'private');
      await mkdir(kept, { recursive: true, mode: 0o700 });
      await copyFile(this.files.privateKey, join(kept, 'private_key.pem'));
    }
    const marker = join(this.folders.pki, 'trust-was-set-up');
    if (await exists(marker)) return;
    await this.store.write(lists);
    await this.userStore.write({ trustedCertificates: users });
    for (const { der, at } of since) await this.store.date('trustedCertificates', der, at);
    await writeFile(marker, '');
  }

  async start(): Promise<void> {
    const certificates = await managerOf(this.folders.pki);
    const users = await managerOf(this.userFolder);
    this.access ??= await this.keptAccess();
    const access = new AccessManagement(this.access, () => this.keepAccess());
    const server = this.makeServer(certificates, users, access);
    await server.initialize();
    if (this.standIn.tokensOf) offerIssuedTokens(server, this.standIn.tokensOf);
    if (this.standIn.isAuditing) this.audit.tellOf(server);
    if (this.standIn.clearPasswords) takeClearPasswords(server);
    tellStandby(server, this.standIn);
    if (this.standIn.tellsOf.length > 0) tellOfOthers(server, this.standIn);
    const counting = exposeCounters(server, this.standIn.id);
    const ends = [exposeItems(server, this.standIn), () => clearInterval(counting ?? undefined)];
    access.decide(server);
    if (this.standIn.push) {
      this.manage(server);
      access.offer(server);
    }
    server.on('create_session', (session: ServerSession) => {
      session.on('new_subscription', (subscription: { setPublishingMode(isOn: boolean): unknown }) => {
        if (this.quirks.neverPublishes) subscription.setPublishingMode(false);
      });
    });
    await server.start();
    this.running = { server, certificates, users, ends };
  }

  async takeLists(lists: Partial<StoredLists>): Promise<void> {
    await this.store.write(lists);
    if (!this.quirks.staysAsItWas) await this.running?.certificates.reloadCertificates();
  }

  /** One that stayed as it was goes by its lists when that ends, as after a restart. */
  async behave(quirks: PushQuirks): Promise<void> {
    this.quirks = quirks;
    if (!quirks.staysAsItWas) await this.running?.certificates.reloadCertificates();
    if (quirks.vanishes && this.running) removeDevices(this.running.server);
  }

  async stop(): Promise<void> {
    this.isStopped = true;
    await this.restarting;
    await this.halt();
  }

  private get userFolder(): string {
    return join(this.folders.pki, 'users');
  }

  private get accessFile(): string {
    return join(this.folders.own, 'access.json');
  }

  /** Roles and users as they were changed by then, or as they are at the very beginning. */
  private async keptAccess(): Promise<KeptAccess> {
    const kept = await readFile(this.accessFile, 'utf8').catch(() => null);
    return kept === null ? firstAccess(this.standIn, this.passwords) : (JSON.parse(kept) as KeptAccess);
  }

  private keepAccess(): Promise<void> {
    return writeFile(this.accessFile, JSON.stringify(this.access), { mode: 0o600 });
  }

  private makeServer(
    certificates: OPCUACertificateManager,
    users: OPCUACertificateManager,
    access: AccessManagement,
  ): OPCUAServer {
    const { standIn, hear, audit } = this;
    return new OPCUAServer({
      port: standIn.port,
      host: standIn.address,
      hostname: standIn.advertisedHost,
      certificateFile: this.files.certificate,
      privateKeyFile: this.files.privateKey,
      serverCertificateManager: certificates,
      userCertificateManager: users,
      securityPolicies: standIn.policies.map((policy) => SecurityPolicy[policy]),
      securityModes: standIn.modes.map((mode) => MessageSecurityMode[mode]),
      allowAnonymous: standIn.anonymous,
      isAuditing: standIn.isAuditing ?? false,
      userManager: {
        isValidUser(this: ServerSession, name: string, password: string) {
          hear(name, password);
          const user = access.userNamed(name, password);
          if (user === null) audit.refused(name);
          this.passwordChangeRequired = user !== null && mustChange(user);
          return user !== null;
        },
        getUserRoles: () => [],
        getIdentitiesForRole: fixedIdentities,
      },
      serverInfo: {
        applicationUri: applicationUriOf(standIn.id),
        productUri: 'urn:marrowby.example:stand-in',
        applicationName: { text: standIn.name },
        applicationType: ApplicationType.Server,
      },
      maxConnectionsPerEndpoint: 40,
      serverCapabilities: {
        maxSessions: 40,
        ...(standIn.operationLimit
          ? { operationLimits: { maxNodesPerRead: standIn.operationLimit, maxNodesPerBrowse: standIn.operationLimit } }
          : {}),
      },
    });
  }

  private manage(server: OPCUAServer): void {
    const push = new PushManagement({
      name: this.standIn.name,
      applicationUri: applicationUriOf(this.standIn.id),
      hosts: this.standIn.certificate.hosts,
      restarts: this.standIn.restarts,
      quirks: () => this.quirks,
      lists: () => this.store.read(),
      userLists: () => this.userStore.read(),
      takeUserLists: async (lists) => {
        await this.userStore.write(lists);
        await this.running?.users.reloadCertificates();
      },
      rejected: () => this.store.rejected(),
      privateKeyPem: () => readFile(this.files.privateKey, 'utf8'),
      takeLists: (lists) => this.takeLists(lists),
      restart: (changes) => {
        this.restarting = this.restart(changes).catch((error: unknown) => {
          console.error(`${this.standIn.id} could not be restarted: ${String(error)}`);
        });
      },
    });
    push.bind(server);
    server.on('session_closed', (session) => push.forget(session.nodeId.toString()));
  }

  private async restart({ lists, certificate }: PendingChanges): Promise<void> {
    await new Promise((resolve) => setTimeout(resolve, restartAfterMs));
    if (lists) await this.store.write(lists);
    if (certificate)
      await keep(this.folders.own, {
        privateKeyPem: certificate.privateKeyPem,
        certificatePem: certificate.chain.map((der) => writePem('CERTIFICATE', der)).join(''),
      });
    if (this.quirks.staysAsItWas) return;
    await this.halt();
    if (!this.isStopped) await this.start();
  }

  private async halt(): Promise<void> {
    const { running } = this;
    this.running = null;
    if (!running) return;
    for (const end of running.ends) end();
    await running.server.shutdown(0);
  }
}

/** Where no channel secures it, passwords are taken in clear: the library has no setting for that. */
function takeClearPasswords(server: OPCUAServer): void {
  for (const endpoint of server.endpoints)
    for (const { securityMode, userIdentityTokens } of endpoint.endpointDescriptions())
      if (securityMode === MessageSecurityMode.None)
        userIdentityTokens?.unshift(
          new UserTokenPolicy({
            policyId: 'clear password',
            tokenType: UserTokenType.UserName,
            securityPolicyUri: SecurityPolicy.None,
          }),
        );
}

/** Offers to take tokens that somebody else issues (Part 6 §6.5.2); the library takes none. */
function offerIssuedTokens(server: OPCUAServer, authorityUrl: string): void {
  for (const endpoint of server.endpoints)
    for (const { userIdentityTokens } of endpoint.endpointDescriptions())
      userIdentityTokens?.push(
        new UserTokenPolicy({
          policyId: 'issued token',
          tokenType: UserTokenType.IssuedToken,
          issuedTokenType: 'http://opcfoundation.org/UA/UserToken#JWT',
          issuerEndpointUrl: JSON.stringify({ 'ua:authorityUrl': authorityUrl }),
        }),
      );
}

async function managerOf(rootFolder: string): Promise<OPCUACertificateManager> {
  const manager = new OPCUACertificateManager({
    rootFolder,
    automaticallyAcceptUnknownCertificate: false,
    disableFileWatchers: true,
  });
  await manager.initialize();
  return manager;
}

const exists = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  );
