import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { demoSignIn, startStandIns, standInsFolder, takeOver } from './lib/demo-plant.mjs';
import { ensureChromium, ensurePackages, ensurePostgres } from './lib/install.mjs';
import { root } from './lib/places.mjs';
import { giveUp, say } from './lib/say.mjs';
import { onlyOne, serverEnvironment, startHinge, stopper } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'bench');
const { add, stop } = stopper();

try {
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
  const environment = serverEnvironment(cluster.url, dataFolder, 'demo');
  await takeOver(environment, dataFolder);
  const signIn = await demoSignIn(environment, dataFolder);
  const server = await startHinge(environment, dataFolder);
  add(server.stop);
  const { firstView } = await import('./bench/first-view.mjs');
  await firstView(say, server.url, signIn);
} catch (error) {
  console.error(error);
  process.exitCode = 1;
} finally {
  await stop();
}
process.exit();
