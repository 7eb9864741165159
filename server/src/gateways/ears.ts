import type { FromOutpost, FromServer } from '@loyal-hinge/contract/line';
import { appendAudit } from '../audit/trail.js';
import type { Database } from '../database/database.js';
import type { Notices } from '../events/notices.js';
import type { OutpostEars, OutpostLines } from '../outposts/lines.js';
import { changeOutpost } from '../outposts/store.js';
import type { OutpostRow } from '../outposts/store.js';
import type { GatewayItems } from './items.js';
import type { GatewayPlanning } from './planning.js';
import { gatewaysOf, knownGateways } from './store.js';

/** What gateways are told, and what they tell. */
export class GatewayEars implements OutpostEars {
  constructor(
    private readonly db: Database,
    private readonly planning: GatewayPlanning,
    private readonly items: GatewayItems,
  ) {}

  /** Gateways that are connected here hear at once of what is kept for their applications and links. */
  start(notices: Notices, lines: Pick<OutpostLines, 'has' | 'look'>): void {
    notices.hear((notice) => {
      if (notice.kind !== 'held') return;
      gatewaysOf(this.db, notice.subjectId)
        .then((ids) => Promise.all(ids.filter((id) => lines.has(id)).map((id) => lines.look(id))))
        .catch(() => undefined);
    });
  }

  async wanted({ id }: OutpostRow): Promise<readonly FromServer[]> {
    const [known] = await knownGateways(this.db, id);
    return known ? [await this.planning.messageFor(known)] : [{ kind: 'removed', says: 'This gateway was removed.' }];
  }

  async told(outpost: OutpostRow, message: FromOutpost): Promise<boolean> {
    if (message.kind === 'items') await this.items.answered(outpost.id, message.askId, message.told);
    if (message.kind !== 'gateway') return false;
    const before = outpost.told?.kind === 'gateway' ? outpost.told : null;
    await changeOutpost(this.db, outpost.id, { told: message });
    // With what it holds, keys and passwords went to its machine.
    if (message.revision !== null && message.revision !== '' && before?.revision !== message.revision) {
      const servers = await this.serversOf(outpost.id, message);
      await this.db.transaction((tx) =>
        appendAudit(tx, {
          actor: 'outpost',
          action: 'gateway holds what it was told',
          subject: outpost.id,
          details: { revision: message.revision, servers },
        }),
      );
    }
    return (
      before?.revision !== message.revision || before.fault !== message.fault || statesOf(before) !== statesOf(message)
    );
  }

  /** The servers whose keys and passwords a revision holds: a gateway holds it before it has begun to read any of them. */
  private async serversOf(outpostId: string, { revision, statistics }: ToldByGateway): Promise<readonly string[]> {
    const [known] = await knownGateways(this.db, outpostId);
    const planned = known ? await this.planning.plan(known) : null;
    const named = planned?.revision === revision ? planned.configuration?.sources : statistics?.sources;
    return (named ?? []).map(({ name }) => name);
  }
}

type ToldByGateway = Extract<FromOutpost, { kind: 'gateway' }>;

const statesOf = ({ statistics }: ToldByGateway): string =>
  JSON.stringify([statistics?.items, statistics?.sources.map(({ name, state, fault }) => [name, state, fault])]);
