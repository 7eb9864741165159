import { signedIn } from '../signed-in.mjs';

const readers = 50;
const checks = 500;
const patienceMs = 60_000;

/**
 * Many checks that end at once, while many look at the board: each reader hears of every one, and reads its rows anew as the
 * page does, but not more often than that. How long until the last one has heard of the last.
 */
export async function burst(say, url, signIn, { links }, client) {
  const headers = await signedIn(url, signIn);
  const leaving = new AbortController();
  const heard = Array.from({ length: readers }, () => 0);
  let asked = 0;
  const waits = [];
  const board = async () => {
    asked += 1;
    const begun = performance.now();
    await (await fetch(`${url}/api/links?most=75`, { headers })).text();
    waits.push(performance.now() - begun);
  };
  const refreshMs = 1500;
  const streams = heard.map(async (_, reader) => {
    const answer = await fetch(`${url}/api/events`, { headers, signal: leaving.signal });
    let lately = 0;
    const decoder = new TextDecoder();
    for await (const bytes of answer.body) {
      const ended = decoder.decode(bytes).split('"check-ended"').length - 1;
      heard[reader] += ended;
      if (ended > 0 && performance.now() - lately > refreshMs) {
        lately = performance.now();
        void board().catch(() => undefined);
      }
    }
  });
  for (const stream of streams) stream.catch(() => undefined);
  await new Promise((resolve) => setTimeout(resolve, 1000));
  const begun = performance.now();
  for (let at = 0; at < checks; at += 1) {
    const { id } = links[(at * 13) % links.length];
    await client.query('begin');
    await client.query(
      "update assessments set state = 'Sound', headline = 'All that this link needs holds.', parted_at = null, at = now() where link_id = $1",
      [id],
    );
    await client.query('select tell_event($1::jsonb)', [
      JSON.stringify({ kind: 'check-ended', checkId: `burst-${at}`, linkId: id, state: 'done', found: 'Sound' }),
    ]);
    await client.query('commit');
  }
  const toldMs = performance.now() - begun;
  while (heard.some((count) => count < checks) && performance.now() - begun < patienceMs)
    await new Promise((resolve) => setTimeout(resolve, 20));
  const heardMs = performance.now() - begun;
  leaving.abort();
  const missing = heard.filter((count) => count < checks).length;
  waits.sort((left, right) => left - right);
  say(
    `  ${checks} checks ended in ${Math.round(toldMs)} ms before ${readers} readers: all had heard of all after ${Math.round(heardMs)} ms${missing > 0 ? ` but ${missing}` : ''}; ${asked} boards were read meanwhile, median ${Math.round(waits[Math.floor(waits.length / 2)] ?? 0)} ms, longest ${Math.round(waits.at(-1) ?? 0)} ms`,
  );
}
