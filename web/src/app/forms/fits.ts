import type { ValidatorFn } from '@angular/forms';

/** A schema of the contract, as far as a field needs it. */
interface Schema {
  safeParse(value: unknown): {
    readonly error?: { readonly issues: readonly { readonly message: string }[] } | undefined;
  };
}

/** Validates a field by the contract’s own schema; the sentence of its first issue stands at the field. */
export const fits =
  (schema: Schema): ValidatorFn =>
  ({ value }) => {
    const [issue] = schema.safeParse(value).error?.issues ?? [];
    return issue ? { fits: issue.message } : null;
  };
