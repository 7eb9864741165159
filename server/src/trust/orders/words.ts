import { givesCertificate, sayTrustChange, targetOf, trustNames } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { ChangeWords } from '../../orders/port.js';
import { authoritiesHere } from '../authorities/store.js';
import { knownTrust } from '../known/known-trust.js';
import { asItLies, holds } from './holding.js';

/** Changes of lists and certificates, as work orders show and prove them. */
export const trustWords: ChangeWords<TrustChange> = {
  async say(db, lines) {
    const [{ applications, trust, shelf }, signers] = await Promise.all([knownTrust(db), authoritiesHere(db)]);
    const names = trustNames([...applications.values()], shelf);
    const parties = new Map(trust.parties.map((party) => [party.applicationId, party]));
    return lines.map(({ change }) => {
      const party = parties.get(targetOf(change));
      return {
        ...sayTrustChange(change, names),
        way: party?.way ?? 'unknown',
        restart: (party?.restarts ?? false) || (givesCertificate(change) && party?.way !== 'held'),
        signedHere: isSignedHere(change, signers),
      };
    });
  },
  async holding(db, lines) {
    const known = await knownTrust(db);
    return lines.filter(({ change }) => holds(change, known)).map(({ position }) => position);
  },
  async asTheyLie(db, lines) {
    const known = await knownTrust(db);
    return lines.map((line) => ({ ...line, change: asItLies(line.change, known) }));
  },
};

/** Whether an authority whose key lies here signs for a change. */
export const isSignedHere = (change: TrustChange, signers: ReadonlySet<string>): boolean =>
  change.kind === 'renew-certificate' && signers.has(change.authority);
