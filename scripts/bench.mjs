import { rmSync } from 'node:fs';
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
/** In minutes: memory that grows slowly shows by then. */
const usualLoad = 10;
/**
 * `npm run bench -- plant 1000 50000` measures large synthetic plants of so many links; `npm run bench -- load 2` measures live
 * values for two minutes, `npm run bench -- gateway 2` a gateway, `npm run bench -- import` bringing a log to the casebook;
 * without words all but large plants is measured.
 */
const [what, ...sizes] = process.argv.slice(2);

function sizeIn(text) {
  const size = Number(text.replace(/[_,.]/g, ''));
  if (!Number.isInteger(size) || size < 10 || size > 100_000)
    giveUp(`“${text}” is no size of a plant: name numbers of links from 10 to 100000.`);
  return size;
}

if (what !== undefined && !['plant', 'load', 'gateway', 'import'].includes(what))
  giveUp(`There is nothing named “${what}” to measure; there are “plant”, “load”, “gateway” and “import”.`);
const minutes = (what === 'load' || what === 'gateway') && sizes.length > 0 ? Number(sizes[0]) : usualLoad;
if (!(minutes >= 1 && minutes <= 600)) giveUp(`“${sizes[0]}” is no number of minutes from 1 to 600.`);
await command(async ({ add, stop }) => {
  await ensurePackages();
  const postgres = await ensurePostgres();
  await ensureChromium();
  await ensureBuild();
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  if (what === 'plant') {
    const { largePlants } = await import('./bench/plant/index.mjs');
    await largePlants(say, postgres, add, sizes.map(sizeIn));
    await stop();
    process.exit();
  }
  if (what === undefined) await computing();
  // The made-up plant gets new keys: a database that knows the old ones would find every link parted.
  for (const part of ['stand-ins', 'cluster', 'database.json', 'sign-in.json'])
    rmSync(join(dataFolder, part), { recursive: true, force: true });
  const handoverFile = join(standInsFolder(dataFolder), 'handover.json');
  let standIns = await started();
  add(() => standIns.stop());
  if (what === undefined) {
    const { checking } = await import('./bench/checking.mjs');
    await checking(say, handoverFile);
  }
  const cluster = await startCluster(postgres, dataFolder);
  add(cluster.stop);
  const environment = serverEnvironment(cluster.url, dataFolder);
  await takeOver(environment, dataFolder);
  const signIn = await demoSignIn(environment, dataFolder);
  const server = await startHinge(environment, dataFolder, 0);
  add(server.stop);
  if (what === undefined) {
    const { firstView } = await import('./bench/first-view.mjs');
    await firstView(say, server.url, signIn);
    const { reading } = await import('./bench/reading.mjs');
    await reading(say, server, cluster.url, signIn);
    const { serving } = await import('./bench/serving.mjs');
    await serving(say, server.url, signIn);
  }
  if (what === undefined || what === 'import') {
    const { importing } = await import('./bench/importing.mjs');
    await importing(say, server, cluster, postgres, signIn);
  }
  if (what === 'import') {
    await stop();
    process.exit();
  }
  const { counters, liveLoad } = await import('./bench/live-load.mjs');
  await standIns.stop();
  standIns = await started(counters);
  if (what !== 'gateway') await liveLoad(say, server, signIn, handoverFile, minutes);
  if (what !== 'load') {
    const { gateway } = await import('./bench/gateway.mjs');
    await gateway(say, handoverFile, minutes);
  }
  await stop();
  process.exit();
});

/** @param counters by server, so many values that change four times a second */
function started(counters = '') {
  process.env.HINGE_PLANT_COUNTERS = counters;
  return startStandIns(dataFolder).catch((error) =>
    giveUp(`${error.message}. If a demo is running, stop it first: both stand on the same loopback addresses.`),
  );
}

/** What needs neither servers nor a database. */
async function computing() {
  const { assessing } = await import('./bench/assessing.mjs');
  await assessing(say);
  const { validating } = await import('./bench/validating.mjs');
  await validating(say);
  const { planning } = await import('./bench/planning.mjs');
  await planning(say);
  const { doors } = await import('./bench/doors.mjs');
  doors(say);
  const { rights } = await import('./bench/rights.mjs');
  rights(say);
  const { dcom } = await import('./bench/dcom.mjs');
  dcom(say);
  const { smallest } = await import('./bench/smallest.mjs');
  smallest(say);
  const { passage } = await import('./bench/passage.mjs');
  passage(say);
  const { finder } = await import('./bench/finder.mjs');
  await finder(say);
  const { recorded } = await import('./bench/recorded.mjs');
  await recorded(say);
  const { tunnel } = await import('./bench/tunnel.mjs');
  await tunnel(say);
}
