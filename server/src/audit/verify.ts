import { program } from '../setup/program.js';
import { verifyAudit } from './trail.js';

/** node verify.js: recomputes the chain of the audit trail; exit status 1 where it is broken. */
await program(async (db) => {
  const { rows, breaks } = await verifyAudit(db);
  console.log(
    breaks.length === 0
      ? `The audit trail is whole: ${rows} rows.`
      : `The audit trail of ${rows} rows is broken at ${breaks.join(', ')}. A row before each was changed or taken away, or the row itself was.`,
  );
  process.exitCode = breaks.length === 0 ? 0 : 1;
});
