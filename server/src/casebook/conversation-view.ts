import { attemptOfConversation, LinkFinder } from '@loyal-hinge/core/casebook';
import type { Place, Story, StoryMessage } from '@loyal-hinge/core/casebook';
import type { ConversationView, MessageBytes } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { conflict, notFound } from '../http/problems.js';
import { readPlant } from '../plant/store.js';
import { readStory } from './read-story.js';
import { findEvidence } from './store.js';

interface Wanted {
  readonly evidenceId: string;
  readonly path: string;
  readonly position: number;
}

/** What two machines said to each other, as a capture shows it. */
export async function conversationViewOf(db: Database, wanted: Wanted): Promise<ConversationView> {
  const row = await findEvidence(db, wanted.evidenceId);
  if (!row) throw notFound('file', wanted.evidenceId);
  const { conversation, messages, leftOut } = await storyAt(wanted, null);
  const aheadMs = row.clock.aheadSeconds * 1000;
  const attempt = attemptOfConversation(conversation, { fileId: row.id, clockAheadMs: aheadMs });
  const plant = await readPlant(db);
  const finder = new LinkFinder(plant);
  const link = finder.linkOf(attempt) ?? finder.wayBackOf(attempt);
  const endOf = ({ address, port }: Place) => ({
    address,
    port,
    name: finder.machineOf({ address, port, name: null })?.name ?? null,
  });
  return {
    evidenceId: row.id,
    file: row.name,
    position: wanted.position,
    client: endOf(conversation.client),
    server: endOf(conversation.server),
    protocol: conversation.protocol,
    user: conversation.user ?? null,
    linkId: link?.link.id ?? null,
    linkName: link?.link.name ?? null,
    hasFailed: attempt.ended.hasFailed,
    says: attempt.ended.says,
    start: new Date(attempt.start).toISOString(),
    end: new Date(attempt.end).toISOString(),
    notes: [...conversation.notes],
    messages: messages.map((message) => viewOf(message, aheadMs)),
    leftOut,
  };
}

/** The bytes of one of its messages. */
export async function messageBytesOf(wanted: Wanted & { readonly index: number }): Promise<MessageBytes> {
  const { messages, bytes } = await storyAt(wanted, wanted.index);
  const message = messages[wanted.index];
  if (!message) throw notFound('message', String(wanted.index));
  return { index: wanted.index, content: bytes && Buffer.from(bytes).toString('base64') };
}

async function storyAt({ evidenceId, path, position }: Wanted, bytesOf: number | null): Promise<Story> {
  const story = await readStory(path, position, bytesOf).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'ENOENT') throw error;
    throw conflict('The file was thrown away; what it told is still here.', 'Bring it again to look into it.');
  });
  if (!story) throw notFound('conversation', `${evidenceId}, byte ${position}`);
  return story;
}

const viewOf = ({ at, details, ...message }: StoryMessage, aheadMs: number) => ({
  ...message,
  at: at / 1000 - aheadMs,
  details: details.map(([name, value]) => ({ name, value })),
});
