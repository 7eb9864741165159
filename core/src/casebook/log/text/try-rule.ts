import { compileReadingRule } from './reading-rule.js';
import type { ReadingRule } from './reading-rule.js';
import type { LogClock } from './times.js';

/** What a rule makes of a sample. */
export interface RuleTrial {
  /** Where the pattern is wrong, and why; null: it can be used. */
  readonly fault: { readonly at: number; readonly says: string } | null;
  /** Each line, and its parts by their names; `parts` is null where the line doesn’t fit. */
  readonly lines: readonly { readonly text: string; readonly parts: Readonly<Record<string, string>> | null }[];
}

const mostLines = 50;

/** Reads the lines of a sample by a rule. */
export function tryReadingRule(rule: ReadingRule, sample: string, clock: LogClock): RuleTrial {
  const compiled = compileReadingRule(rule);
  if (!compiled.ok) return { fault: { at: compiled.at, says: compiled.says }, lines: [] };
  const lines = sample.split(/\r?\n/).filter((line) => line.trim() !== '');
  return {
    fault: null,
    lines: lines.slice(0, mostLines).map((text) => ({ text, parts: compiled.rule.read(text, clock) })),
  };
}
