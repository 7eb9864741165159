import { randomBytes } from 'node:crypto';
import type { ISessionContext, UAVariable } from 'node-opcua-address-space';
import { HistoryReadResult, PermissionType } from 'node-opcua-types';
import type { HistoryReadDetails, HistoryReadValueIdOptions } from 'node-opcua-types';
import { StatusCodes } from 'node-opcua-status-code';

type IndexRange = HistoryReadValueIdOptions['indexRange'] | null;
type DataEncoding = HistoryReadValueIdOptions['dataEncoding'];

/** A part of an item’s history, as one UA peer asks another for it (Part 11 §6.4). */
export interface HistoryAsked {
  readonly details: HistoryReadDetails;
  readonly indexRange: IndexRange;
  readonly dataEncoding: DataEncoding;
  readonly continuationPoint: Buffer | null;
  /** Nothing is read: the continuation point is given back. */
  readonly releases: boolean;
}

/** What a source answers, or a status code by its name. */
export type HistoryAnswer = HistoryReadResult | string;
/** Hands what a reader asks to the source. */
export type FaceHistory = (key: string, asked: HistoryAsked) => Promise<HistoryAnswer>;

const mostPoints = 1_000;

/**
 * Continuation points of the source’s session, each kept for the reader’s session that it was given to: nobody reads on where
 * somebody else began.
 */
export class HistoryPoints {
  private readonly points = new Map<string, { readonly session: string; readonly point: Buffer }>();

  /** The point that a reader gets instead of the source’s; the oldest go where there are too many. */
  keep(session: string, point: Buffer): Buffer {
    for (const [oldest] of this.points) {
      if (this.points.size < mostPoints) break;
      this.points.delete(oldest);
    }
    const own = randomBytes(16);
    this.points.set(own.toString('hex'), { session, point });
    return own;
  }

  /** The source’s point behind a reader’s own, for once; null: it has none like that. */
  take(session: string, own: Buffer): Buffer | null {
    const key = own.toString('hex');
    const kept = this.points.get(key);
    if (kept?.session !== session) return null;
    this.points.delete(key);
    return kept.point;
  }
}

interface Continued {
  readonly continuationPoint?: Buffer | null;
  readonly releaseContinuationPoints?: boolean;
}
type Answer = (error: Error | null, result?: HistoryReadResult) => void;

/** Answers what readers ask of a variable’s history by what its source answers. */
export function historyOf(variable: UAVariable, key: string, points: HistoryPoints, ask: FaceHistory) {
  const answer = async (
    context: ISessionContext,
    details: HistoryReadDetails,
    indexRange: IndexRange,
    dataEncoding: DataEncoding,
    { continuationPoint, releaseContinuationPoints }: Continued,
  ): Promise<HistoryReadResult> => {
    if (!context.checkPermission(variable, PermissionType.ReadHistory)) return refused('BadUserAccessDenied');
    const session = context.session?.getSessionId().toString() ?? '';
    const isContinued = continuationPoint !== null && continuationPoint !== undefined && continuationPoint.length > 0;
    const kept = isContinued ? points.take(session, continuationPoint) : null;
    if (isContinued && !kept) return refused('BadContinuationPointInvalid');
    const told = await ask(key, {
      details,
      indexRange,
      dataEncoding,
      continuationPoint: kept,
      releases: releaseContinuationPoints === true,
    });
    if (typeof told === 'string') return refused(told);
    const next = told.continuationPoint;
    return new HistoryReadResult({
      statusCode: told.statusCode,
      historyData: told.historyData ?? null,
      ...(next && next.length > 0 ? { continuationPoint: points.keep(session, next) } : {}),
    });
  };
  return (
    context: ISessionContext,
    details: HistoryReadDetails,
    indexRange: IndexRange,
    dataEncoding: DataEncoding,
    continued: Continued,
    done: Answer,
  ): void => {
    void answer(context, details, indexRange, dataEncoding, continued).then(
      (result) => done(null, result),
      () => done(null, refused('BadInternalError')),
    );
  };
}

const refused = (code: string): HistoryReadResult =>
  new HistoryReadResult({
    statusCode: (StatusCodes as unknown as Record<string, typeof StatusCodes.Good>)[code] ?? StatusCodes.Bad,
  });
