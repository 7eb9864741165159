import { typableTypes, typedValue } from '@loyal-hinge/core';
import type { BenchTyped, BenchWrite, BenchWritten } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import { conflict, invalid } from '../http/problems.js';
import type { BenchSession, NodeToWrite, WireValue } from './sessions/bench-session.js';

/** What one live session writes by hand: each value is held to its node, noted before and after, and can be undone. */
export class BenchWrites {
  /** By node, the value that was there before this session wrote it last. */
  private readonly before = new Map<string, NodeToWrite>();

  constructor(
    private readonly db: Database,
    private readonly linkId: string,
    private readonly owner: string,
  ) {}

  async typed(session: BenchSession, nodeId: string): Promise<BenchTyped> {
    const node = await session.toWrite(nodeId);
    const { dataType, isArray, range, names, mayWrite, shown } = node;
    const earlier = this.before.get(nodeId);
    return {
      nodeId,
      value: shown,
      dataType,
      canBeTyped: typableTypes.some((type) => type === dataType),
      isArray,
      range: range && { ...range },
      names: [...(names?.values() ?? [])],
      mayWrite,
      undo: earlier ? earlier.shown : null,
    };
  }

  /**
   * Writes what somebody typed, and reads it back.
   * @throws a problem where it is no such value, may not be written, or where another value stands there than was seen
   */
  async write(session: BenchSession, { nodeId, typed, seen, why }: BenchWrite): Promise<BenchWritten> {
    const node = await session.toWrite(nodeId);
    if (!node.mayWrite)
      throw conflict('The server says that this session’s user may not write here.', 'See Entry › Rights.');
    const now = node.shown;
    if (now !== seen)
      throw conflict(
        `The value is ${now ?? 'empty'} now, and was ${seen ?? 'empty'} when you typed: somebody or something else has set it.`,
        'Look at it again, then decide.',
      );
    const value = typedValue(typed, node);
    if (!value.ok) throw invalid('This value can’t be written here.', [{ place: 'typed', says: value.says }]);
    const written = await this.put(session, nodeId, node, node.valueOf(value.elements), why);
    this.before.set(nodeId, node);
    return written;
  }

  /** Writes the value back that was there before this session wrote last. */
  async undo(session: BenchSession, nodeId: string): Promise<BenchWritten> {
    const before = this.before.get(nodeId);
    if (!before) throw conflict('This session has written nothing here.', 'There is nothing to undo.');
    const node = await session.toWrite(nodeId);
    const written = await this.put(session, nodeId, node, before, 'Undone on the bench.');
    this.before.delete(nodeId);
    return written;
  }

  /** It is noted that it will be written, and then what came of it: nothing is written unseen. */
  private async put(
    session: BenchSession,
    nodeId: string,
    now: NodeToWrite,
    { value, said: wanted }: { readonly value: WireValue; readonly said: string | null },
    why: string,
  ): Promise<BenchWritten> {
    const details = { nodeId, wanted, why };
    await this.note('write asked for on the bench', { ...details, valueNow: now.said });
    const { code, refusal } = await session.write(nodeId, value);
    // What was written is noted, also where it can’t be read back.
    const after = await session.toWrite(nodeId).then(
      ({ said }) => said,
      () => null,
    );
    await this.note('written on the bench', { ...details, code, before: now.said, after });
    if (refusal !== null) throw conflict(`The server refused to write it: ${refusal}`, 'The value is as it was.');
    const stays = after === wanted;
    const says = stays
      ? `It is ${after ?? 'empty'} now; it was ${now.said ?? 'empty'}.`
      : `It was accepted, and is ${after ?? 'empty'} now: something else sets it, or the server does not use it.`;
    return { before: now.said, after, stays, says };
  }

  private note(action: string, details: Readonly<Record<string, unknown>>): Promise<void> {
    const { owner: actor, linkId: subject } = this;
    return this.db.transaction(async (tx) => void (await appendAudit(tx, { actor, action, subject, details })));
  }
}
