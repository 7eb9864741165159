import { signedIn } from '../signed-in.mjs';

const rounds = 15;
const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];

/** What the server answers, and after how long: first once, when nothing was read yet, and then again and again. */
export async function asked(say, url, signIn, { links, applications }, client) {
  const headers = await signedIn(url, signIn);
  const once = async (path) => {
    const begun = performance.now();
    const answer = await fetch(`${url}/api/${path}`, { headers });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${path}: ${text.slice(0, 200)}`);
    return { ms: performance.now() - begun, kilobytes: Math.round(text.length / 1000), answer: text };
  };
  const ofMany = async (what, paths) => {
    const first = await once(paths(0));
    const times = [];
    for (let round = 1; round <= rounds; round += 1) times.push((await once(paths(round))).ms);
    say(
      `  ${what}: ${whole(first.ms)} ms at first, then ${whole(median(times))} ms (longest ${whole(Math.max(...times))}), ${first.kilobytes} kB`,
    );
  };
  const some = (round) => Math.floor((links.length * (round * 37 + 11)) / 701) % links.length;
  await ofMany('board, first rows', () => 'links?most=75');
  await ofMany(
    'board, filtered by two words',
    (round) => `links?most=75&find=${encodeURIComponent(`client ${String(some(round) % 1000).padStart(3, '0')}`)}`,
  );
  await ofMany('board, parted ones', () => 'links?most=75&state=Parted');
  await ofMany(
    'board, somewhere far down by name',
    (round) => `links?most=75&by=name&from=${Math.max(0, links.length - 100 - round * 50)}`,
  );
  await ofMany('a link', (round) => `links/${links[some(round)].id}`);
  await ofMany('trust grid, first applications', () => 'trust');
  await ofMany(
    'trust of one application',
    (round) => `trust/holders/${applications[some(round) % applications.length].id}`,
  );
  const finding = await once('trust/finding');
  const again = await once('trust/finding');
  say(
    `  trust finding: ${whole(finding.ms)} ms at first (all is judged), ${whole(again.ms)} ms again: ${JSON.parse(again.answer).headline}`,
  );
  const plan = await once('trust/plans');
  await client.query('delete from trust_entries where application_id = $1 and list = $2', [
    applications[1].id,
    'trusted',
  ]);
  const after = await once('trust/plans');
  const turned = await once('trust/finding');
  say(
    `  trust plan: ${whole(plan.ms)} ms at first (${JSON.parse(plan.answer).direct.changes.length} changes, ${plan.kilobytes} kB), ${whole(after.ms)} ms after one application’s lists have changed; the finding then ${whole(turned.ms)} ms`,
  );
  await ofMany('first steps', () => 'first-steps');
  await ofMany('orders', () => 'orders');
}

const whole = (ms) => Math.round(ms);
