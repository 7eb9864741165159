import { givesCertificate, wayWords } from '@loyal-hinge/core';
import type { TrustChange, TrustLink } from '@loyal-hinge/core';
import { clientsHeld } from '../../certificates/store.js';
import { persist } from '../../database/database.js';
import type { Database } from '../../database/database.js';
import type { Carried, ChangeDesk, Errand, Gate, OrderAtWork } from '../../orders/port.js';
import type { CertificateRenewal } from '../authorities/renewal.js';
import { authoritiesHere } from '../authorities/store.js';
import { wayOf } from '../lists/ways.js';
import type { TrustCarrier } from '../push/carrier.js';
import type { RenewalProof } from './renewal-proof.js';
import { StageGate } from './stage-gate.js';
import { isSignedHere } from './words.js';

/** How long is tried to read what an order waits for while the database is away. */
const patienceMs = 5 * 60_000;

/** Carries lines of work orders out that change lists or give certificates. */
export class TrustDesk implements ChangeDesk<TrustChange> {
  readonly action = 'lists changed';

  constructor(
    private readonly db: Database,
    private readonly carrier: TrustCarrier,
    private readonly renewal: CertificateRenewal,
    private readonly proof: Pick<RenewalProof, 'doubts'>,
    private readonly links: () => Promise<readonly TrustLink[]>,
  ) {}

  async needPassphrase(changes: readonly TrustChange[]): Promise<boolean> {
    const signers = await authoritiesHere(this.db);
    return changes.some((change) => isSignedHere(change, signers));
  }

  async byHand(target: string, changes: readonly TrustChange[]): Promise<string | null> {
    const [held, way] = await Promise.all([clientsHeld(this.db, [target]), wayOf(this.db, target)]);
    if (held.has(target) || way?.way === 'push') return null;
    return changes.some(givesCertificate)
      ? 'It takes no certificate from here. Have it create a request and sign that on the Authority page, or create a ticket for it; then mark it as done.'
      : `It is changed ${wayWords[way?.way ?? 'unknown']}. Export the bundle, take it there, then mark it as done.`;
  }

  carry({ target, changes, passphrase, actor, forLine }: Errand<TrustChange>): Promise<Carried> {
    const [first] = changes;
    switch (first?.kind) {
      case 'renew-certificate':
        return this.renewal.renew(target, first.authority, passphrase, actor, forLine);
      case 'install-certificate':
        return this.renewal.install(target, first.thumbprint, actor);
      default:
        return this.carrier.change(target, changes, actor);
    }
  }

  /** Nothing is renewed or taken away while what lets it in, or takes its place, is not there or not proved. */
  async gate({ decidedAt, actor, signal, linesNow, sayWaiting }: OrderAtWork): Promise<Gate> {
    const links = await persist(patienceMs, this.links);
    return new StageGate(links, linesNow, async (renewals) => {
      // Trying new certificates takes a while.
      await sayWaiting(2, 'The new certificates are tried first, on every link of theirs.');
      return this.proof.doubts(renewals, links, decidedAt, actor, signal);
    });
  }
}
