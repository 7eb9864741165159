import { role } from '@loyal-hinge/contract';
import { putPerson } from '../people/accounts.js';
import { StartRefusal } from '../system/start-refusal.js';
import { program } from './program.js';
import { readAll } from './read-all.js';

/**
 * node put-person.js NAME ROLE: adds a person; the password comes on standard input, so that it stands in no list of processes.
 */
const [name = '', wantedRole = ''] = process.argv.slice(2);
await program(async (db) => {
  const password = (await readAll(process.stdin)).replace(/\r?\n$/, '');
  if (password.length < 10) throw new StartRefusal('The password needs at least 10 letters.');
  await db.transaction((tx) => putPerson(tx, name, role.parse(wantedRole), password));
});
