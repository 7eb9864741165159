import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { command, optionsOf } from './lib/command.mjs';
import { authorityPassphrase, demoSignIn, standInsFolder, startStandIns, takeOver } from './lib/demo-plant.mjs';
import { bringNight, recordNight } from './lib/demo-night.mjs';
import { keepDemoOutposts } from './lib/demo-outposts.mjs';
import { ensurePackages, ensurePostgres } from './lib/install.mjs';
import { keepAll } from './lib/keep-all.mjs';
import { keepRunning, startLog } from './lib/keep-running.mjs';
import { onlyOne } from './lib/only-one.mjs';
import { root } from './lib/places.mjs';
import { prepareDatabase } from './lib/prepare-database.mjs';
import { say, sentenceOf } from './lib/say.mjs';
import { callOwn, whereItIs } from './lib/call-own.mjs';
import { portOf, serverEnvironment } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'demo');
const begun = Date.now();

await command(async ({ add, isStopping }) => {
  const { fresh } = optionsOf({ fresh: { type: 'boolean' } });
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  const log = startLog(dataFolder);
  const port = await portOf(dataFolder, log);
  await ensurePackages();
  const postgres = await ensurePostgres(dataFolder);
  if (fresh) await startOver(postgres);
  await ensureBuild(process.env.HINGE_NO_WEB ? { web: false } : {});
  say('Starting the database and the made-up plant …');
  const standIns = recordNight(standInsFolder(dataFolder))
    .catch((error) => log(`The night of the made-up plant could not be played: ${sentenceOf(error)}`))
    .then(() =>
      keepRunning('The made-up plant', () => startStandIns(dataFolder, 41, '', null, true), { log, isStopping }),
    );
  standIns.then(({ stop }) => add(stop)).catch(() => undefined);
  let seeded = false;
  let signIn = null;
  const server = await keepAll({
    startDatabase: (port) => startCluster(postgres, dataFolder, port),
    environmentOf: (url) => serverEnvironment(url, dataFolder),
    beforeServer: async (environment, cluster) => {
      await prepareDatabase(cluster);
      await standIns;
      seeded = (await takeOver(environment, dataFolder)).includes('seeded');
      signIn = await demoSignIn(environment, dataFolder);
    },
    port,
    nextPort: () => portOf(dataFolder, log),
    dataFolder,
    log,
    add,
    isStopping,
  });
  one.tell(server.url);
  say('Setting up its tunnels, its probe and its gateways …');
  await keepDemoOutposts({ url: server.url, signIn, dataFolder, isFirst: seeded, log, add, isStopping }).catch(
    (error) => log(`The outposts of the made-up plant could not be set up: ${sentenceOf(error)}`),
  );
  if (seeded) {
    const headers = await signedIn(server.url, signIn);
    await lookForTheFirstTime(server.url, headers);
    await bringNight(server.url, dataFolder, headers).catch((error) =>
      log(`What was recorded of the night could not be brought to the casebook: ${sentenceOf(error)}`),
    );
  }
  say(`
Loyal Hinge with the made-up plant Marrowby Glass is ready after ${Math.round((Date.now() - begun) / 1000)} s.

  Address   ${whereItIs(server.url, dataFolder)}
  Name      ${signIn.name}
  Password  ${signIn.password}

  The plant’s authority signs with the passphrase  ${authorityPassphrase(dataFolder)}
  Its PKI folders by hand are in                   ${standInsFolder(dataFolder)}

Stop with Ctrl-C. “npm run demo -- --fresh” starts over with new data.`);
});

async function startOver(postgres) {
  const old = await startCluster(postgres, dataFolder).catch(() => null);
  await old?.stop();
  if (old) rmSync(old.folder, { recursive: true, force: true });
  for (const name of [
    'cluster',
    'stand-ins',
    'sealing-key',
    'audit-head.json',
    'audit-anchors.jsonl',
    'tls',
    'outposts',
    'sign-in.json',
    'database.json',
    'server.log',
    'stand-ins.log',
  ])
    rmSync(join(dataFolder, name), { recursive: true, force: true });
}

async function signedIn(url, signIn) {
  const body = JSON.stringify(signIn);
  const answer = await callOwn(url, '/api/session', { dataFolder, method: 'POST', body });
  const cookie = answer.headers['set-cookie'][0].split(';')[0];
  return { cookie, 'x-hinge-token': answer.json().token };
}

/** A first look at the plant should show verdicts: all links are checked, for real, once, and from then on by rounds. */
async function lookForTheFirstTime(url, headers) {
  const post = (path, body) => callOwn(url, path, { dataFolder, method: 'POST', headers, body: JSON.stringify(body) });
  await post('/api/checks', {});
  const round = { everyMinutes: 60, at: '00:00', quiet: null, zone: 'UTC', perMinute: 60, isPaused: false };
  await post('/api/rounds', { ...round, name: 'The whole plant', scope: { kind: 'plant' } });
}
