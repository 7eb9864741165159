import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startCluster } from '../../lib/cluster.mjs';
import { demoSignIn } from '../../lib/demo-plant.mjs';
import { root } from '../../lib/places.mjs';
import { prepareDatabase } from '../../lib/prepare-database.mjs';
import { serverEnvironment, startHinge } from '../../lib/serve.mjs';
import { signedIn } from '../signed-in.mjs';
import { asked } from './asked.mjs';
import { burst } from './burst.mjs';
import { fillChecks, fillTrust } from './filled.mjs';
import { madePlant } from './made-plant.mjs';
import { madeTrust } from './made-trust.mjs';
import { megabytesOf } from './memory.mjs';
import { walked } from './walked.mjs';

const usualSizes = [1_000, 10_000, 50_000];
const factsPerLink = 100;

/**
 * Large synthetic plants, of which nothing is dialled: what is imported, shown, filtered, judged and planned, and how long the
 * one who asked waits. Sizes are numbers of links; two links in five come with an application, one in five with a machine.
 */
export async function largePlants(say, postgres, add, sizes) {
  for (const size of sizes.length > 0 ? sizes : usualSizes) await largePlant(say, postgres, add, size);
}

async function largePlant(say, postgres, add, size) {
  const dataFolder = join(root, '.data', 'bench-plant');
  rmSync(dataFolder, { recursive: true, force: true });
  const cluster = await startCluster(postgres, dataFolder);
  const stops = [cluster.stop];
  add(() => Promise.all(stops.map((stop) => stop())));
  await prepareDatabase(cluster);
  const environment = serverEnvironment(cluster.serverUrl, dataFolder);
  const signIn = await demoSignIn(environment, dataFolder);
  let server = await startHinge(environment, dataFolder, 0);
  stops.unshift(() => server.stop());
  const plant = madePlant(size);
  say(
    `\n${size.toLocaleString('en')} links, ${plant.applications.length.toLocaleString('en')} applications, ${plant.machines.length.toLocaleString('en')} machines, ${(size * factsPerLink).toLocaleString('en')} facts:`,
  );
  await imported(say, server.url, signIn, plant);
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: cluster.url });
  client.on('error', () => undefined);
  await client.connect();
  const begun = performance.now();
  await fillTrust(client, await keptTrust(plant));
  await fillChecks(client, plant.links, size * factsPerLink);
  say(`  (certificates, lists, checks and facts were put into the database in ${seconds(begun)} s)`);
  await server.stop();
  server = await startHinge(environment, dataFolder, 0);
  const before = megabytesOf(server.child.pid);
  await asked(say, server.url, signIn, plant, client);
  await walked(say, server.url, signIn, plant);
  await burst(say, server.url, signIn, plant, client);
  say(`  memory of the server: ${before} MB at its start, ${megabytesOf(server.child.pid)} MB now`);
  const { rows } = await client.query(
    'select (select count(*) from facts)::int as facts, pg_database_size(current_database()) / 1e9 as gigabytes',
  );
  say(
    `  the database: ${rows[0].facts.toLocaleString('en')} facts, ${Number(rows[0].gigabytes).toFixed(2)} GB on disk`,
  );
  await client.end();
  await Promise.all([server.stop()]);
  await cluster.stop();
}

async function imported(say, url, signIn, plant) {
  const headers = await signedIn(url, signIn);
  const body = JSON.stringify({ format: 'loyal-hinge/plant', version: 1, plant });
  for (const what of ['import', 'the same once more']) {
    const begun = performance.now();
    const answer = await fetch(`${url}/api/plant/document`, { method: 'PUT', headers, body });
    if (!answer.ok) throw new Error(`the import was refused: ${await answer.text()}`);
    say(`  ${what} of ${Math.round(body.length / 1e6)} MB: ${seconds(begun)} s`);
  }
}

/** Made once for each size: making certificates takes longer than everything that is measured. */
async function keptTrust(plant) {
  const file = join(root, '.data', `bench-trust-${plant.links.length}.json`);
  if (existsSync(file)) return revived(JSON.parse(readFileSync(file, 'utf8')));
  const { shown, lists, certificates } = await madeTrust(plant);
  const kept = {
    shown: [...shown].map(([id, { certificate }]) => [id, certificate.thumbprint]),
    lists: [...lists].map(([id, { trusted }]) => [id, [...trusted]]),
    certificates: certificates.map(({ thumbprint, der }) => [thumbprint, der.toString('base64')]),
  };
  writeFileSync(file, JSON.stringify(kept));
  return revived(kept);
}

function revived({ shown, lists, certificates }) {
  const byThumbprint = new Map(
    certificates.map(([thumbprint, der]) => [thumbprint, { thumbprint, der: Buffer.from(der, 'base64') }]),
  );
  return {
    shown: new Map(shown.map(([id, thumbprint]) => [id, { certificate: byThumbprint.get(thumbprint) }])),
    lists: new Map(lists.map(([id, trusted]) => [id, { trusted: new Set(trusted) }])),
    certificates: [...byThumbprint.values()],
  };
}

const seconds = (begun) => ((performance.now() - begun) / 1000).toFixed(1);
