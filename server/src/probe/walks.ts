import type { LinkInPlant, LinkKindId } from '@loyal-hinge/core';
import { walkClassicLink } from './classic/walk-classic-link.js';
import type { CheckLog, CheckMeans } from './means.js';
import { walkLink } from './walk-link.js';

type WalkOfKind = (subject: LinkInPlant, means: CheckMeans, log: CheckLog, signal: AbortSignal) => Promise<void>;

/** How links of each kind are walked. */
export const walks: Readonly<Record<LinkKindId, WalkOfKind>> = { ua: walkLink, classic: walkClassicLink };
