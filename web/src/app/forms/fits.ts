import type { ValidatorFn } from '@angular/forms';
import { plainly } from '@loyal-hinge/contract';

/** A schema of the contract, as far as a field needs it. */
export interface Schema {
  safeParse(
    value: unknown,
    params: { readonly error: typeof plainly },
  ): {
    readonly error?: { readonly issues: readonly { readonly message: string }[] } | undefined;
  };
}

/** Validates a field by the contract’s own schema; the sentence of its first issue stands at the field. */
export const fits =
  (schema: Schema): ValidatorFn =>
  ({ value }) => {
    const [issue] = schema.safeParse(value, { error: plainly }).error?.issues ?? [];
    return issue ? { fits: issue.message } : null;
  };

/** A field that may stay empty. */
export const orEmpty = (schema: Schema): Schema => ({
  safeParse: (value, params) => (value === '' ? {} : schema.safeParse(value, params)),
});
