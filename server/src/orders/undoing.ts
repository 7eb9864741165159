import { capabilityOf, changedBy, wayBackOf } from '@loyal-hinge/core';
import type { OrderChange } from '@loyal-hinge/core';
import type { WorkOrder } from '@loyal-hinge/contract';
import { appendAudit } from '../audit/trail.js';
import { persist } from '../database/database.js';
import type { Database } from '../database/database.js';
import { conflict, notFound } from '../http/problems.js';
import type { Actor } from '../http/serve.js';
import type { ServerProcess } from '../processes/server-process.js';
import { wantsAnother } from '../proposals/wants-another.js';
import type { Carried, ChangeDesks } from './port.js';
import type { WorkOrders } from './service.js';
import { findOrder, linesOf, moveLines } from './store.js';
import type { LineRow } from './store.js';

/** How long is tried to write down what was undone while the database is away. */
const patienceMs = 5 * 60_000;

/** Takes single lines of work orders back. */
export class OrderUndoing {
  constructor(
    private readonly db: Database,
    private readonly server: Pick<ServerProcess, 'id'>,
    private readonly orders: WorkOrders,
    private readonly desks: ChangeDesks,
    private readonly askForChecks: (linkIds: readonly string[], actor: string) => Promise<void>,
  ) {}

  /**
   * Carries the way back of a line out; where the plant wants a second person for that, it is proposed as an order of its own.
   * @returns the order of the line, or the one that was proposed
   */
  async undo(id: string, position: number, actor: Actor): Promise<WorkOrder> {
    const line = (await linesOf(this.db, id)).find((row) => row.position === position);
    if (!line) throw notFound('line', String(position));
    const change = wayBackOf(line.change);
    if (!change)
      throw conflict(
        'The way back of this line is not a change that Loyal Hinge can make.',
        'See the history of the lists.',
      );
    if (line.state !== 'done' && line.state !== 'proved')
      throw conflict('This line was not carried out, or is being undone.', 'Check the present state.');
    if (!line.wrote) throw conflict('This line changed nothing: all was so already.', 'There is nothing to undo.');
    const desk = this.desks[capabilityOf(change)];
    // What a person does at the target can’t be done from here: its way back is an order, too.
    if ((await wantsAnother(this.db)) || (desk.isAlwaysByHand ?? false)) {
      const title = `Undo line ${position} of “${(await findOrder(this.db, id))?.title ?? id}”`.slice(0, 200);
      const why = `It takes back what ${line.by ?? 'somebody'} carried out.`;
      return this.orders.propose({ title, lines: [{ change, why, linkIds: line.linkIds }] }, actor);
    }
    await this.undoNow(line, change, actor);
    await this.askForChecks(line.linkIds, actor.name);
    await this.orders.prove(id);
    return this.orders.one(id);
  }

  private async undoNow(line: LineRow, change: OrderChange, actor: Actor): Promise<void> {
    const { orderId, position, state } = line;
    const move = (...[from, to]: [LineRow['state'], Parameters<typeof moveLines>[4]]): Promise<LineRow[]> =>
      moveLines(this.db, orderId, [position], [from], to);
    const claimed = await move(state, { state: 'undoing', serverId: this.server.id });
    if (claimed.length === 0)
      throw conflict('Somebody else undoes this line, or has done so.', 'Check the present state.');
    let carried: Carried;
    try {
      carried = await this.desks[capabilityOf(change)].carry({
        target: changedBy(change),
        changes: [change],
        passphrase: '',
        actor: actor.name,
        forLine: `${orderId}/${position}/undo`,
      });
    } catch (error) {
      await persist(patienceMs, () => move('undoing', { state, says: line.says }));
      throw error;
    }
    const says =
      carried.idle?.length === 1 ? 'Nothing was left to undo: it was so already.' : `Undone. ${carried.says}`;
    const at = new Date().toISOString();
    await persist(patienceMs, () =>
      this.db.transaction(async (tx) => {
        const undone = { state: 'undone', says, by: actor.name, at, provedAt: null } as const;
        if ((await moveLines(tx, orderId, [position], ['undoing'], undone)).length === 0) return;
        const details = { position, nothingLeft: carried.idle?.length === 1 };
        await appendAudit(tx, { actor: actor.name, action: 'line undone', subject: orderId, details });
      }),
    );
  }
}
