import { csvLine } from '../csv.js';
import { printedStatusCode } from '../ua/status-codes.js';

/** `changes`: a row for each change; `samples`: a row at regular times, with the items in columns. */
export const recordingShapes = ['changes', 'samples'] as const;
export type RecordingShape = (typeof recordingShapes)[number];

/** A value as it came. */
export interface RecordedValue {
  readonly code: string;
  readonly value: string | null;
  readonly number: number | null;
  readonly sourceTimestamp: string | null;
  readonly serverTimestamp: string | null;
}

/**
 * Lines of a recording as CSV. A value that is not good stands as its status code, so that none is taken for a
 * measurement; before the first value came a cell is empty.
 */
export class RecordedRows {
  private readonly newest: (RecordedValue | null)[];

  constructor(
    private readonly shape: RecordingShape,
    private readonly names: readonly string[],
  ) {
    this.newest = names.map(() => null);
  }

  get header(): string {
    return csvLine(
      this.shape === 'changes'
        ? ['time', 'item', 'value', 'status', 'source time', 'server time']
        : ['time', ...this.names],
    );
  }

  /** A value came. @returns its line where each change has one; null otherwise */
  heard(at: string, index: number, value: RecordedValue): string | null {
    this.newest[index] = value;
    if (this.shape !== 'changes') return null;
    return csvLine([
      at,
      this.names[index] ?? '',
      cellOf(value),
      printedStatusCode(value.code),
      value.sourceTimestamp ?? '',
      value.serverTimestamp ?? '',
    ]);
  }

  /** The newest value of every item, at one moment. */
  sample(at: string): string {
    return csvLine([at, ...this.newest.map((value) => (value ? cellOf(value) : ''))]);
  }
}

const cellOf = ({ code, value, number }: RecordedValue): string | number =>
  code.startsWith('Bad') ? printedStatusCode(code) : (number ?? value ?? '');
