import { WellKnownRoles } from 'node-opcua-address-space';
import type { IRoleResolutionContext, ISessionContext, UAMethod, UAObject, UAVariable } from 'node-opcua-address-space';
import { makeNodeId } from 'node-opcua-nodeid';
import type { NodeId } from 'node-opcua-nodeid';
import { MessageSecurityMode } from 'node-opcua-secure-channel';
import type { OPCUAServer } from 'node-opcua-server';
import { StatusCodes } from 'node-opcua-status-code';
import { EndpointType, IdentityMappingRuleType, Range, UserManagementDataType } from 'node-opcua-types';
import { DataType, Variant, VariantArrayType } from 'node-opcua-variant';
import { identityCriteria, readCertificate, subjectCriteria, userFlagNames, userFlags } from '@loyal-hinge/core';
import type { Certificate, EndpointRule, IdentityRule, ServerUser, UserFlag } from '@loyal-hinge/core';
import { Refusal, bindForAdministrators, bindForAll } from './methods.js';
import type { Method } from './methods.js';

/** Well-known roles whose rules can be changed (Part 18 §4.3). */
export const roleNames = ['Observer', 'Operator', 'Engineer', 'Supervisor', 'ConfigureAdmin', 'SecurityAdmin'] as const;
export type RoleName = (typeof roleNames)[number];

export interface KeptRole {
  identities: readonly IdentityRule[];
  applicationsExclude: boolean;
  applications: readonly string[];
  endpointsExclude: boolean;
  endpoints: readonly EndpointRule[];
}

export interface KeptUser extends ServerUser {
  readonly password: string;
}

/** Roles and users of a stand-in, as they stand now. */
export interface KeptAccess {
  readonly roles: Readonly<Record<RoleName, KeptRole>>;
  users: readonly KeptUser[];
}

const leastPassword = 8;
const mostPassword = 128;

/** Nodes of UserManagement (Part 18 §5.2; Part 6 Annex A). */
const nodes = { users: 24301, length: 24302, add: 24304, modify: 24306, remove: 24308, change: 24310 };

/** Roles and user management of a stand-in (Part 18): it gives roles by these rules, and lets people in by these users. */
export class AccessManagement {
  constructor(
    private readonly access: KeptAccess,
    /** Called after each change. */
    private readonly keep: () => Promise<void>,
  ) {}

  userNamed(name: string, password: string): KeptUser | null {
    const user = this.access.users.find((one) => one.userName === name && one.password === password);
    return user && !user.flags.includes('Disabled') ? user : null;
  }

  /** Roles by the rules that stand now; whoever must change a password first gets none. */
  rolesOf(token: unknown, context: IRoleResolutionContext | undefined): NodeId[] {
    const { userName, certificateData } = token as { userName?: string | null; certificateData?: Buffer | null };
    const read = certificateData ? readCertificate(Uint8Array.from(certificateData)) : null;
    const certificate = read?.ok ? read.certificate : null;
    const name = userName ?? null;
    if (name !== null && this.access.users.some((user) => user.userName === name && mustChange(user))) return [];
    return roleNames
      .filter((role) => gives(this.access.roles[role], { name, certificate }, context))
      .map((role) => idOf(role));
  }

  /** Sessions are given roles by these rules from now on. */
  decide(server: OPCUAServer): void {
    server.roleResolvers.push({ resolveRoles: (token, context) => this.rolesOf(token, context) });
  }

  /** Shows roles and users, and lets them be changed. */
  offer(server: OPCUAServer): void {
    const { addressSpace } = server.engine;
    if (!addressSpace) throw new Error('the server has no address space');
    for (const role of roleNames) this.bindRole(addressSpace.findNode(idOf(role)) as UAObject, this.access.roles[role]);
    const tell = (id: number, get: () => Variant): void =>
      void (addressSpace.findNode(makeNodeId(id)) as UAVariable).bindVariable({ get }, true);
    tell(nodes.users, () => objects(this.access.users.map(toldUser)));
    tell(
      nodes.length,
      () =>
        new Variant({
          dataType: DataType.ExtensionObject,
          value: new Range({ low: leastPassword, high: mostPassword }),
        }),
    );
    const method = (id: number): UAMethod => addressSpace.findNode(makeNodeId(id)) as UAMethod;
    bindForAdministrators(method(nodes.add), this.addUser);
    bindForAdministrators(method(nodes.modify), this.modifyUser);
    bindForAdministrators(method(nodes.remove), this.removeUser);
    bindForAll(method(nodes.change), this.changePassword);
  }

