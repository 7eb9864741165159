import { chromium } from '@playwright/test';

const patienceMs = 60_000;

/** The pages of a large plant in a real browser: when its first rows stand there, how it scrolls, and what it holds. */
export async function walked(say, url, { name, password }, { links }) {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--enable-precise-memory-info'],
  });
  try {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const answer = await context.request.post(`${url}/api/session`, { data: { name, password } });
    if (!answer.ok()) throw new Error(`the sign-in was refused with ${answer.status()}`);
    const page = await context.newPage();
    page.setDefaultTimeout(patienceMs);
    const until = async (place, selector) => {
      const begun = performance.now();
      await page.goto(`${url}${place}`, { waitUntil: 'commit' });
      // Looked for at every frame: a locator looks again only after up to half a second.
      await page.waitForFunction((wanted) => document.querySelector(wanted) !== null, selector);
      return Math.round(performance.now() - begun);
    };
    await until('/links', 'tr[data-link]');
    const told = [];
    for (const [word, place, selector] of pages(links)) told.push(`${word} ${await until(place, selector)}`);
    say(`  first rows in the browser, ms: ${told.join(', ')}`);
    await until('/links', 'tr[data-link]');
    const nodes = await page.evaluate(() => document.querySelector('tr[data-link]').querySelectorAll('*').length + 1);
    const { frames, longest, ms } = await page.evaluate(scroll);
    say(
      `  board: ${nodes} nodes a row; scrolling through it for ${(ms / 1000).toFixed(1)} s: ${Math.round((frames * 1000) / ms)} frames a second, longest frame ${Math.round(longest)} ms`,
    );
    const begun = performance.now();
    await page.getByRole('searchbox').fill('00042');
    await page.waitForFunction(
      () =>
        !document.querySelector('tr[aria-busy]') &&
        [...document.querySelectorAll('tr[data-link]')].some((row) => row.textContent.includes('00042')),
    );
    say(`  typed into the filter, to the rows that fit: ${Math.round(performance.now() - begun)} ms`);
    const held = await page.evaluate(() => performance.memory.usedJSHeapSize);
    say(`  memory of the page’s own objects after that: ${Math.round(held / 1e6)} MB`);
  } finally {
    await browser.close();
  }
}

const pages = (links) => [
  ['links', '/links', 'tr[data-link]'],
  ['a link', `/links/${links[7].id}`, 'h1:not(:empty)'],
  ['trust', '/trust', '[role=grid] tbody td'],
  ['orders', '/orders', 'h1'],
  ['plant', '/plant', 'tbody tr'],
  ['bench', '/bench', '.choice li'],
];

/** Scrolls down as somebody who holds the page key, for some seconds; counts frames. */
function scroll() {
  return new Promise((resolve) => {
    const lasts = 5000;
    const begun = performance.now();
    let [frames, longest, last] = [0, 0, begun];
    const step = (now) => {
      frames += 1;
      longest = Math.max(longest, now - last);
      last = now;
      window.scrollBy(0, 90);
      if (now - begun < lasts) requestAnimationFrame(step);
      else resolve({ frames, longest, ms: now - begun });
    };
    requestAnimationFrame(step);
  });
}
