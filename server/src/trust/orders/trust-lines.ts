import { isTrustChange } from '@loyal-hinge/core';
import type { TrustChange } from '@loyal-hinge/core';
import type { LineRow } from '../../orders/store.js';

/** A line of an order that changes trust. */
export type TrustLine = LineRow<TrustChange>;

/** Those lines of an order that change trust. */
export const trustLinesOf = (lines: readonly LineRow[]): readonly TrustLine[] =>
  lines.filter((line): line is TrustLine => isTrustChange(line.change));
