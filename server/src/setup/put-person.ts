import { pino } from 'pino';
import { role } from '@loyal-hinge/contract';
import { readConfiguration } from '../configuration.js';
import { openDatabase } from '../database/database.js';
import { anyPerson, putPerson } from '../people/service.js';

/**
 * node put-person.js NAME ROLE: adds a person; the password comes on standard input, so that it stands in no list of processes.
 * node put-person.js --any: exit status 0 where there is somebody already, 3 where there is nobody.
 */
const [name = '', wantedRole = ''] = process.argv.slice(2);
const { db, close } = await openDatabase(readConfiguration(process.env).databaseUrl, pino({ level: 'warn' }));
try {
  if (name === '--any') process.exitCode = (await anyPerson(db)) ? 0 : 3;
  else {
    const password = (await readAll(process.stdin)).replace(/\r?\n$/, '');
    if (password.length < 10) throw new Error('The password needs at least 10 letters.');
    await db.transaction((tx) => putPerson(tx, name, role.parse(wantedRole), password));
  }
} finally {
  await close();
}

async function readAll(stream: NodeJS.ReadStream): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of stream) chunks.push(Buffer.from(chunk as Buffer));
  return Buffer.concat(chunks).toString('utf8');
}