  private bindRole(node: UAObject, role: KeptRole): void {
    const tell = (name: string, get: () => Variant): void =>
      void (node.getPropertyByName(name) as UAVariable | null)?.bindVariable({ get }, true);
    tell('Identities', () => objects(role.identities.map(toldIdentity)));
    tell('ApplicationsExclude', () => yes(role.applicationsExclude));
    tell('Applications', () => strings(role.applications));
    tell('EndpointsExclude', () => yes(role.endpointsExclude));
    tell('Endpoints', () => objects(role.endpoints.map(toldEndpoint)));
    tell('CustomConfiguration', () => yes(false));
    const does = (name: string, method: Method): void => {
      const found = node.getMethodByName(name);
      if (found) bindForAdministrators(found, method);
    };
    does('AddIdentity', async ([rule]) => {
      const read = readIdentity(rule);
      if (role.identities.some((one) => isSame(one, read))) throw new Refusal(StatusCodes.BadAlreadyExists);
      role.identities = [...role.identities, read];
      return this.kept();
    });
    does('RemoveIdentity', async ([rule]) => {
      role.identities = without(role.identities, readIdentity(rule));
      return this.kept();
    });
    does('AddApplication', async ([uri]) => {
      const read = String(uri?.value ?? '');
      if (read === '') throw new Refusal(StatusCodes.BadInvalidArgument);
      if (role.applications.includes(read)) throw new Refusal(StatusCodes.BadAlreadyExists);
      role.applications = [...role.applications, read];
      return this.kept();
    });
    does('RemoveApplication', async ([uri]) => {
      role.applications = without(role.applications, String(uri?.value ?? ''));
      return this.kept();
    });
    does('AddEndpoint', async ([rule]) => {
      const read = readEndpoint(rule);
      if (role.endpoints.some((one) => isSame(one, read))) throw new Refusal(StatusCodes.BadAlreadyExists);
      role.endpoints = [...role.endpoints, read];
      return this.kept();
    });
    does('RemoveEndpoint', async ([rule]) => {
      role.endpoints = without(role.endpoints, readEndpoint(rule));
      return this.kept();
    });
  }

  private readonly addUser: Method = async ([name, password, mask, description]) => {
    const userName = String(name?.value ?? '');
    if (userName === '') throw new Refusal(StatusCodes.BadInvalidArgument);
    if (this.access.users.some((user) => user.userName === userName)) throw new Refusal(StatusCodes.BadAlreadyExists);
    const user = { userName, password: fitting(password), flags: flagsIn(mask), description: textOf(description) };
    this.access.users = [...this.access.users, user];
    return this.kept();
  };

  private readonly modifyUser: Method = async (
    [name, withPassword, password, withMask, mask, withDescription, description],
    context,
  ) => {
    const user = this.named(name);
    const flags = withMask?.value === true ? flagsIn(mask) : user.flags;
    if (flags.includes('Disabled') && user.userName === nameIn(context))
      throw new Refusal(StatusCodes.BadInvalidSelfReference);
    this.replace({
      ...user,
      flags,
      password: withPassword?.value === true ? fitting(password) : user.password,
      description: withDescription?.value === true ? textOf(description) : user.description,
    });
    return this.kept();
  };

  private readonly removeUser: Method = async ([name], context) => {
    const user = this.named(name);
    if (user.flags.includes('NoDelete')) throw new Refusal(StatusCodes.BadNotSupported);
    if (user.userName === nameIn(context)) throw new Refusal(StatusCodes.BadInvalidSelfReference);
    this.access.users = this.access.users.filter((one) => one !== user);
    return this.kept();
  };

  /** By the user alone (Part 18 §5.2.8): the account is then no longer one with a first password. */
  private readonly changePassword: Method = async ([before, after], context) => {
    const user = this.access.users.find(({ userName }) => userName === nameIn(context));
    if (!user) throw new Refusal(StatusCodes.BadInvalidState);
    if (user.flags.includes('NoChangeByUser')) throw new Refusal(StatusCodes.BadNotSupported);
    if (textOf(before) !== user.password) throw new Refusal(StatusCodes.BadIdentityTokenInvalid);
    if (textOf(after) === user.password) throw new Refusal(StatusCodes.BadAlreadyExists);
    const flags = user.flags.filter((flag) => flag !== 'MustChangePassword');
    this.replace({ ...user, flags, password: fitting(after) });
    return this.kept();
  };

  private named(name: Variant | undefined): KeptUser {
    const user = this.access.users.find(({ userName }) => userName === String(name?.value ?? ''));
    if (!user) throw new Refusal(StatusCodes.BadNotFound);
    return user;
  }

  private replace(user: KeptUser): void {
    this.access.users = this.access.users.map((one) => (one.userName === user.userName ? user : one));
  }

  private async kept(): Promise<[]> {
    await this.keep();
    return [];
  }
}

/** Who has the roles that no server lets be changed (Part 18 §4.3). */
export function fixedIdentities(role: NodeId): IdentityMappingRuleType[] {
  const signedIn = toldIdentity({ criterion: 'AuthenticatedUser', criteria: '' });
  if (role.value === WellKnownRoles.AuthenticatedUser) return [signedIn];
  return role.value === WellKnownRoles.Anonymous
    ? [toldIdentity({ criterion: 'Anonymous', criteria: '' }), signedIn]
    : [];
}

