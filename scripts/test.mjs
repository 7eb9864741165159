import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { command } from './lib/command.mjs';
import {
  ensureChromium,
  ensureIndependentSpeaker,
  ensureKernelFirewall,
  ensurePackages,
  ensurePostgres,
} from './lib/install.mjs';
import { onlyOne } from './lib/only-one.mjs';
import { root, tscMain } from './lib/places.mjs';
import { roomy, run } from './lib/run.mjs';
import { giveUp, say, sentenceOf } from './lib/say.mjs';
import { makePlantKeys, startTestPlant } from './lib/test-plant.mjs';

const dataFolder = join(root, '.data', 'test');
const reportOf = (stage) => join(dataFolder, `${stage}.json`);
const stages = ['lint', 'types', 'unit', 'web', 'own', 'live', 'browser'];
/** So many made-up plants stand side by side, each with a database and a server, and as many live tests use them; what else there is to compute fills the time in which they wait. */
const plantCount = 2;
/** The browser’s tests have a plant of their own. */
const browserPlant = plantCount;
const outcome = { passed: 0, failed: 0 };
/** Where the time goes: seconds by stage, in the order in which they end. */
const seconds = [];
/** `npm test -- live killed` runs one stage, of it what fits the words; without words all stages run whole. */
const [onlyStage, ...onlyFiles] = process.argv.slice(2);
const wanted = (...names) => !onlyStage || names.includes(onlyStage);

await command(async ({ add, stop }) => {
  if (onlyStage && !stages.includes(onlyStage))
    giveUp(`There is no stage “${onlyStage}”; there are ${stages.join(', ')}.`);
  const one = onlyOne(dataFolder);
  add(() => one.leave());
  try {
    const postgres = await timed('install', install);
    await timed('programs', () => ensureBuild({ web: false }));
    const page = wanted('own', 'live', 'browser') ? timed('page', ensureBuild) : undefined;
    const keys = wanted('live', 'browser') ? makePlantKeys(dataFolder) : undefined;
    const startPlant = (number) => startTestPlant(postgres, dataFolder, number, { keys, page }, add);
    // Side by side: what dials the made-up plants waits for them now and then, and the rest dials nobody.
    await Promise.all([dialsNobody(), wanted('live') && dialsPlants(startPlant, one), waitsMostly(page, startPlant)]);
  } catch (error) {
    outcome.failed += 1;
    console.error(sentenceOf(error));
  }
  await stop();
  say(`\nWhere the time went, in seconds: ${seconds.join(', ')}.`);
  say(`${outcome.passed} passed, ${outcome.failed} failed`);
  process.exit(outcome.failed === 0 && outcome.passed > 0 ? 0 : 1);
});

/** What dials the plants takes longest, and waits often: the rest computes meanwhile, side by side. */
async function dialsNobody() {
  // Tests have time limits of their own: they stand back a little, what has none stands back behind all.
  const behind = { cwd: root, niceness: 15 };
  await Promise.all([
    wanted('lint') && step('lint', () => run('npm', ['run', '-s', 'lint'], { ...behind, env: roomy })),
    wanted('types') &&
      step('types', () => run(process.execPath, [tscMain, '-p', 'tsconfig.spec.json', '--singleThreaded'], behind)),
    wanted('unit') && timed('unit', () => jest('unit', roomy, [], 5)),
    wanted('web') && timed('web', () => jest('web', roomy, [], 5)),
  ]);
}

/** One after the other: both wait most of the time. */
async function waitsMostly(page, startPlant) {
  if (wanted('own')) await startsItsOwn(page);
  if (wanted('browser')) await browses(startPlant);
}

/** Installations of their own, started, stopped, killed and filled up: they need no plant. */
async function startsItsOwn(page) {
  await page;
  await timed('own', () => jest('own', {}, ['--maxWorkers=1', '--forceExit']));
}

async function dialsPlants(startPlant, one) {
  say('\nStarting fresh databases, made-up plants and servers …');
  const numbers = Array.from({ length: plantCount }, (_, index) => index);
  const plants = await timed('plants', () => Promise.all(numbers.map(startPlant)));
  one.tell(plants[0].HINGE_TEST_URL);
  const environment = { HINGE_TEST_PLANTS: JSON.stringify(plants), HINGE_TEST_TOLD_URL: plants[0].HINGE_TEST_URL };
  await timed('live', () => jest('live', environment, [`--maxWorkers=${plantCount}`, '--forceExit']));
}

async function browses(startPlant) {
  say('\nStarting a fresh database, a made-up plant and a server for the browser …');
  const plant = await timed('its plant', () => startPlant(browserPlant));
  await timed('browser', () => browser({ HINGE_TEST_PLANT: JSON.stringify(plant) }));
}

async function install() {
  await ensurePackages();
  const postgres = await ensurePostgres();
  await ensureChromium();
  await ensureIndependentSpeaker();
  await ensureKernelFirewall();
  return postgres;
}

async function timed(name, work) {
  const begun = Date.now();
  try {
    return await work();
  } finally {
    seconds.push(`${name} ${Math.round((Date.now() - begun) / 1000)}`);
  }
}

async function step(name, work) {
  say(`\nTests: ${name} …`);
  try {
    await timed(name, work);
    outcome.passed += 1;
  } catch (error) {
    outcome.failed += 1;
    console.error(`${name}: ${error.message}`);
  }
}

async function jest(stage, env, more = [], niceness = 0) {
  say(`\nTests: ${stage} …`);
  const file = reportOf(stage);
  rmSync(file, { force: true });
  const args = ['jest', '--silent', '--json', `--outputFile=${file}`, ...more, '--selectProjects', stage];
  const files = onlyFiles.length > 0 ? ['--testPathPatterns', ...onlyFiles] : [];
  const whole = { HINGE_WHOLE_RUN: onlyFiles.length > 0 ? '' : '1' };
  const options = { cwd: root, env: { NODE_OPTIONS: '', ...whole, ...env }, quiet: true, niceness };
  await run('npx', [...args, ...files], options).catch((error) => console.error(error.message));
  const report = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null;
  if (!report) return void (outcome.failed += 1);
  outcome.passed += report.numPassedTests;
  outcome.failed += report.numFailedTests + report.numRuntimeErrorTestSuites;
  say(`${stage}: ${report.numPassedTests} passed, ${report.numFailedTests} failed`);
}

async function browser(env) {
  say('\nTests: browser …');
  const file = reportOf('browser');
  rmSync(file, { force: true });
  await run('npx', ['playwright', 'test', '--config', 'e2e/playwright.config.ts', '--workers=1', ...onlyFiles], {
    cwd: root,
    env: { ...env, HINGE_E2E_REPORT: file },
  }).catch((error) => console.error(error.message));
  const report = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null;
  if (!report) return void (outcome.failed += 1);
  outcome.passed += report.stats.expected;
  outcome.failed += report.stats.unexpected + report.stats.flaky;
}
