import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pino } from 'pino';
import { readConfiguration } from '../configuration.js';
import { openDatabase } from '../database/database.js';
import { Sealing, SecretStore } from '../database/sealing.js';
import { handover, takeOver } from './handover.js';

/** node take-over.js FILE: seeds an empty installation with the demo plant. */
const configuration = readConfiguration(process.env);
const { db, close } = await openDatabase(configuration.databaseUrl, pino({ level: 'warn' }));
try {
  const secrets = new SecretStore(
    await Sealing.fromFile(join(configuration.dataFolder, 'sealing-key'), configuration.sealingKey),
  );
  const given = handover.parse(JSON.parse(await readFile(process.argv[2] ?? '', 'utf8')));
  console.log(await takeOver(db, secrets, given));
} finally {
  await close();
}