export const mustChange = ({ flags }: ServerUser): boolean => flags.includes('MustChangePassword');

const idOf = (role: RoleName): NodeId => makeNodeId(WellKnownRoles[role]);

function gives(
  role: KeptRole,
  { name, certificate }: { readonly name: string | null; readonly certificate: Certificate | null },
  context: IRoleResolutionContext | undefined,
): boolean {
  const mode = context?.securityMode ?? MessageSecurityMode.None;
  const uri = mode === MessageSecurityMode.None ? '' : (context?.applicationUri ?? '');
  const isNamed = role.identities.some(({ criterion, criteria }) => {
    if (criterion === 'UserName') return name === criteria;
    if (criterion === 'Thumbprint') return certificate?.thumbprint === criteria;
    if (criterion === 'X509Subject') return certificate !== null && subjectCriteria(certificate.subject) === criteria;
    if (criterion === 'AuthenticatedUser') return name !== null || certificate !== null;
    if (criterion === 'Application') return uri !== '' && uri === criteria;
    return criterion === 'TrustedApplication'
      ? uri !== ''
      : criterion === 'Anonymous' && name === null && certificate === null;
  });
  const isUsed = role.endpoints.some(
    (one) =>
      (one.mode === null || MessageSecurityMode[one.mode] === mode) &&
      (one.policyUri === '' || one.policyUri === context?.securityPolicyUri) &&
      (one.url === '' || one.url === context?.endpointUrl),
  );
  const mayCome = role.applications.includes(uri) !== role.applicationsExclude;
  return isNamed && mayCome && isUsed !== role.endpointsExclude;
}

const toldIdentity = ({ criterion, criteria }: IdentityRule): IdentityMappingRuleType =>
  new IdentityMappingRuleType({ criteriaType: identityCriteria.indexOf(criterion) + 1, criteria });

function readIdentity(rule: Variant | undefined): IdentityRule {
  const told = rule?.value as IdentityMappingRuleType | null;
  const criterion = identityCriteria[(told?.criteriaType ?? 0) - 1];
  if (!told || !criterion) throw new Refusal(StatusCodes.BadInvalidArgument);
  return { criterion, criteria: told.criteria ?? '' };
}

const toldEndpoint = ({ url, mode, policyUri, transportProfileUri }: EndpointRule): EndpointType =>
  new EndpointType({
    endpointUrl: url,
    securityMode: mode === null ? MessageSecurityMode.Invalid : MessageSecurityMode[mode],
    securityPolicyUri: policyUri,
    transportProfileUri,
  });

function readEndpoint(rule: Variant | undefined): EndpointRule {
  const told = rule?.value as EndpointType | null;
  if (!told) throw new Refusal(StatusCodes.BadInvalidArgument);
  const name = MessageSecurityMode[told.securityMode];
  return {
    url: told.endpointUrl ?? '',
    mode: name === 'None' || name === 'Sign' || name === 'SignAndEncrypt' ? name : null,
    policyUri: told.securityPolicyUri ?? '',
    transportProfileUri: told.transportProfileUri ?? '',
  };
}

const toldUser = ({ userName, flags, description }: KeptUser): UserManagementDataType =>
  new UserManagementDataType({
    userName,
    userConfiguration: flags.reduce<number>((bits, flag) => bits | userFlags[flag], 0),
    description,
  });

const flagsIn = (mask: Variant | undefined): UserFlag[] =>
  userFlagNames.filter((flag) => (Number(mask?.value ?? 0) & userFlags[flag]) !== 0);

/** Neither too short nor too long (PasswordLength). */
function fitting(password: Variant | undefined): string {
  const text = textOf(password);
  if (text.length < leastPassword || text.length > mostPassword) throw new Refusal(StatusCodes.BadOutOfRange);
  return text;
}

function without<Own>(all: readonly Own[], own: Own): readonly Own[] {
  const left = all.filter((one) => !isSame(one, own));
  if (left.length === all.length) throw new Refusal(StatusCodes.BadNotFound);
  return left;
}

const isSame = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other);
const nameIn = ({ session }: ISessionContext): string | null =>
  (session?.userIdentityToken as { userName?: string | null } | undefined)?.userName ?? null;
const textOf = (text: Variant | undefined): string => String(text?.value ?? '');
const yes = (value: boolean): Variant => new Variant({ dataType: DataType.Boolean, value });
const strings = (value: readonly string[]): Variant =>
  new Variant({ dataType: DataType.String, arrayType: VariantArrayType.Array, value: [...value] });
const objects = (value: object[]): Variant =>
  new Variant({ dataType: DataType.ExtensionObject, arrayType: VariantArrayType.Array, value });
