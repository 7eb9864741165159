import type { ShownProblem } from './problem';

/** Something that the server shows: what it showed last, whether it was asked anew, and why it could not show it. */
export interface View<Shown> {
  readonly shown: Shown | null;
  readonly isLoading: boolean;
  readonly problem: ShownProblem | null;
}

/** Before it was asked for. */
export const noView: View<never> = { shown: null, isLoading: false, problem: null };

/** What was shown stays until there is an answer. */
export const asked = <Shown>(view: View<Shown>): View<Shown> => ({ ...view, isLoading: true, problem: null });
export const shown = <Shown>(what: Shown): View<Shown> => ({ shown: what, isLoading: false, problem: null });
export const notShown = <Shown>(view: View<Shown>, problem: ShownProblem): View<Shown> => ({
  ...view,
  isLoading: false,
  problem,
});
