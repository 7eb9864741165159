import { parse } from 'csv-parse/sync';
import { readIptables } from './iptables/read.js';
import { isRuleList, readRuleList, readRuleRows } from './list/read.js';
import { compileNft } from './nftables/compile.js';
import { readNftJson } from './nftables/json.js';
import { NotRead } from './nftables/syntax.js';
import { readNftText } from './nftables/text.js';
import type { ReadRuleSet, RuleSetFormat } from './rule-set.js';
import { readWindowsRules } from './windows/read.js';

/** Longer ones are refused: no device’s rules are that many. */
export const mostRuleSetLetters = 64 * 1024 * 1024;

/**
 * Reads the rules of a device as it writes them itself.
 * @param format `auto`: by what the text looks like
 * @returns the rules, or the line where it can’t be read on and what to do
 */
export function readRuleSet(text: string, format: RuleSetFormat | 'auto'): ReadRuleSet {
  if (text.length > mostRuleSetLetters)
    return {
      ok: false,
      line: 0,
      says: 'This is longer than 64 million letters: give the rules of one device, without what only counts or lists connections.',
    };
  const plain = text.replace(/^\ufeff/, '');
  const kind = format === 'auto' ? formatOf(plain) : format;
  if (kind === null) return { ok: false, line: 1, says: notKnown(plain) };
  try {
    return readers[kind](plain);
  } catch (error) {
    if (error instanceof NotRead) return { ok: false, line: error.line, says: error.message };
    throw error;
  }
}

const readers: Readonly<Record<RuleSetFormat, (text: string) => ReadRuleSet>> = {
  nft: (text) => ({ ok: true, ruleSet: compileNft(readNftText(text), 'nft') }),
  'nft-json': (text) => ({ ok: true, ruleSet: compileNft(readNftJson(text), 'nft-json') }),
  iptables: readIptables,
  windows: readWindowsRules,
  list: readList,
};

/** null: it looks like none that is known. */
export function formatOf(text: string): RuleSetFormat | null {
  const start = text.slice(0, 65_536);
  if (/^\s*\{/.test(start)) return /"passageRules"\s*:/.test(start) ? 'list' : 'nft-json';
  if (/^\s*(Windows Registry Editor|REGEDIT4)/.test(start)) return 'windows';
  if (/^\*(filter|nat|mangle|raw|security)\s*$/m.test(start)) return 'iptables';
  if (/^\s*(table|flush ruleset|include|define)\b/m.test(start)) return 'nft';
  const [first = ''] = start.trimStart().split(/\r?\n/);
  return /(^|[,;])"?action"?([,;]|$)/.test(first) ? 'list' : null;
}

const forms =
  'Known are the outputs of “nft list ruleset”, “nft -j list ruleset”, “iptables-save” and “ip6tables-save”, exports of the registry with the Windows firewall’s rules, and the plain list of docs/formats.md.';

function notKnown(text: string): string {
  if (text.trim() === '') return `There is nothing in it. ${forms}`;
  if (/^(-[PNA] |Chain \w+ \()/m.test(text))
    return `This looks like iptables -S or -L, which leave things out. Give the output of iptables-save.`;
  if (/^(Rule Name|Regelname):/m.test(text))
    return `This list depends on the machine’s language. Export the firewall’s key of the registry instead. ${forms}`;
  return `This is no rule set of a kind that is known. ${forms}`;
}

function readList(text: string): ReadRuleSet {
  if (!/^\s*[{[]/.test(text)) return readCsv(text);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, line: 0, says: 'This is no JSON, or it is cut off.' };
  }
  if (!isRuleList(value))
    return { ok: false, line: 0, says: 'This JSON says no “passageRules”. See docs/formats.md for the list of rules.' };
  return readRuleList(value);
}

function readCsv(text: string): ReadRuleSet {
  const [first = ''] = text.split(/\r?\n/, 1);
  try {
    const rows: Record<string, string>[] = parse(text, {
      columns: true,
      skip_empty_lines: true,
      trim: true,
      delimiter: first.includes(';') && !first.includes(',') ? ';' : ',',
    });
    return readRuleRows(rows);
  } catch (error) {
    return {
      ok: false,
      line: 0,
      says: `This is no CSV that can be read: ${error instanceof Error ? error.message : 'it is broken'}`,
    };
  }
}
