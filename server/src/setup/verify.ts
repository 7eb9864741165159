import { readFile } from 'node:fs/promises';
import { findSealing } from '../secrets/sealing-key.js';
import { program } from './program.js';
import { trailReport } from '../audit/report.js';
import { SealMaker, headIn, sealedHeads } from '../audit/seals.js';
import { verifyAudit } from '../audit/trail.js';

/**
 * node verify.js [FILE]: recomputes the chain of the audit trail, and compares it with what was sealed, here and in a file of
 * anchors that was kept elsewhere; exit status 1 where it is not as it was written.
 */
const [file] = process.argv.slice(2);
await program(async (db, { sealingKey, anchors }) => {
  const sealing = await findSealing(sealingKey);
  const maker = sealing && new SealMaker(sealing);
  const elsewhere =
    file === undefined ? [] : (await readFile(file, 'utf8')).split('\n').flatMap((line) => headIn(line) ?? []);
  const heads = maker ? [...(await sealedHeads(db, anchors)), ...elsewhere] : [];
  const chain = await verifyAudit(
    db,
    heads.map(({ sequence }) => sequence),
  );
  const { rows, faults, isWhole, sealed, seals } = trailReport(chain, heads, maker);
  console.log(
    isWhole
      ? `The audit trail is whole: ${rows} rows.`
      : `The audit trail of ${rows} rows was changed after it was written.`,
  );
  for (const fault of faults) console.log(fault);
  console.log(
    maker === null
      ? 'Its seals were not looked at: the sealing key is not here.'
      : sealed === null
        ? 'Nothing of it is sealed.'
        : `It is sealed up to row ${sealed.upTo} (${sealed.at}); ${seals} seals match.`,
  );
  process.exitCode = isWhole ? 0 : 1;
});
