import { writeAccess } from '@loyal-hinge/core';
import type { EndpointDescription } from '@loyal-hinge/core';
import type { UaConnection } from '../ua/connection.js';
import type { UaSession } from '../ua/session.js';
import type { Walk } from './walk.js';

/**
 * Tries an anonymous session where the endpoint offers one and the link does not need it: whether a server lets nameless
 * users in is known from trying, not from its list. Their rights on the needed items are read; nothing is written.
 */
export async function useAnonymously(
  walk: Walk,
  connection: UaConnection,
  endpoint: EndpointDescription,
): Promise<void> {
  const isOffered = endpoint.userTokens.some(({ tokenType }) => tokenType === 'Anonymous');
  if (walk.subject.link.identity.kind === 'anonymous' || !isOffered || !walk.looksAround) return;
  const opened = await connection.openSession({ kind: 'anonymous' });
  walk.signal.throwIfAborted();
  if (!opened.ok) {
    walk.log.note({ kind: 'anonymous', accepted: false, code: opened.failure.code, writable: null });
    return;
  }
  try {
    const writable = await firstWritable(walk, opened.value, endpoint).catch(() => null);
    walk.log.note({ kind: 'anonymous', accepted: true, code: 'Good', writable });
  } finally {
    await opened.value.close();
  }
}

async function firstWritable(walk: Walk, session: UaSession, endpoint: EndpointDescription): Promise<string | null> {
  const items = walk.foundItems;
  if (items.length === 0) return null;
  const rights = await session.rights(items.map(({ nodeId }) => nodeId));
  const writable = items.find(({ path, nodeId }, index) => {
    const read = rights[index];
    const fact = read && {
      kind: 'item-rights' as const,
      id: '',
      source: 'tried' as const,
      at: '',
      path,
      nodeId,
      ...read,
    };
    return fact !== undefined && writeAccess(fact, endpoint.securityMode).may === 'allowed';
  });
  return writable?.path ?? null;
}
