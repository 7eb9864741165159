import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { authorityPassphrase, demoSignIn, standInsFolder, startStandIns, takeOver } from './lib/demo-plant.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { root } from './lib/places.mjs';
import { giveUp, say } from './lib/say.mjs';
import { onlyOne, serverEnvironment, startHinge, stopper } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'demo');
const begun = Date.now();
const one = onlyOne(dataFolder);
const { add, stop } = stopper();
add(() => one.leave());

try {
  await ensurePackages();
  const postgres = await ensurePostgres();
  if (process.argv.includes('--fresh')) await startOver(postgres);
  await ensureBuild(process.env.HINGE_NO_WEB ? { web: false } : {});
  say('Starting the database and the made-up plant …');
  const [cluster] = await Promise.all([
    startCluster(postgres, dataFolder).then((started) => (add(started.stop), started)),
    startStandIns(dataFolder).then((started) => add(started.stop)),
  ]);
  const environment = serverEnvironment(cluster.url, dataFolder, 'demo');
  const seeded = (await takeOver(environment, dataFolder)).includes('seeded');
  const signIn = await demoSignIn(environment, dataFolder);
  const server = await startHinge(environment, dataFolder);
  add(server.stop);
  one.tell(server.url);
  if (seeded) await checkEverythingOnce(server.url, signIn);
  say(`
Loyal Hinge with the made-up plant Marrowby Glass is ready after ${Math.round((Date.now() - begun) / 1000)} s.

  Address   ${server.url}
  Name      ${signIn.name}
  Password  ${signIn.password}

  The plant’s authority signs with the passphrase  ${authorityPassphrase(dataFolder)}
  Its PKI folders by hand lie in                   ${standInsFolder(dataFolder)}

Stop with Ctrl-C. “npm run demo -- --fresh” starts over with new data.`);
  server.child.once('exit', () => void stop().then(() => process.exit(1)));
} catch (error) {
  await stop();
  giveUp(`The demo could not start: ${error.message}`);
}

async function startOver(postgres) {
  const old = await startCluster(postgres, dataFolder).catch(() => null);
  await old?.stop();
  if (old) rmSync(old.folder, { recursive: true, force: true });
  for (const name of [
    'cluster',
    'stand-ins',
    'sealing-key',
    'sign-in.json',
    'database.json',
    'server.log',
    'stand-ins.log',
  ])
    rmSync(join(dataFolder, name), { recursive: true, force: true });
}

/** A first look at the plant should show verdicts: all links are checked, for real, once. */
async function checkEverythingOnce(url, signIn) {
  const json = { 'content-type': 'application/json' };
  const answer = await fetch(`${url}/api/session`, { method: 'POST', headers: json, body: JSON.stringify(signIn) });
  const { token } = await answer.json();
  const cookie = answer.headers.get('set-cookie').split(';')[0];
  await fetch(`${url}/api/checks`, {
    method: 'POST',
    headers: { ...json, cookie, 'x-hinge-token': token },
    body: '{}',
  });
}
