import { readFileSync } from 'node:fs';
import { connect } from 'node:net';
import { signedIn } from './signed-in.mjs';

const readers = 200;
const events = 2000;
const letters = 2000;

const megabytes = (pid) => {
  const kilobytes = /^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
  return Math.round(Number(kilobytes) / 1024);
};

/** What readers of events cost that take nothing in: memory of the server while far more is told than the system holds for them. */
export async function reading(say, { url, child }, databaseUrl, signIn) {
  const { cookie } = await signedIn(url, signIn);
  const { default: pg } = await import('pg');
  const database = new pg.Client({ connectionString: databaseUrl });
  await database.connect();
  const { hostname, port } = new URL(url);
  const before = megabytes(child.pid);
  const sockets = Array.from({ length: readers }, () => {
    const socket = connect({ host: hostname, port: Number(port) });
    socket.on('error', () => undefined);
    socket.pause();
    socket.write(`GET /api/events HTTP/1.1\r\nhost: ${hostname}\r\ncookie: ${cookie}\r\n\r\n`);
    return socket;
  });
  try {
    await new Promise((resolve) => setTimeout(resolve, 2000));
    const opened = megabytes(child.pid);
    let most = opened;
    for (let told = 0; told < events; told += 50) {
      await database.query(
        `select tell_event(jsonb_build_object('kind', 'order-changed', 'orderId', repeat('x', ${letters}))) from generate_series(1, 50)`,
      );
      most = Math.max(most, megabytes(child.pid));
    }
    for (let look = 0; look < 40; look += 1) {
      await new Promise((resolve) => setTimeout(resolve, 250));
      most = Math.max(most, megabytes(child.pid));
    }
    say(
      `${readers} readers that take nothing in, while ${(events * letters) / 1_000_000} MB of events are told: the server has ${before} MB before, ${opened} MB with them, at most ${most} MB.`,
    );
  } finally {
    for (const socket of sockets) socket.destroy();
    await database.query(`delete from events where body->>'orderId' like 'xxx%'`);
    await database.end();
  }
}
