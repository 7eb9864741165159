import type { LinkKindId } from '@loyal-hinge/core';
import { walkLink } from './walk-link.js';

/** How links of each kind are walked. */
export const walks: Readonly<Record<LinkKindId, typeof walkLink>> = { ua: walkLink };
