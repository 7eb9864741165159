import { AttributeIds, BrowseDirection, MessageSecurityMode, NodeClass } from 'node-opcua-client';
import type { ClientSession, DataValue } from 'node-opcua-client';

import { browseAll } from 'node-opcua-pseudo-session';

import { EndpointType, IdentityMappingRuleType, Range, UserManagementDataType } from 'node-opcua-types';
import { DataType, Variant } from 'node-opcua-variant';
import { byNumber, identityCriteria, readCertificate, userFlagNames, userFlags } from '@loyal-hinge/core';
import type {
  EndpointRule,
  IdentityRule,
  ListedUserCertificate,
  RoleLimit,
  RoleRule,
  ServerAccess,
  ServerRole,
  ServerUser,
  UserFlag,
} from '@loyal-hinge/core';
import { CallRefusal, callMethod } from './call-method.js';
import { TrustListOnServer, notOffered, userList, without } from './trust-list.js';
import { readTogether } from './read-together.js';
import { within } from './within.js';

/** Well-known nodes of namespace 0 (Part 6 Annex A): ServerCapabilities.RoleSet, ServerConfiguration.UserManagement. */
const nodes = {
  roleSet: 'i=15606',
  userManagement: 'i=24290',
  users: 'i=24301',
  passwordLength: 'i=24302',
  addUser: 'i=24304',
  modifyUser: 'i=24306',
  removeUser: 'i=24308',
  changePassword: 'i=24310',
} as const;

/** No server has that many; one that goes on for longer is not believed. */
const mostRoles = 200;
const mostListed = 5000;

/** What ModifyUser is to set; what is left out stays. */
export interface UserChange {
  readonly password?: string;
  readonly flags?: readonly UserFlag[];
  readonly description?: string;
}

/** What an administrator read of a server. */
export interface ReadAccess {
  readonly access: ServerAccess;
  /** The certificates of users that it trusts, DER. */
  readonly certificates: readonly Uint8Array[];
}

/** Roles and users of a server over an administrator’s session (Part 18). Every call has its time-out. */
export class AccessManagement {
  private readonly userList: TrustListOnServer;

  constructor(
    private readonly session: ClientSession,
    private readonly timeoutMs: number,
    private readonly signal: AbortSignal,
  ) {
    this.userList = new TrustListOnServer(session, timeoutMs, signal, userList);
  }

  /** All roles with their rules, all users, and the user certificates that are trusted, as far as this session may see them. */
  async read(): Promise<ReadAccess> {
    const roleNodes = (await this.childrenOf(nodes.roleSet)).filter(({ nodeClass }) => nodeClass === NodeClass.Object);
    if (roleNodes.length > mostRoles) throw new CallRefusal('BadEncodingLimitsExceeded', 'Browse');
    const unread: string[] = [];
    const roles: ServerRole[] = [];
    for (const { nodeId, name } of roleNodes) roles.push(await this.readRole(nodeId, name, unread));
    const [users, length] = await this.values([nodes.users, nodes.passwordLength]);
    const range: unknown = length?.value.value;
    const certificates = await this.readUserList(unread);
    return {
      access: {
        roles: roles.sort((left, right) => left.name.localeCompare(right.name)),
        users: usersIn(users, unread),
        passwordLength: range instanceof Range ? { least: range.low, most: range.high } : null,
        userCertificates: certificates?.flatMap(listedIn) ?? null,
        unread,
      },
      certificates: certificates ?? [],
    };
  }

  /** null: the server has no such list, or it could not be read. */
  private async readUserList(unread: string[]): Promise<readonly Uint8Array[] | null> {
    try {
      return (await this.userList.readLists()).trustedCertificates;
    } catch (error) {
      if (!(error instanceof CallRefusal)) throw error;
      if (!absent.has(error.code)) unread.push(`The user certificates that it trusts: ${error.code}`);
      return null;
    }
  }

  /** Puts the certificate of a user into the list of those that are trusted, or takes it out (Part 12 §7.8.2). */
  async changeUserTrust(certificate: Uint8Array, does: 'add' | 'remove'): Promise<void> {
    const before = await this.userList.readLists();
    const others = without(before.trustedCertificates, [certificate]);
    const trustedCertificates = does === 'add' ? [...others, certificate] : others;
    if (await this.userList.changeLists(before, { trustedCertificates })) await this.userList.applyChanges();
  }

