import { statSync } from 'node:fs';
import { compileReadingRule, counted, LogReading, zoneOf } from '@loyal-hinge/core/casebook';
import type { LogEvent, LogRead, RuleReader } from '@loyal-hinge/core/casebook';
import { Batched } from '../batched.js';
import { CannotRun } from '../cannot-run.js';
import type { Command, Out } from '../command.js';
import { readInParts } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge log read FILE… [--zone ZONE] [--rule PATTERN] --json
  Reads logs: event logs of Windows (.evtx, or exported as XML), lines of nftables and iptables, the log of the
  Windows firewall, JSON lines, CSV, and any other lines of text. One JSON object a line: { "source": { "file",
  "position" }, "kind", "time", … }; of Windows "provider", "eventId", "channel", "computer", "data", "says".
  ZONE: where times say none, +01:00 or a name such as Europe/Berlin (UTC). PATTERN: how other lines are to be
  read, such as "{time} {program}: {text}". What was not understood is told on the other output, with its place.
  Exit code 0, 3 where something was not understood, 2 when it could not run.`;

const mostTold = 10;

export const read: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(args, { json: 'flag', zone: 'text', rule: 'text' }, usage);
    if (rest.length === 0) throw new CannotRun(`Say which files to read.\n\n${usage}`);
    if (!options.json) throw new CannotRun(`Answers are JSON alone: add --json.\n\n${usage}`);
    const zone = options.zone === null ? 0 : zoneOf(options.zone);
    if (zone === null)
      throw new CannotRun(`“${options.zone}” is no time zone: write +01:00, or a name such as Europe/Berlin.`);
    const rule = options.rule === null ? null : ruleOf(options.rule);
    let code = 0;
    for (const file of rest) {
      const told = readOne(file, zone, rule, out);
      tellRest(file, told, errors);
      if (told.notUnderstood > 0) code = 3;
    }
    return Promise.resolve(code);
  },
};

function ruleOf(pattern: string): RuleReader {
  const compiled = compileReadingRule({ pattern });
  if (!compiled.ok) throw new CannotRun(`The pattern is wrong at letter ${compiled.at + 1}: ${compiled.says}`);
  return compiled.rule;
}

function readOne(file: string, zone: number | string, rule: RuleReader | null, out: Out): LogRead {
  const latest = statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? 0;
  const lines = new Batched(out);
  const name = JSON.stringify(file);
  const reading = new LogReading({ zone, latest }, rule, (event) => lines.line(asJson(name, event)));
  try {
    readInParts(file, (part) => reading.take(part));
    return reading.end();
  } finally {
    lines.flush();
  }
}

/** @param file its name as JSON */
const asJson = (file: string, { position, ...event }: LogEvent): string =>
  `{"source":{"file":${file},"position":${position}},${JSON.stringify(event).slice(1)}`;

function tellRest(file: string, { events, notUnderstood, gaps }: LogRead, errors: Out): void {
  const not = notUnderstood === 0 ? '' : `; ${counted(notUnderstood, 'place')} not understood`;
  errors.write(`${file}: ${counted(events, 'event')}${not}.\n`);
  for (const { position, says } of gaps.slice(0, mostTold)) errors.write(`${file}, byte ${position}: ${says}\n`);
  if (notUnderstood > mostTold) errors.write(`${file}: ${notUnderstood - mostTold} more are not listed.\n`);
}
