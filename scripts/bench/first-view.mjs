import { chromium } from '@playwright/test';

const rounds = 7;
const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];

/** From asking for the Links page to its rows on the screen: a warm server, a browser that has nothing kept. */
export async function firstView(say, url, signIn) {
  say('\nThe first view of the Links page, from a warm server, with nothing in the browser’s cache:');
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const cookies = await signedIn(browser, url, signIn);
    const times = [];
    const bytes = [];
    for (let round = 0; round < rounds + 1; round += 1) {
      const seen = await once(browser, url, cookies);
      if (round === 0) continue;
      times.push(seen.ms);
      bytes.push(seen.bytes);
    }
    say(
      `  rows on the screen after ${Math.round(median(times))} ms (median of ${rounds}; longest ${Math.round(Math.max(...times))} ms), ${Math.round(median(bytes) / 1000)} kB over the line`,
    );
  } finally {
    await browser.close();
  }
}

async function signedIn(browser, url, { name, password }) {
  const context = await browser.newContext();
  const answer = await context.request.post(`${url}/api/session`, { data: { name, password } });
  if (!answer.ok()) throw new Error(`the sign-in was refused with ${answer.status()}`);
  const cookies = await context.cookies();
  await context.close();
  return cookies;
}

async function once(browser, url, cookies) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  await context.addCookies(cookies);
  const page = await context.newPage();
  const begun = performance.now();
  await page.goto(`${url}/links`, { waitUntil: 'commit' });
  // Looked for at every frame: a locator looks again only after up to half a second.
  await page.waitForFunction(() => document.querySelector('tr[data-link]') !== null);
  const ms = performance.now() - begun;
  const bytes = await page.evaluate(() =>
    [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')]
      .map((entry) => entry.transferSize)
      .reduce((sum, size) => sum + size, 0),
  );
  await context.close();
  return { ms, bytes };
}
