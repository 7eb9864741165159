import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { startStandIns, standInsFolder } from './lib/demo-plant.mjs';
import { root } from './lib/places.mjs';
import { giveUp, say } from './lib/say.mjs';
import { onlyOne, stopper } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'bench');
const { add, stop } = stopper();

try {
  await ensurePackages();
  await ensureBuild({ web: false });
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  const { assessing } = await import('./bench/assessing.mjs');
  await assessing(say);
  if (existsSync(standInsFolder(dataFolder))) rmSync(standInsFolder(dataFolder), { recursive: true });
  const standIns = await startStandIns(dataFolder).catch((error) =>
    giveUp(`${error.message}. If a demo is running, stop it first: both stand on the same loopback addresses.`),
  );
  add(standIns.stop);
  const { checking } = await import('./bench/checking.mjs');
  await checking(say, join(standInsFolder(dataFolder), 'handover.json'));
} catch (error) {
  console.error(error);
  process.exitCode = 1;
} finally {
  await stop();
}
process.exit();
