import { codeText, sayCode } from '../../../dcom/codes.js';

interface Told {
  readonly provider: string;
  readonly eventId: number;
  readonly data: Readonly<Record<string, string>>;
}
type Say = (data: Readonly<Record<string, string>>) => string;

/** Why a sign-in was refused, by the status that Windows writes down (MS-ERREF 2.3). */
const signInStatus: Readonly<Record<number, string>> = {
  0xc0000064: 'there is no such user',
  0xc000006a: 'the password was wrong',
  0xc000006d: 'the user name or the password was wrong',
  0xc000006e: 'an account restriction applies, such as an empty password',
  0xc000006f: 'the account may not sign in at this time',
  0xc0000070: 'the account may not sign in from this machine',
  0xc0000071: 'the password has expired',
  0xc0000072: 'the account is disabled',
  0xc00000dc: 'the machine could not do it at that time',
  0xc0000133: 'the clocks of both machines differ too much',
  0xc000015b: 'the account is not granted this kind of sign-in',
  0xc000018c: 'the trust between the domains has failed',
  0xc000018d: 'the trust between the machine and its domain has failed',
  0xc0000192: 'the service for signing in was not running',
  0xc0000193: 'the account has expired',
  0xc0000224: 'the password must be changed first',
  0xc0000225: 'the machine could not tell',
  0xc0000234: 'the account is locked',
  0xc0000413: 'a rule on authentication forbids this account on this machine',
};
/** Why Kerberos refused (RFC 4120 §7.5.9). */
const kerberosStatus: Readonly<Record<number, string>> = {
  0x6: 'there is no such user',
  0x7: 'the service is not known',
  0xc: 'the account may not sign in from this machine or at this time',
  0xe: 'the kind of encryption is not supported',
  0x12: 'the account is disabled, expired or locked',
  0x17: 'the password has expired',
  0x18: 'the password was wrong',
  0x20: 'the ticket has expired',
  0x25: 'the clocks of both machines differ too much',
};
const logonTypes: Readonly<Record<string, string>> = {
  2: 'at the machine',
  3: 'over the network',
  4: 'as a batch job',
  5: 'as a service',
  7: 'to unlock it',
  8: 'over the network in clear text',
  9: 'with other credentials',
  10: 'by remote desktop',
  11: 'with credentials that were kept',
};

const number = (text: string | undefined): number => Number(text ?? 'none');
const known = (text: string | undefined): string | null =>
  text === undefined || text === '' || text === '-' || text === '::1' ? null : text;

function who(data: Readonly<Record<string, string>>, prefix: string): string {
  const user = known(data[`${prefix}UserName`]) ?? 'somebody';
  const domain = known(data[`${prefix}DomainName`]);
  return domain === null ? user : `${domain}\\${user}`;
}
function fromWhere(data: Readonly<Record<string, string>>): string {
  const place = known(data['WorkstationName']) ?? known(data['Workstation']);
  const address = known(data['IpAddress'])?.replace('::ffff:', '');
  if (!place && !address) return '';
  return ` from ${[place, address].filter(Boolean).join(', ')}`;
}
const byWhom = (data: Readonly<Record<string, string>>): string =>
  known(data['SubjectUserName']) === null ? '' : ` by ${who(data, 'Subject')}`;
const why = (words: Readonly<Record<number, string>>, ...codes: readonly (string | undefined)[]): string => {
  const code = codes.map(number).find((one) => words[one] !== undefined) ?? codes.map(number).find((one) => one > 0);
  return code === undefined ? 'no reason was given' : (words[code] ?? `status ${codeText(code)}`);
};
const protocols: Readonly<Record<string, string>> = { 6: 'TCP', 17: 'UDP', 1: 'ICMP' };

function flow(data: Readonly<Record<string, string>>): string {
  const end = (name: string): string => `${data[`${name}Address`] ?? '?'} port ${data[`${name}Port`] ?? '?'}`;
  return `${protocols[data['Protocol'] ?? ''] ?? 'a packet'} from ${end('Source')} to ${end('Dest')}`;
}
/** The values of an event in their order, whatever they are called. */
const values = (data: Readonly<Record<string, string>>): readonly string[] => Object.values(data);

