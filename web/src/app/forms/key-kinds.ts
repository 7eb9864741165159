import { createAuthority } from '@loyal-hinge/contract';
import { asChoices } from './choose';

/** Keys that an authority can have. */
export const keyKinds = asChoices(createAuthority.shape.keyKind.options);
