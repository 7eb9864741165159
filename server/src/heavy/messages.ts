import type { Problem } from '@loyal-hinge/contract';

/** From the serving thread to the worker. */
export interface Asked {
  readonly id: number;
  readonly name: string;
  readonly input: unknown;
}

/** And back. */
export type Told =
  | { readonly id: number; readonly ok: true; readonly result: unknown }
  | {
      readonly id: number;
      readonly ok: false;
      readonly problem: Problem | null;
      readonly message: string;
      /** Codes of the error and of what caused it. */
      readonly codes: readonly string[];
    };