const security: Readonly<Record<number, Say>> = {
  4624: (data) =>
    `${who(data, 'Target')} signed in ${logonTypes[data['LogonType'] ?? ''] ?? 'in a way that is not known'}${fromWhere(data)}.`,
  4625: (data) =>
    `${who(data, 'Target')} was refused${fromWhere(data)}: ${why(signInStatus, data['SubStatus'], data['Status'])}.`,
  4648: (data) =>
    `${who(data, 'Subject')} signed in as ${who(data, 'Target')} at ${data['TargetServerName'] ?? 'a machine'}.`,
  4616: (data) => `The clock was set from ${data['PreviousTime'] ?? '?'} to ${data['NewTime'] ?? '?'}${byWhom(data)}.`,
  4722: (data) => `${who(data, 'Target')} was enabled${byWhom(data)}.`,
  4723: (data) => `${who(data, 'Target')} changed the own password.`,
  4724: (data) => `${who(data, 'Target')} was given another password${byWhom(data)}.`,
  4725: (data) => `${who(data, 'Target')} was disabled${byWhom(data)}.`,
  4738: (data) => `${who(data, 'Target')} was changed${byWhom(data)}.`,
  4740: (data) => `${who(data, 'Target')} was locked.`,
  4767: (data) => `${who(data, 'Target')} was unlocked${byWhom(data)}.`,
  4771: (data) =>
    `${who(data, 'Target')} was refused by Kerberos${fromWhere(data)}: ${why(kerberosStatus, data['Status'])}.`,
  4776: (data) =>
    number(data['Status']) === 0
      ? `${who(data, 'Target')} gave the right password (NTLM)${fromWhere(data)}.`
      : `${who(data, 'Target')} was refused (NTLM)${fromWhere(data)}: ${why(signInStatus, data['Status'])}.`,
  4946: (data) => `The rule “${data['RuleName'] ?? ''}” was added to the firewall.`,
  4947: (data) => `The rule “${data['RuleName'] ?? ''}” of the firewall was changed.`,
  4948: (data) => `The rule “${data['RuleName'] ?? ''}” was taken out of the firewall.`,
  4950: (data) => `The firewall was set otherwise: ${data['SettingType'] ?? values(data).join(', ')}.`,
  5152: (data) => `The firewall dropped ${flow(data)}.`,
  5154: (data) => `${data['Application'] ?? 'A program'} listens at port ${data['SourcePort'] ?? '?'}.`,
  5156: (data) => `The firewall let ${flow(data)} through.`,
  5157: (data) => `The firewall blocked ${flow(data)}.`,
};

const dcom: Readonly<Record<number, Say>> = {
  10000: (data) => `A COM server could not be started: ${values(data).join(', ')}.`,
  10001: (data) => `A COM server could not be started as its account: ${values(data).join(', ')}.`,
  10005: (data) => `COM could not start a service for a server: ${reason(data)}.`,
  10006: (data) =>
    `COM got the error ${values(data)[0] ?? ''} from ${values(data)[1] ?? 'a machine'} when it asked for a class there.`,
  10009: (data) => `COM could not reach ${values(data)[0] ?? 'a machine'} by any of its protocols.`,
  10010: (data) => `The class ${values(data)[0] ?? ''} did not come up in time.`,
  10015: (data) => `${refusal(data)}, by the machine’s limits.`,
  10016: (data) => `${refusal(data)}: its settings grant it no such permission.`,
  10021: (data) => `The permission for launching and activating is broken: ${values(data).join(', ')}.`,
  10027: (data) => `The machine’s limits on access refuse a caller: ${values(data).join(', ')}.`,
  10028: (data) => `COM could not reach ${values(data)[0] ?? 'a machine'} by any of its protocols.`,
  10036: (data) =>
    `The server refused a call: its level of authentication is lower than packet integrity (${values(data).join(', ')}).`,
  10037: (data) =>
    `This machine asked for a class below packet integrity, which servers refuse: ${values(data).join(', ')}.`,
  10038: (data) => `A call was raised to packet integrity, which servers demand: ${values(data).join(', ')}.`,
};
/** Which settings, local or remote, what for, class, application, user, domain, SID, address. */
function refusal(data: Readonly<Record<string, string>>): string {
  const [, where = '', what = 'activation', clsid = 'a class', , user = 'somebody', domain, , address] = values(data);
  const name = known(domain) === null ? user : `${domain}\\${user}`;
  const from = /^[\d.:a-f]+$/i.test(address ?? '') ? ` from ${address}` : '';
  return `COM refused ${name}${from} ${[where, what].join(' ').trim().toLowerCase()} of ${clsid}`;
}
const reason = (data: Readonly<Record<string, string>>): string => {
  const code = values(data)
    .map(number)
    .find((value) => value > 0);
  return code === undefined ? values(data).join(', ') : sayCode(code);
};

