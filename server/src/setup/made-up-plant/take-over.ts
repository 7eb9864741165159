import { readFile } from 'node:fs/promises';
import { SecretStore } from '../../secrets/sealing.js';
import { openSealing } from '../../secrets/sealing-key.js';
import { handover } from './handover.js';
import { program } from '../program.js';
import { takeOver } from './seed-plant.js';

/** node take-over.js FILE: seeds an empty installation with the demo plant. */
await program(async (db, { sealingKey }) => {
  const given = handover.parse(JSON.parse(await readFile(process.argv[2] ?? '', 'utf8')));
  console.log(await takeOver(db, new SecretStore(await openSealing(db, sealingKey)), given));
});
