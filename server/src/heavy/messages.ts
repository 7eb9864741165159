import type { Problem } from '@loyal-hinge/contract';

/** From the serving thread to the worker. */
export interface Asked {
  readonly id: number;
  readonly name: string;
  readonly input: unknown;
}

/** And back: how far it is, what came of it, or why nothing did. */
export type Told = Noted | Done | Failed;
interface Noted {
  readonly id: number;
  readonly progress: number;
}
interface Done {
  readonly id: number;
  readonly ok: true;
  readonly result: unknown;
}
export interface Failed {
  readonly id: number;
  readonly ok: false;
  readonly problem: Problem | null;
  readonly message: string;
  /** Codes of the error and of what caused it. */
  readonly codes: readonly string[];
}
