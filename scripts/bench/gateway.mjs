import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { root } from '../lib/places.mjs';
import { bareWatch } from './bare-watch.mjs';
import { cpuSeconds } from './process-time.mjs';

const everyMs = 250;
const perServer = 1250;
const servers = ['furnace-server', 'lehr-server', 'tin-bath-server', 'archive-server'];
const client = 'history-client';
/** Of which the bare library watches the same. */
const linkIds = ['energy--furnace', 'line-display--lehr', 'line-display--tin-bath', 'history--archive'];
const bareSeconds = 30;
const settleMs = 5_000;
const patienceMs = 60_000;

/**
 * A gateway that mirrors all counters of four servers, 5,000 in all, at 250 ms: what is lost, how long it computes beside the bare
 * library, which hears the same and shows nothing, and how its memory goes.
 */
export async function gateway(say, handoverFile, minutes) {
  say(`\nA gateway that mirrors ${servers.length * perServer} items of ${servers.length} servers at ${everyMs} ms:`);
  const taken = JSON.parse(readFileSync(handoverFile, 'utf8'));
  const bare = await bareWatch(taken, linkIds, everyMs, bareSeconds);
  const folder = mkdtempSync(join(tmpdir(), 'hinge-bench-gateway-'));
  const file = join(folder, 'gateway.json');
  writeFileSync(file, JSON.stringify(configuration(taken, folder)), { mode: 0o600 });
  const child = fork(join(root, 'scripts', 'bench', 'gateway-load.mjs'), [file], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  try {
    const told = async () => {
      child.send('tell');
      const [answer] = await once(child, 'message');
      return answer;
    };
    for (const end = Date.now() + patienceMs; ;) {
      const { there, items } = await told();
      if (there === servers.length && items === servers.length * perServer) break;
      if (Date.now() > end) throw new Error(`after a minute ${there} servers are there, with ${items} items`);
      await new Promise((resolve) => setTimeout(resolve, 500));
    }
    await new Promise((resolve) => setTimeout(resolve, settleMs));
    const first = await told();
    const [begun, computed] = [performance.now(), cpuSeconds(child.pid)];
    const memory = [first.residentMb];
    for (const end = Date.now() + minutes * 60_000; Date.now() < end;) {
      await new Promise((resolve) => setTimeout(resolve, Math.min(30_000, end - Date.now())));
      memory.push((await told()).residentMb);
    }
    const last = await told();
    const span = (performance.now() - begun) / 1000;
    const cpu = (cpuSeconds(child.pid) - computed) / span;
    const lost = last.counted - first.counted - (last.changes - first.changes);
    say(
      `  the bare library: ${Math.round(bare.aSecond)} changes a second, ${bare.gaps} lost, ${bare.cpu.toFixed(2)} s of computing a second`,
    );
    say(
      `  the gateway: ${Math.round((last.changes - first.changes) / span)} changes a second, ${lost} lost, ${cpu.toFixed(2)} s of computing a second: ${(cpu / bare.cpu).toFixed(2)} times the bare library`,
    );
    say(`  its memory over ${minutes} min: ${memory.map((each) => Math.round(each)).join(', ')} MB`);
  } finally {
    if (child.connected) child.send('stop');
    await Promise.race([once(child, 'exit'), new Promise((resolve) => setTimeout(resolve, 5_000))]);
    child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  }
}

function configuration({ plant, clients, passwords }, folder) {
  const own = clients.find(({ applicationId }) => applicationId === client);
  const kept = (name, text) => {
    writeFileSync(join(folder, name), text, { mode: 0o600 });
    return name;
  };
  const sources = servers.map((serverId) => {
    // The bare library comes by the same links: their passwords are right.
    const link = plant.links.find((each) => each.serverId === serverId && linkIds.includes(each.id));
    const machineId = plant.applications.find(({ id }) => id === serverId).machineId;
    const { addresses } = plant.machines.find(({ id }) => id === machineId);
    return {
      kind: 'ua',
      name: serverId,
      endpointUrl: `opc.tcp://${addresses[0]}:4840`,
      policy: 'Basic256Sha256',
      mode: 'SignAndEncrypt',
      user: {
        name: link.identity.userName,
        passwordFile: kept(`${serverId}.txt`, passwords.find(({ linkId }) => linkId === link.id).password),
      },
      publishingMs: everyMs,
    };
  });
  return {
    name: 'mirror',
    certificateFile: kept('own.pem', own.certificatePem),
    keyFile: kept('own.key', own.privateKeyPem),
    // Between them, the clients of the plant trust all four servers.
    trustedFiles: clients.flatMap(({ trustedPem }, at) =>
      trustedPem.map((pem, index) => kept(`trusted-${at}-${index}.pem`, pem)),
    ),
    crlFiles: own.crlsPem.map((pem, index) => kept(`${index}.crl`, pem)),
    sources,
    places: sources.map(({ name }) => ({ source: name, items: 'Counters/*', domain: name })),
    faces: [{ kind: 'ua', address: '127.0.0.1', port: 0, users: [] }],
  };
}
