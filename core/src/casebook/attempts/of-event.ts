import type { FactBody } from '../../links/facts.js';
import type { FirewallEvent, LogEvent, WindowsEvent } from '../log/log-event.js';
import type { Attempt, AttemptPlace, AttemptSource } from './attempt.js';

type Found = Omit<Attempt, 'start' | 'end' | 'evidence'>;
const nowhere: AttemptPlace = { address: null, name: null, port: null };

/** What a line of a log shows of an attempt. @returns null: it tells of none, or not when */
export function attemptOfEvent(event: LogEvent, { fileId, clockAheadMs }: AttemptSource): Attempt | null {
  const found = event.kind === 'firewall' ? ofFirewall(event) : event.kind === 'windows' ? ofWindows(event) : null;
  if (!found || event.time === null) return null;
  const at = Date.parse(event.time) - clockAheadMs;
  return { ...found, start: at, end: at, evidence: [{ fileId, position: event.position, says: found.ended.says }] };
}

function ofFirewall({ action, computer, label, protocol, from, to }: FirewallEvent): Found | null {
  if (protocol !== 'tcp' || (action !== 'drop' && action !== 'reject')) return null;
  const who = computer === '' ? 'A firewall' : computer;
  const rule = label === '' ? '' : ` by the rule “${label}”`;
  return {
    kind: null,
    from: { ...from, name: null },
    to: { ...to, name: null },
    as: null,
    ended: { hasFailed: true, code: '', says: `${who} ${action === 'drop' ? 'dropped' : 'rejected'} it${rule}.` },
    facts: stopped(from.address, to.address, to.port, action === 'drop' ? 'silent' : 'unreachable'),
    remarks: [],
  };
}

const stopped = (from: string, to: string, port: number | null, outcome: 'silent' | 'unreachable'): FactBody[] =>
  port === null ? [] : [{ kind: 'tcp-connect', purpose: 'link', from, address: to, port, outcome, ms: 0 }];

/** Status of a refused sign-in as the code that the caller is told (MS-ERREF 2.1, 2.3). */
const toldAs: Readonly<Record<number, number>> = {
  0xc0000064: 0x8007052e,
  0xc000006a: 0x8007052e,
  0xc000006d: 0x8007052e,
  0xc000006f: 0x80070530,
  0xc0000070: 0x80070531,
  0xc0000071: 0x80070532,
  0xc0000072: 0x80070533,
  0xc000015b: 0x80070569,
  0xc0000193: 0x80070701,
  0xc0000224: 0x80070773,
  0xc0000234: 0x80070775,
};
const refusedSignIns = [4625, 4771, 4776];
const droppedFlows = [5152, 5157];
const notReached = [10009, 10028];
const raised = 10036;

const given = (text: string | undefined): string | null =>
  text === undefined || text === '' || text === '-' ? null : text.replace(/^::ffff:/, '');

function ofWindows(event: WindowsEvent): Found | null {
  const { eventId, provider, says, data, computer } = event;
  if (says === null) return null;
  if (/Security-Auditing$/i.test(provider)) {
    if (refusedSignIns.includes(eventId)) return ofSignIn(event, says);
    if (droppedFlows.includes(eventId)) return ofFlow(event, says);
  }
  if (!/DistributedCOM$|^DCOM$/i.test(provider)) return null;
  const values = Object.values(data);
  const ended = { hasFailed: true, code: String(eventId), says };
  const rest = { kind: 'classic' as const, as: null, ended, facts: [], remarks: [] };
  if (notReached.includes(eventId))
    return { ...rest, from: { ...nowhere, name: computer }, to: { ...nowhere, name: given(values[0]) } };
  if (eventId !== raised) return null;
  const from = values.find((value) => /^\d{1,3}(?:\.\d{1,3}){3}$/.test(value)) ?? null;
  return { ...rest, from: { ...nowhere, address: from }, to: { ...nowhere, name: computer } };
}

function ofSignIn({ eventId, data, computer }: WindowsEvent, says: string): Found | null {
  const status = [data['SubStatus'], data['Status']].map(Number).find((code) => code > 0);
  if (status === undefined) return null;
  const user = given(data['TargetUserName']);
  const domain = given(data['TargetDomainName']);
  const code = eventId === 4771 ? undefined : toldAs[status];
  return {
    kind: null,
    from: {
      address: given(data['IpAddress']),
      name: given(data['WorkstationName']) ?? given(data['Workstation']),
      port: null,
    },
    to: { ...nowhere, name: computer },
    as: user === null || domain === null ? user : `${domain}\\${user}`,
    ended: { hasFailed: true, code: String(eventId), says },
    facts:
      code === undefined
        ? []
        : [
            {
              kind: 'classic-sign-in',
              level: 'connect',
              userName: user,
              outcome: 'refused',
              failure: { by: 'method', code },
              withheld: null,
              computer,
              clockApartMs: null,
              isProven: false,
              isAtMapper: true,
            },
          ],
    remarks: [],
  };
}

function ofFlow({ eventId, data }: WindowsEvent, says: string): Found | null {
  const [from, to] = [given(data['SourceAddress']), given(data['DestAddress'])];
  const port = Number(data['DestPort']);
  if (from === null || to === null || data['Protocol'] !== '6' || !Number.isInteger(port)) return null;
  const sourcePort = Number(data['SourcePort']);
  return {
    kind: null,
    from: { address: from, name: null, port: Number.isInteger(sourcePort) ? sourcePort : null },
    to: { address: to, name: null, port },
    as: null,
    ended: { hasFailed: true, code: String(eventId), says },
    facts: stopped(from, to, port, 'silent'),
    remarks: [],
  };
}
