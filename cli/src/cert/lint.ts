import { lintCertificate, readCertificate, oneLine } from '@loyal-hinge/core';
import { CannotRun } from '../cannot-run.js';
import type { Command } from '../command.js';
import { derBlocks } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge cert lint FILE [--json]
  Holds the first certificate of a file against the rules for OPC UA application instance certificates (OPC 10000-6 §6.2.2).
  Exit code 0 without errors, 3 with errors or where it can’t be read, 2 when it could not run.`;

export const lint: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(args, { cert: 'text', json: 'flag' }, usage);
    const file = options.cert ?? rest[0];
    if (file === undefined) throw new CannotRun(`Say which file.\n\n${usage}`);
    const [der] = derBlocks(file, 'CERTIFICATE', (says) => errors.write(`${oneLine(says)}\n`));
    const read = der ? readCertificate(der) : { ok: false as const, says: 'The file holds no certificate.' };
    if (!read.ok) {
      out.write(options.json ? `${JSON.stringify({ unreadable: read.says })}\n` : `${oneLine(read.says)}\n`);
      return Promise.resolve(3);
    }
    const found = lintCertificate(read.certificate);
    if (options.json) out.write(`${JSON.stringify(found, null, 2)}\n`);
    else if (found.length === 0) out.write('Nothing to remark.\n');
    else
      for (const { severity, ruleId, says, remedy, clause } of found)
        out.write(`${severity.padEnd(8)}${ruleId}: ${oneLine(says)} ${oneLine(remedy)} (${clause})\n`);
    return Promise.resolve(found.some(({ severity }) => severity === 'error') ? 3 : 0);
  },
};
