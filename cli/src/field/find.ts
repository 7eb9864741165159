import { findRegister, readSamples, sayForm } from '@loyal-hinge/core/field';
import { CannotRun } from '../cannot-run.js';
import type { Command } from '../command.js';
import { readText } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge field find --samples FILE --json
  Works out from which register of a device a value of an OPC server comes. FILE: { "table", "first", "samples": [{ "value",
  "places": [word or null, …] }, …] }, the samples evenly apart. One JSON object: { "says", "changesSeen", "candidates": [{
  "place", "type", "order", "scale", "offset", "bits", "lag", "explained", "compared", "changes", "sureness", "says" }, …] },
  the best first. SURENESS is proved, likely, alike (others say the same), near (the value moves too fast) or unmoved (the value did not change).
  Exit code 0 when one register is proved, 3 when none is, 2 when it could not run.`;

export const find: Command = {
  usage,
  run(args, out) {
    const { options, rest } = readOptions(args, { samples: 'text', json: 'flag' }, usage);
    const file = options.samples ?? rest[0];
    if (file === undefined) throw new CannotRun(`Say which file of samples.\n\n${usage}`);
    if (!options.json) throw new CannotRun(`Answers are JSON alone: add --json.\n\n${usage}`);
    const read = readSamples(readText(file));
    if (!read.ok) throw new CannotRun(`${file} is no file of samples. ${read.says}`);
    const { candidates, changesSeen, says } = findRegister(read.input);
    const told = candidates.map(({ form, changesSeen: _, ...candidate }) => ({
      ...candidate,
      ...form,
      says: sayForm(form),
    }));
    out.write(`${JSON.stringify({ says, changesSeen, candidates: told })}\n`);
    return Promise.resolve(candidates[0]?.sureness === 'proved' ? 0 : 3);
  },
};
