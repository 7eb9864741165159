import type { FactBody } from '../../links/facts.js';
import type { ClassicFailure } from '../../links/classic/facts.js';

/** That a client of a classic server was not called back, as a check sees it. @param failure null: nobody said why */
export const notCalledBack = (failure: ClassicFailure | null): FactBody => ({
  kind: 'classic-watch',
  wantedMs: 0,
  revisedMs: null,
  back: null,
  calls: [],
  unproven: [],
  strangers: [],
  failure,
});
