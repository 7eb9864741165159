import { AttributeIds, MessageSecurityMode } from 'node-opcua-client';
import type { ClientSession, DataValue } from 'node-opcua-client';
import {
  ServerDiagnosticsSummaryDataType,
  SessionDiagnosticsDataType,
  SessionSecurityDiagnosticsDataType,
} from 'node-opcua-types';
import type { ServerSession, ServerSessions, SessionCounts } from '@loyal-hinge/core';
import type { Limited } from './monitored-item.js';
import { readTogether } from './read-together.js';
import { longestText } from './read-value.js';

/** Well-known nodes of ServerDiagnostics (Part 5 §6.3.3; Part 6 Annex A). */
const nodes = { isCounting: 'i=2294', summary: 'i=2275', sessions: 'i=3707', security: 'i=3708' } as const;
const mostSessions = 2000;

/** Who is connected to a server, as far as it tells this session’s user. */
export async function readServerSessions(session: ClientSession, limited: Limited): Promise<ServerSessions> {
  const wished = Object.values(nodes).map((nodeId) => ({ nodeId, attributeId: AttributeIds.Value }));
  const [isCounting, summary, sessions, security] = await readTogether(session, wished, limited);
  const flag: unknown = goodValue(isCounting);
  const secured = new Map(
    listIn(security).flatMap((one) =>
      one instanceof SessionSecurityDiagnosticsDataType ? [[String(one.sessionId), one] as const] : [],
    ),
  );
  const told = listIn(sessions).flatMap((one) => (one instanceof SessionDiagnosticsDataType ? [one] : []));
  const own = String(session.sessionId);
  return {
    isCounting: typeof flag === 'boolean' ? flag : null,
    counts: countsIn(goodValue(summary)),
    sessions: Array.isArray(goodValue(sessions))
      ? told.map((one) => sessionOf(one, secured.get(String(one.sessionId)), own))
      : null,
  };
}

const goodValue = (read: DataValue | undefined): unknown =>
  read?.statusCode.isGood() ? (read.value.value as unknown) : undefined;

function listIn(read: DataValue | undefined): readonly unknown[] {
  const list = goodValue(read);
  return Array.isArray(list) ? list.slice(0, mostSessions) : [];
}

const countsIn = (summary: unknown): SessionCounts | null =>
  summary instanceof ServerDiagnosticsSummaryDataType
    ? {
        now: summary.currentSessionCount,
        ever: summary.cumulatedSessionCount,
        refused: summary.rejectedSessionCount,
        refusedForSecurity: summary.securityRejectedSessionCount,
        timedOut: summary.sessionTimeoutCount,
        aborted: summary.sessionAbortCount,
      }
    : null;

const short = (text: string | null | undefined): string => (text ?? '').slice(0, longestText);
const instant = (date: Date | null): string | null =>
  date && date.getTime() > Date.UTC(1990, 0, 1) ? date.toISOString() : null;

const modes: Readonly<Record<number, ServerSession['mode']>> = {
  [MessageSecurityMode.None]: 'None',
  [MessageSecurityMode.Sign]: 'Sign',
  [MessageSecurityMode.SignAndEncrypt]: 'SignAndEncrypt',
};

function sessionOf(
  told: SessionDiagnosticsDataType,
  security: SessionSecurityDiagnosticsDataType | undefined,
  ownId: string,
): ServerSession {
  const id = String(told.sessionId);
  return {
    id,
    name: short(told.sessionName),
    applicationUri: short(told.clientDescription.applicationUri),
    applicationName: short(told.clientDescription.applicationName.text),
    user: security ? short(security.clientUserIdOfSession) || null : null,
    mechanism: short(security?.authenticationMechanism),
    mode: security ? (modes[security.securityMode] ?? null) : null,
    policyUri: short(security?.securityPolicyUri),
    connectedAt: instant(told.clientConnectionTime),
    lastContactAt: instant(told.clientLastContactTime),
    subscriptions: told.currentSubscriptionsCount,
    items: told.currentMonitoredItemsCount,
    unauthorized: told.unauthorizedRequestCount,
    isOwn: id === ownId,
  };
}
