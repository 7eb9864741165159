import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { demoSignIn, startStandIns, standInsFolder, takeOver } from './lib/demo-plant.mjs';
import { command } from './lib/command.mjs';
import { ensureChromium, ensurePackages, ensurePostgres } from './lib/install.mjs';
import { onlyOne } from './lib/only-one.mjs';
import { root } from './lib/places.mjs';
import { giveUp, say } from './lib/say.mjs';
import { serverEnvironment, startHinge } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'bench');
await command(async ({ add, stop }) => {
  await ensurePackages();
  const postgres = await ensurePostgres();
  await ensureChromium();
  await ensureBuild();
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  const { assessing } = await import('./bench/assessing.mjs');
  await assessing(say);
  const { validating } = await import('./bench/validating.mjs');
  await validating(say);
  const { planning } = await import('./bench/planning.mjs');
  await planning(say);
  if (existsSync(standInsFolder(dataFolder))) rmSync(standInsFolder(dataFolder), { recursive: true });
  const standIns = await startStandIns(dataFolder).catch((error) =>
    giveUp(`${error.message}. If a demo is running, stop it first: both stand on the same loopback addresses.`),
  );
  add(standIns.stop);
  const { checking } = await import('./bench/checking.mjs');
  await checking(say, join(standInsFolder(dataFolder), 'handover.json'));
  const cluster = await startCluster(postgres, dataFolder);
  add(cluster.stop);
  const environment = serverEnvironment(cluster.url, dataFolder);
  await takeOver(environment, dataFolder);
  const signIn = await demoSignIn(environment, dataFolder);
  const server = await startHinge(environment, dataFolder, 0);
  add(server.stop);
  const { firstView } = await import('./bench/first-view.mjs');
  await firstView(say, server.url, signIn);
  const { reading } = await import('./bench/reading.mjs');
  await reading(say, server, cluster.url, signIn);
  const { serving } = await import('./bench/serving.mjs');
  await serving(say, server.url, signIn);
  await stop();
  process.exit();
});
