import type { TrustChange } from '@loyal-hinge/core';
import type { WorkOrder } from '@loyal-hinge/contract';
import type { Caller } from './calls.js';
import { until } from './until.js';

/** The wish that an application trusts a certificate. */
export const listing = (holderId: string, thumbprint: string, until: string | null = null): TrustChange => ({
  kind: 'list-certificate',
  holderId,
  list: 'trusted',
  thumbprint,
  until,
});

/** The wish that an application trusts a certificate no longer. */
export const unlisting = (holderId: string, thumbprint: string): TrustChange => ({
  kind: 'unlist-certificate',
  holderId,
  list: 'trusted',
  thumbprint,
});

/** Two people who take work orders to their end: one proposes and carries out, the other approves. */
export class Pair {
  constructor(
    readonly engineer: Caller,
    readonly approver: Caller,
    private readonly passphrase?: string,
  ) {}

  async carryOut(changes: readonly TrustChange[], linkIds: string[] = []): Promise<WorkOrder> {
    const lines = changes.map((change) => ({ change, why: 'A test wants it.', linkIds }));
    const { id } = await this.engineer.call('proposeOrder', {}, { title: 'A test', lines });
    await this.approver.call('approveOrder', { id });
    return this.goOn(id);
  }

  /** Carries an approved order out, and waits until it comes to rest. */
  async goOn(id: string): Promise<WorkOrder> {
    const body = this.passphrase === undefined ? {} : { passphrase: this.passphrase };
    await this.engineer.call('carryOutOrder', { id }, body);
    return until(
      () => this.engineer.call('order', { id }),
      ({ state }) => state !== 'running',
    );
  }
}
