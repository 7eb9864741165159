import { existsSync, readFileSync, rmSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { ensureBuild } from './lib/build.mjs';
import { startCluster } from './lib/cluster.mjs';
import { putPerson, standInsFolder, startStandIns, takeOver } from './lib/demo-plant.mjs';
import { ensureChromium, ensurePackages, ensurePostgres } from './lib/install.mjs';
import { root } from './lib/places.mjs';
import { run } from './lib/run.mjs';
import { giveUp, say } from './lib/say.mjs';
import { onlyOne, serverEnvironment, startHinge, stopper } from './lib/serve.mjs';

const dataFolder = join(root, '.data', 'test');
const reports = {
  unit: join(dataFolder, 'unit.json'),
  web: join(dataFolder, 'web.json'),
  integration: join(dataFolder, 'integration.json'),
  browser: join(dataFolder, 'browser.json'),
};
const one = onlyOne(dataFolder);
const { add, stop } = stopper();
add(() => one.leave());

const outcome = { passed: 0, failed: 0 };
const stages = ['lint', 'types', 'unit', 'web', 'integration', 'browser'];
/** `npm test -- integration killed` runs one stage, of it what fits the words; without words all stages run whole. */
const [onlyStage, ...onlyFiles] = process.argv.slice(2);
if (onlyStage && !stages.includes(onlyStage))
  giveUp(`There is no stage “${onlyStage}”; there are ${stages.join(', ')}.`);
const wanted = (...names) => !onlyStage || names.includes(onlyStage);

try {
  await ensurePackages();
  const postgres = await ensurePostgres();
  await ensureChromium();
  await ensureBuild();
  if (wanted('lint')) await step('Lint', () => run('npm', ['run', '-s', 'lint'], { cwd: root }));
  if (wanted('types'))
    await step('Types of the tests', () => run('npx', ['tsc', '-p', 'tsconfig.spec.json'], { cwd: root }));
  if (wanted('unit')) await jest('unit', {});
  if (wanted('web')) await jest('web', {});
  if (wanted('integration', 'browser')) {
    const environment = await startEverything(postgres);
    if (wanted('integration')) await jest('integration', environment);
    if (wanted('browser')) await browser(environment);
  }
} catch (error) {
  outcome.failed += 1;
  console.error(error.message);
} finally {
  await stop();
}
say(`${outcome.passed} passed, ${outcome.failed} failed`);
process.exit(outcome.failed === 0 && outcome.passed > 0 ? 0 : 1);

async function step(name, work) {
  say(`\n${name} …`);
  try {
    await work();
    outcome.passed += 1;
  } catch (error) {
    outcome.failed += 1;
    console.error(`${name}: ${error.message}`);
  }
}

async function startEverything(postgres) {
  say('\nStarting a fresh database, the made-up plant and the server …');
  const old = existsSync(join(dataFolder, 'database.json'))
    ? await startCluster(postgres, dataFolder).catch(() => null)
    : null;
  await old?.stop();
  if (old) rmSync(old.folder, { recursive: true, force: true });
  for (const name of ['cluster', 'stand-ins', 'sealing-key', 'database.json'])
    rmSync(join(dataFolder, name), { recursive: true, force: true });
  const cluster = await startCluster(postgres, dataFolder);
  add(cluster.stop);
  const standIns = await startStandIns(dataFolder).catch((error) =>
    giveUp(`${error.message}. If a demo is running, stop it first: both stand on the same loopback addresses.`),
  );
  add(standIns.stop);
  const environment = serverEnvironment(cluster.url, dataFolder, 'demo');
  await takeOver(environment, dataFolder);
  const password = randomBytes(12).toString('base64url');
  await putPerson(environment, 'engineer', 'engineer', password);
  await putPerson(environment, 'viewer', 'viewer', password);
  await putPerson(environment, 'administrator', 'administrator', password);
  const server = await startHinge(environment, dataFolder, 0);
  add(server.stop);
  one.tell(server.url);
  return {
    HINGE_TEST_URL: server.url,
    HINGE_TEST_PASSWORD: password,
    HINGE_TEST_DATABASE_URL: cluster.url,
    HINGE_TEST_DATA: dataFolder,
    HINGE_TEST_HANDOVER: join(standInsFolder(dataFolder), 'handover.json'),
  };
}

async function jest(project, env) {
  say(`\nTests: ${project} …`);
  rmSync(reports[project], { force: true });
  const args = [
    'jest',
    '--selectProjects',
    project,
    '--json',
    `--outputFile=${reports[project]}`,
    ...(project === 'integration' ? ['--runInBand', '--forceExit'] : []),
    ...onlyFiles,
  ];
  await run('npx', args, { cwd: root, env: { ...env, NODE_OPTIONS: '' }, quiet: true }).catch((error) =>
    console.error(error.message),
  );
  const report = existsSync(reports[project]) ? JSON.parse(readFileSync(reports[project], 'utf8')) : null;
  if (!report) return void (outcome.failed += 1);
  outcome.passed += report.numPassedTests;
  outcome.failed += report.numFailedTests + report.numRuntimeErrorTestSuites;
  say(`${project}: ${report.numPassedTests} passed, ${report.numFailedTests} failed`);
}

async function browser(env) {
  say('\nTests: browser …');
  rmSync(reports.browser, { force: true });
  await run('npx', ['playwright', 'test', '--config', 'e2e/playwright.config.ts', ...onlyFiles], {
    cwd: root,
    env: { ...env, HINGE_E2E_REPORT: reports.browser },
  }).catch((error) => console.error(error.message));
  const report = existsSync(reports.browser) ? JSON.parse(readFileSync(reports.browser, 'utf8')) : null;
  if (!report) return void (outcome.failed += 1);
  outcome.passed += report.stats.expected + report.stats.flaky;
  outcome.failed += report.stats.unexpected;
}
