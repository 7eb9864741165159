import { stdin, stdout } from 'node:process';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { putPerson } from './lib/demo-plant.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { root, setupScript } from './lib/places.mjs';
import { run } from './lib/run.mjs';
import { giveUp, say } from './lib/say.mjs';
import { onlyOne, serverEnvironment, startHinge, stopper } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'own');
const one = onlyOne(dataFolder);
const { add, stop } = stopper();
add(() => one.leave());

try {
  await ensurePackages();
  const postgres = await ensurePostgres();
  await ensureBuild();
  const cluster = await startCluster(postgres, dataFolder);
  add(cluster.stop);
  const environment = serverEnvironment(cluster.url, dataFolder, 'own');
  if (!(await anybody(environment))) await askForAdministrator(environment);
  const server = await startHinge(environment, dataFolder);
  add(server.stop);
  one.tell(server.url);
  say(`\nLoyal Hinge is ready at ${server.url}\nStop with Ctrl-C. The data lie in ${dataFolder}.`);
  server.child.once('exit', () => void stop().then(() => process.exit(1)));
} catch (error) {
  await stop();
  giveUp(`Loyal Hinge could not start: ${error.message}`);
}

const anybody = (environment) =>
  run(process.execPath, [setupScript('put-person'), '--any'], { quiet: true, env: environment }).then(
    () => true,
    (error) => (error.code === 3 ? false : Promise.reject(error)),
  );

async function askForAdministrator(environment) {
  const name = process.env.HINGE_FIRST_NAME ?? 'administrator';
  say(`Nobody can sign in yet. Choose a password for “${name}” (at least 10 letters).`);
  for (;;) {
    const password = process.env.HINGE_FIRST_PASSWORD ?? (await hidden('Password: '));
    if (password.length >= 10) return putPerson(environment, name, 'administrator', password);
    if (process.env.HINGE_FIRST_PASSWORD !== undefined || !stdin.isTTY)
      throw new Error('The password needs at least 10 letters.');
    say('That is too short.');
  }
}

/** Asks without showing what is typed. */
function hidden(question) {
  return new Promise((resolve, reject) => {
    const lines = createInterface({ input: stdin, output: stdout, terminal: stdin.isTTY });
    stdout.write(question);
    lines._writeToOutput = () => undefined;
    lines.once('close', () => reject(new Error('No password was given.')));
    lines.once('line', (line) => {
      stdout.write('\n');
      resolve(line);
      lines.close();
    });
  });
}