  private async readRole(nodeId: string, name: string, unread: string[]): Promise<ServerRole> {
    const parts = new Map((await this.childrenOf(nodeId)).map((child) => [child.name, child.nodeId]));
    const names = [
      'Identities',
      'ApplicationsExclude',
      'Applications',
      'EndpointsExclude',
      'Endpoints',
      'CustomConfiguration',
    ];
    const there = names.filter((part) => parts.has(part));
    const values = await this.values(there.map((part) => parts.get(part) ?? ''));
    const unreadBefore = unread.length;
    // undefined: the role has no such property, or it could not be read.
    const valueOf = (part: string): unknown => {
      const value = values[there.indexOf(part)];
      if (!value) return undefined;
      if (value.statusCode.isNotGood()) unread.push(`${name}.${part}: ${value.statusCode.name}`);
      return value.statusCode.isGood() ? (value.value.value as unknown) : undefined;
    };
    /** Rules of kinds that later editions of the standard may add are told, and not passed over. */
    const all = <Rule>(part: string, told: unknown, understood: readonly Rule[]): readonly Rule[] => {
      const rules = bounded(told);
      if (understood.length < rules.length)
        unread.push(
          `${name}.${part}: ${byNumber(rules.length - understood.length, '# rule', '# rules')} of a kind that is not known`,
        );
      return understood;
    };
    const limit = <Listed>(
      list: string,
      exclude: string,
      own: (told: unknown) => readonly Listed[],
    ): RoleLimit<Listed> | null => {
      // What is no property of the role limits nobody; an empty list may come as null.
      const [listed, excludes] = [valueOf(list), valueOf(exclude)];
      if (listed === undefined || (excludes === undefined && parts.has(exclude))) return null;
      return { exclude: excludes === true, listed: all(list, listed, own(listed)) };
    };
    const identities = valueOf('Identities');
    const rules = {
      identities: all('Identities', identities, identitiesIn(identities)),
      applications: limit('Applications', 'ApplicationsExclude', (told) => bounded(told).map(String)),
      endpoints: limit('Endpoints', 'EndpointsExclude', endpointsIn),
    };
    return {
      nodeId,
      name,
      ...rules,
      isPartlyUnread: unread.length > unreadBefore,
      isCustom: valueOf('CustomConfiguration') === true,
      isFixed: !parts.has('AddIdentity'),
    };
  }

  /** Adds a rule to a role, or removes it (AddIdentity and its like, Part 18 §4.4.5 to §4.4.10). */
  async changeRule(roleId: string, rule: RoleRule, does: 'Add' | 'Remove'): Promise<void> {
    const [noun, input] = inputOf(rule);
    const name = `${does}${noun}`;
    const method = (await this.childrenOf(roleId)).find((child) => child.name === name);
    if (!method) throw new CallRefusal('BadMethodInvalid', name);
    await this.call(roleId, method.nodeId, name, [input]);
  }

  /** AddUser (Part 18 §5.2.5). */
  async addUser(userName: string, password: string, flags: readonly UserFlag[], description: string): Promise<void> {
    const inputs = [string(userName), string(password), mask(flags), string(description)];
    await this.call(nodes.userManagement, nodes.addUser, 'AddUser', inputs);
  }

  /** ModifyUser (Part 18 §5.2.6). */
  async modifyUser(userName: string, { password, flags, description }: UserChange): Promise<void> {
    await this.call(nodes.userManagement, nodes.modifyUser, 'ModifyUser', [
      string(userName),
      boolean(password !== undefined),
      string(password ?? ''),
      boolean(flags !== undefined),
      mask(flags ?? []),
      boolean(description !== undefined),
      string(description ?? ''),
    ]);
  }

  /** RemoveUser (Part 18 §5.2.7). */
  async removeUser(userName: string): Promise<void> {
    await this.call(nodes.userManagement, nodes.removeUser, 'RemoveUser', [string(userName)]);
  }

  /** ChangePassword (Part 18 §5.2.8), of the user of this session. */
  async changePassword(before: string, after: string): Promise<void> {
    await this.call(nodes.userManagement, nodes.changePassword, 'ChangePassword', [string(before), string(after)]);
  }

  private async childrenOf(nodeId: string) {
    const answer = await within(
      this.timeoutMs,
      this.signal,
      browseAll(this.session, {
        nodeId,
        browseDirection: BrowseDirection.Forward,
        referenceTypeId: 'Aggregates',
        includeSubtypes: true,
        nodeClassMask: 0,
        resultMask: 63,
      }),
    );
    if (answer.statusCode.isNotGood()) throw new CallRefusal(answer.statusCode.name, 'Browse');
    return (answer.references ?? []).map((reference) => ({
      nodeId: reference.nodeId.toString(),
      name: reference.browseName.name ?? '',
      nodeClass: reference.nodeClass,
    }));
  }

