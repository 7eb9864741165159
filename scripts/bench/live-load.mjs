import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';
import { bareWatch } from './bare-watch.mjs';
import { cpuSeconds } from './process-time.mjs';
import { signedIn } from './signed-in.mjs';

const everyMs = 250;
/** One session each, to as many servers. */
const linkIds = ['energy--furnace', 'line-display--lehr', 'line-display--tin-bath', 'history--archive'];
const perServer = 1250;
export const counters = ['furnace-server', 'lehr-server', 'tin-bath-server', 'archive-server']
  .map((id) => `${id}:${perServer}`)
  .join(',');
const bareSeconds = 30;
const settleMs = 8000;
const scrollSeconds = 10;
const watchedInOneGo = 'Counters/*';

/**
 * All counters of four servers, 5,000 in all, watched over four sessions in one page of a browser: what is lost, how smoothly
 * the page scrolls meanwhile, how its memory grows; beside it the bare library, which hears the same and shows nothing.
 */
export async function liveLoad(say, server, signIn, handoverFile, minutes) {
  say(`\n5,000 items of four servers at ${everyMs} ms, over four sessions into one page:`);
  const taken = JSON.parse(readFileSync(handoverFile, 'utf8'));
  const bare = await bareWatch(taken, linkIds, everyMs, bareSeconds);
  say(`  the bare library: ${told(bare)}`);
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--enable-precise-memory-info'],
  });
  try {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const signed = await context.request.post(`${server.url}/api/session`, { data: signIn });
    if (!signed.ok()) throw new Error(`the sign-in was refused with ${signed.status()}`);
    await check(server.url, signIn);
    const page = await context.newPage();
    await page.addInitScript(countStream);
    await openSessions(page, server.url);
    await page.waitForTimeout(settleMs);
    await measured(say, page, server, bare, minutes);
  } finally {
    await browser.close();
  }
}

/** A session can be opened on links that were seen to work. */
async function check(url, signIn) {
  const headers = await signedIn(url, signIn);
  const asked = await fetch(`${url}/api/checks`, { method: 'POST', headers, body: JSON.stringify({ linkIds }) });
  if (!asked.ok) throw new Error(`no check was begun: ${await asked.text()}`);
  for (const linkId of linkIds)
    for (;;) {
      const { state } = await (await fetch(`${url}/api/links/${linkId}/row`, { headers })).json();
      if (['Sound', 'Strained'].includes(state)) break;
      await new Promise((resolve) => setTimeout(resolve, 500));
    }
}

async function openSessions(page, url) {
  await page.goto(`${url}/bench/${linkIds[0]}`);
  for (const linkId of linkIds) {
    // Within the page: a page that is loaded anew begins with no session.
    if (linkId !== linkIds[0]) {
      await page.getByRole('link', { name: 'Open another session' }).click();
      await page.locator(`a[href="/bench/${linkId}"]`).first().click();
    }
    await page.getByLabel('Find variables by their path').fill(watchedInOneGo, { timeout: 60_000 });
    await page.getByRole('button', { name: 'Find', exact: true }).click();
    await page.getByRole('button', { name: `Watch all ${perServer}` }).click({ timeout: 60_000 });
  }
  await page.getByRole('combobox', { name: 'How often values are asked for' }).click();
  await page.getByRole('option', { name: `${everyMs} ms` }).click();
}

async function measured(say, page, server, bare, minutes) {
  const cdp = await page.context().newCDPSession(page);
  const heap = async () => {
    await cdp.send('HeapProfiler.collectGarbage');
    const { usedSize } = await cdp.send('Runtime.getHeapUsage');
    return usedSize / 1e6;
  };
  const counted = () => page.evaluate(() => ({ ...globalThis.streamCount }));
  const shown = () =>
    page.locator('.watched-head .rest').evaluate((words) => ({
      inAll: Number(words.title.replace(/\D/g, '')),
      words: words.textContent,
    }));
  const ended = performance.now() + minutes * 60_000;
  const [first, begun, computed] = [await counted(), performance.now(), cpuSeconds(server.child.pid)];
  const heaps = [await heap()];
  const frames = [await frameRate(page)];
  while (performance.now() < ended) {
    await page.waitForTimeout(Math.min(60_000, Math.max(0, ended - performance.now())));
    heaps.push(await heap());
    frames.push(await frameRate(page));
  }
  const last = await counted();
  const span = (performance.now() - begun) / 1000;
  const inPage = {
    aSecond: (last.changes - first.changes) / span,
    // Until everything is asked for at the counters’ own pace, numbers are skipped.
    gaps: last.gaps - first.gaps,
    cpu: (cpuSeconds(server.child.pid) - computed) / span,
  };
  const { inAll, words } = await shown();
  const after = await counted();
  say(`  the page: ${told(inPage)} of the server, ${Math.round((last.bytes - first.bytes) / span / 1000)} kB a second`);
  say(`  the server computes ${(inPage.cpu / bare.cpu).toFixed(2)} times what the bare library does`);
  say(
    `  on the screen: “${words.trim()}”; ${inAll} changes are in its store, of ${after.changes} that came over the line`,
  );
  say(`  frames a second while it is scrolled: ${frames.map(Math.round).join(', ')}`);
  say(
    `  memory of the page’s scripts, after collecting, a minute apart: ${heaps.map((mb) => mb.toFixed(0)).join(', ')} MB`,
  );
}

const told = ({ aSecond, gaps, cpu }) =>
  `${Math.round(aSecond)} changes a second, ${gaps} lost, ${(cpu * 100).toFixed(0)} % of a processor`;

/** Frames that were drawn in a second, while the list is scrolled by its wheel as by somebody who looks around. */
async function frameRate(page) {
  await page.locator('hinge-watch-list .p-virtualscroller').hover();
  const counting = page.evaluate(
    (seconds) =>
      new Promise((resolve) => {
        let count = 0;
        const begun = performance.now();
        const frame = () => {
          count += 1;
          const span = (performance.now() - begun) / 1000;
          if (span < seconds) requestAnimationFrame(frame);
          else resolve(count / span);
        };
        requestAnimationFrame(frame);
      }),
    scrollSeconds,
  );
  for (let turn = 0; turn < scrollSeconds * 4; turn += 1) {
    await page.mouse.wheel(0, turn % 8 < 5 ? 160 : -200);
    await page.waitForTimeout(200);
  }
  return counting;
}

/** Runs in the page before its own scripts: counts what comes over its streams, and where a counter skips a number. */
function countStream() {
  const count = { changes: 0, gaps: 0, bytes: 0 };
  globalThis.streamCount = count;
  const Real = globalThis.EventSource;
  globalThis.EventSource = class extends Real {
    constructor(url) {
      super(url);
      if (!String(url).includes('bench-stream')) return;
      const newest = new Map();
      this.addEventListener('message', ({ data }) => {
        count.bytes += data.length;
        for (const { benchId, changes } of JSON.parse(data).heard)
          for (const [slot, value] of changes) {
            const key = `${benchId} ${slot}`;
            const before = newest.get(key);
            newest.set(key, value);
            count.changes += 1;
            if (before !== undefined && value > before + 1) count.gaps += value - before - 1;
          }
      });
    }
  };
}