const services: Readonly<Record<number, Say>> = {
  7000: (data) => `The service ${values(data)[0] ?? ''} could not start: ${values(data)[1] ?? 'no reason was given'}.`,
  7001: (data) =>
    `The service ${values(data)[0] ?? ''} could not start, because ${values(data)[1] ?? 'another'} did not.`,
  7009: (data) => `The service ${values(data)[1] ?? values(data)[0] ?? ''} did not come up in time.`,
  7011: (data) => `The service ${values(data)[1] ?? values(data)[0] ?? ''} did not answer in time.`,
  7022: (data) => `The service ${values(data)[0] ?? ''} hung while it started.`,
  7023: (data) => `The service ${values(data)[0] ?? ''} ended with an error: ${values(data)[1] ?? ''}.`,
  7024: (data) => `The service ${values(data)[0] ?? ''} ended with its own error: ${values(data)[1] ?? ''}.`,
  7031: (data) => `The service ${values(data)[0] ?? ''} ended unexpectedly.`,
  7034: (data) => `The service ${values(data)[0] ?? ''} ended unexpectedly.`,
  7036: (data) => `The service ${values(data)[0] ?? ''} is now ${values(data)[1] ?? ''}.`,
  7038: (data) =>
    `The service ${values(data)[0] ?? ''} could not sign in as ${values(data)[1] ?? ''}: ${values(data)[2] ?? ''}.`,
  7040: (data) => `How the service ${values(data)[0] ?? ''} starts was changed.`,
  7041: (data) =>
    `The service ${values(data)[0] ?? ''} could not sign in as ${values(data)[1] ?? ''}: the account is not granted it.`,
  7045: (data) => `The service ${data['ServiceName'] ?? values(data)[0] ?? ''} was installed.`,
};

const starts: Readonly<Record<number, Say>> = {
  1074: (data) => `The machine was told to ${values(data)[4] ?? 'restart'}, by ${values(data)[6] ?? 'somebody'}.`,
  6005: () => 'The machine has started.',
  6006: () => 'The machine was shut down.',
  6008: () => 'The machine went off unexpectedly.',
};

const channels: Readonly<Record<number, Say>> = {
  36870: () => 'The private key of a certificate could not be used.',
  36871: () => 'A TLS credential could not be made.',
  36874: () => 'A TLS client offered nothing that this machine takes.',
  36881: () => 'The certificate of the other side has expired or is not valid yet.',
  36882: () => 'The certificate of the other side was issued by an authority that is not trusted here.',
  36884: () => 'The certificate of the other side is for another name.',
  36887: (data) => `The other side sent a fatal alert of TLS: ${data['AlertDesc'] ?? values(data)[0] ?? ''}.`,
  36888: (data) => `This machine sent a fatal alert of TLS: ${data['AlertDesc'] ?? values(data)[0] ?? ''}.`,
};

/** By the end of the provider’s name: older and newer systems put different words in front. */
const byProvider: readonly (readonly [pattern: RegExp, table: Readonly<Record<number, Say>>])[] = [
  [/Security-Auditing$/i, security],
  [/DistributedCOM$|^DCOM$/i, dcom],
  [/Service Control Manager$/i, services],
  [/^Schannel$/i, channels],
  [/^EventLog$|^User32$/i, starts],
];

/** What an event says, in words; null: it is none of those that are known here. */
export function sayWindowsEvent({ provider, eventId, data }: Told): string | null {
  const table = byProvider.find(([pattern]) => pattern.test(provider))?.[1];
  return table?.[eventId]?.(data) ?? null;
}