  private async values(nodeIds: readonly string[]): Promise<readonly DataValue[]> {
    if (nodeIds.length === 0) return [];
    const wished = nodeIds.map((nodeId) => ({ nodeId, attributeId: AttributeIds.Value }));
    return readTogether(this.session, wished, (call) => within(this.timeoutMs, this.signal, call));
  }

  private call(objectId: string, methodId: string, name: string, inputs: Variant[]): Promise<readonly Variant[]> {
    return callMethod(this.session, { objectId, methodId, name, inputs }, this.timeoutMs, this.signal);
  }
}

function bounded<Own>(all: Own): readonly unknown[] {
  const list: readonly unknown[] = Array.isArray(all) ? all : [];
  if (list.length > mostListed) throw new CallRefusal('BadEncodingLimitsExceeded', 'Read');
  return list;
}

const identitiesIn = (told: unknown): readonly IdentityRule[] =>
  bounded(told).flatMap((rule) => {
    if (!(rule instanceof IdentityMappingRuleType)) return [];
    const criterion = identityCriteria[rule.criteriaType - 1];
    return criterion ? [{ criterion, criteria: rule.criteria ?? '' }] : [];
  });

const endpointsIn = (told: unknown): readonly EndpointRule[] =>
  bounded(told).flatMap((rule) => {
    if (!(rule instanceof EndpointType)) return [];
    const mode = MessageSecurityMode[rule.securityMode];
    return [
      {
        url: rule.endpointUrl ?? '',
        mode: mode === 'None' || mode === 'Sign' || mode === 'SignAndEncrypt' ? mode : null,
        policyUri: rule.securityPolicyUri ?? '',
        transportProfileUri: rule.transportProfileUri ?? '',
      },
    ];
  });

/** Codes by which a server says that it has no user management, or no list of user certificates, at all. */
const absent: ReadonlySet<string> = new Set([...notOffered, 'BadNodeIdInvalid', 'BadAttributeIdInvalid']);

function listedIn(der: Uint8Array): ListedUserCertificate[] {
  const read = readCertificate(der);
  if (!read.ok) return [];
  const { thumbprint, subject, notAfter } = read.certificate.summary;
  return [{ thumbprint, subject, notAfter }];
}

function usersIn(told: DataValue | undefined, unread: string[]): readonly ServerUser[] | null {
  if (!told || told.statusCode.isNotGood()) {
    const code = told?.statusCode.name ?? 'no answer';
    if (!absent.has(code)) unread.push(`Users: ${code}`);
    return null;
  }
  const users: unknown = told.value.value;
  if (!Array.isArray(users)) return null;
  return bounded(users).flatMap((user) =>
    user instanceof UserManagementDataType
      ? [
          {
            userName: user.userName ?? '',
            flags: userFlagNames.filter((flag) => (user.userConfiguration & userFlags[flag]) !== 0),
            description: user.description ?? '',
          },
        ]
      : [],
  );
}

function inputOf(rule: RoleRule): readonly ['Identity' | 'Application' | 'Endpoint', Variant] {
  switch (rule.about) {
    case 'identity': {
      const { criterion, criteria } = rule;
      const value = new IdentityMappingRuleType({ criteriaType: identityCriteria.indexOf(criterion) + 1, criteria });
      return ['Identity', new Variant({ dataType: DataType.ExtensionObject, value })];
    }
    case 'application':
      return ['Application', string(rule.uri)];
    case 'endpoint': {
      const value = new EndpointType({
        endpointUrl: rule.url,
        securityMode: rule.mode === null ? MessageSecurityMode.Invalid : MessageSecurityMode[rule.mode],
        securityPolicyUri: rule.policyUri,
        transportProfileUri: rule.transportProfileUri,
      });
      return ['Endpoint', new Variant({ dataType: DataType.ExtensionObject, value })];
    }
  }
}

const string = (value: string): Variant => new Variant({ dataType: DataType.String, value });
const boolean = (value: boolean): Variant => new Variant({ dataType: DataType.Boolean, value });
/** UserConfigurationMask is a subtype of UInt32. */
const mask = (flags: readonly UserFlag[]): Variant =>
  new Variant({ dataType: DataType.UInt32, value: flags.reduce((bits, flag) => bits | userFlags[flag], 0) });
