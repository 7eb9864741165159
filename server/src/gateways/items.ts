import { randomUUID } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import type { GatewayItemsView, GatewayItemsWish } from '@loyal-hinge/contract';
import type { GatewayItems as Told } from '@loyal-hinge/contract/line';
import type { Database } from '../database/database.js';
import { tellAsked } from '../events/notices.js';
import type { Notices } from '../events/notices.js';
import { conflict, notFound } from '../http/problems.js';
import type { OutpostLines } from '../outposts/lines.js';
import { isHere } from '../outposts/store.js';
import { sourceName } from './configured.js';
import { answerAsk, findAsk, knownGateways, noteAsk } from './store.js';

const patienceMs = 4_000;
const lookMs = 40;

/** Looks at items of gateways: whichever process a gateway is connected to asks it, and the answer goes over the database. */
export class GatewayItems {
  constructor(
    private readonly db: Database,
    private readonly lines: OutpostLines,
  ) {}

  start(notices: Notices): void {
    notices.hear((notice) => {
      if (notice.kind === 'asked') void this.passOn(notice.askId).catch(() => undefined);
    });
  }

  async look(id: string, wish: GatewayItemsWish, signal: AbortSignal): Promise<GatewayItemsView> {
    const [known] = await knownGateways(this.db, id);
    if (!known) throw notFound('gateway', id);
    if (!isHere(known.outpost))
      throw conflict(`${known.outpost.name} is silent.`, 'See that its process runs, and that it reaches this server.');
    const askId = randomUUID();
    await this.db.transaction(async (tx) => {
      await noteAsk(tx, askId, id, wish);
      await tellAsked(tx, askId);
    });
    for (const end = Date.now() + patienceMs; Date.now() < end; await pause(lookMs)) {
      signal.throwIfAborted();
      const answer = (await findAsk(this.db, askId))?.answer;
      if (!answer) continue;
      const linkIds = new Map(known.sources.map(({ link }) => [sourceName(link.id), link.id]));
      return {
        total: answer.total,
        items: answer.items.map(({ source, ...item }) => ({ ...item, linkId: linkIds.get(source) ?? source })),
      };
    }
    throw conflict(`${known.outpost.name} does not answer.`, 'Try again in a moment.');
  }

  /** A gateway has answered. */
  async answered(id: string, askId: string, told: Told): Promise<void> {
    await answerAsk(this.db, askId, id, told);
  }

  private async passOn(askId: string): Promise<void> {
    const ask = await findAsk(this.db, askId);
    if (ask && this.lines.has(ask.gatewayId)) this.lines.say(ask.gatewayId, { kind: 'tell-items', askId, ...ask.wish });
  }
}
