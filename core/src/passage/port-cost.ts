import type { OpeningPurpose } from './openings.js';

/** An opening of a link as far as its cost goes. */
export interface CountedOpening {
  readonly purpose: OpeningPurpose;
  readonly portCount: number;
  /** How many firewalls stand on its way. */
  readonly firewallCount: number;
}

/** How many ports the firewalls on the way of a classic link must let through. */
export interface PortCost {
  /** As its machines are set now. */
  readonly now: number;
  /** Once the objects of each machine have one port that is always the same. */
  readonly fixed: number;
  /** By gateways at both sides, with a tunnel between them. */
  readonly tunnelled: number;
}

const ofObjects: readonly OpeningPurpose[] = ['objects', 'callback-objects'];

/** What a range of ports for objects costs beside other ways; null: no firewall has to open more than one port for them. */
export function portCostOf(openings: readonly CountedOpening[]): PortCost | null {
  const counted = openings.filter(({ firewallCount }) => firewallCount > 0);
  if (!counted.some(({ purpose, portCount }) => ofObjects.includes(purpose) && portCount > 1)) return null;
  const sum = (of: (opening: CountedOpening) => number): number =>
    counted.reduce((all, opening) => all + of(opening), 0);
  return {
    now: sum(({ portCount }) => portCount),
    fixed: sum(({ purpose, portCount }) => (ofObjects.includes(purpose) ? 1 : portCount)),
    tunnelled: 1,
  };
}
