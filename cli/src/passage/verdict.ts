import { judgePacket, oneLine, profiles, readPacket, readRuleSet, ruleSetFormats, textOf } from '@loyal-hinge/core';
import type { Profile, RuleSet, RuleSetFormat } from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import { BadCase, answerCases } from '../cases.js';
import type { Command } from '../command.js';
import { readExport } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge passage verdict --rules FILE [--format ${ruleSetFormats.join('|')}|auto] --packets FILE [--profile ${profiles.join('|')}] --json
  Says for each packet of a file, a JSON object a line, what a device’s rules make of it, over its whole way through the
  machine. A line: { "id", "hook": "forward"|"input"|"output", "in", "out", "source", "destination", "protocol",
  "sourcePort"?, "destinationPort"?, "state": "new"|"established" }; the destination is the one before any translation, the
  hook and the interfaces those after it. Where the port of the source is missing, the answer holds for all of them.
  Exit code 0, 3 where a line is wrong, 2 when it could not run.`;

export const verdict: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(
      args,
      { rules: 'text', format: 'text', packets: 'text', profile: 'text', json: 'flag' },
      usage,
    );
    if (options.rules === null || options.packets === null || rest.length > 0)
      throw new CannotRun(`Say which rules and which packets.\n\n${usage}`);
    const ruleSet = rulesIn(options.rules, formatIn(options.format ?? 'auto'));
    const profile = profileIn(options.profile);
    for (const { line, says } of ruleSet.notes)
      errors.write(`${oneLine(options.rules)}${line === 0 ? '' : `, line ${line}`}: ${oneLine(says)}\n`);
    const cases = ['--cases', options.packets, ...(options.json ? ['--json'] : [])];
    return Promise.resolve(
      answerCases(cases, out, usage, (fields) => {
        const read = readPacket(fields, profile);
        if (!read.ok) throw new BadCase(read.says);
        const { verdict: told, translated, rule, why } = judgePacket(ruleSet, read.packet);
        return {
          verdict: told,
          ...(translated && {
            translated: {
              destination: translated.destination,
              ...(translated.destinationPort !== null && { destinationPort: translated.destinationPort }),
            },
          }),
          ...(rule && { rule: { table: rule.table, chain: rule.chain, index: rule.index, text: rule.text } }),
          ...(why !== null && { why }),
        };
      }),
    );
  },
};

function rulesIn(file: string, format: RuleSetFormat | 'auto'): RuleSet {
  const read = readRuleSet(textOf(readExport(file)), format);
  if (read.ok) return read.ruleSet;
  throw new CannotRun(`${file}${read.line === 0 ? '' : `, line ${read.line}`}: ${read.says}`);
}

function formatIn(text: string): RuleSetFormat | 'auto' {
  const format = text === 'auto' ? text : ruleSetFormats.find((each) => each === text);
  if (!format) throw new CannotRun(`“${text}” is no format of rules.\n\n${usage}`);
  return format;
}

function profileIn(text: string | null): Profile | null {
  if (text === null) return null;
  const profile = profiles.find((each) => each === text);
  if (!profile) throw new CannotRun(`“${text}” is no profile.\n\n${usage}`);
  return profile;
}
