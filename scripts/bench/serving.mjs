import { signedIn } from './signed-in.mjs';

const copies = 20_000;
const patienceMs = 10_000;

/** How long others wait while the server has heavy work: health is asked again and again while a large plant is imported, shown and judged. */
export async function serving(say, url, signIn) {
  const headers = await signedIn(url, signIn);
  const document = await (await fetch(`${url}/api/plant/document`, { headers })).json();
  const put = async (body) => {
    const answer = await fetch(`${url}/api/plant/document`, { method: 'PUT', headers, body });
    if (!answer.ok) throw new Error(`the import was refused: ${await answer.text()}`);
  };
  const [link] = document.plant.links;
  const links = Array.from({ length: copies }, (_, index) => ({ ...link, id: `copy-${index}`, name: `Copy ${index}` }));
  const large = JSON.stringify({ ...document, plant: { ...document.plant, links } });

  const waits = [];
  let isBusy = true;
  const asking = (async () => {
    while (isBusy) {
      const begun = performance.now();
      await fetch(`${url}/api/health`);
      waits.push(performance.now() - begun);
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
  })();
  const begun = performance.now();
  await put(large);
  const importMs = Math.round(performance.now() - begun);
  for (const place of ['links', 'plant', 'links/copy-5', 'first-steps', 'orders', 'trust'])
    // Trust of so many links is not waited for to its end.
    await fetch(`${url}/api/${place}`, { headers, signal: AbortSignal.timeout(patienceMs) })
      .then((answer) => answer.text())
      .catch(() => undefined);
  isBusy = false;
  await asking;
  await put(JSON.stringify(document));
  waits.sort((left, right) => left - right);
  const at = (part) => Math.round(waits[Math.min(waits.length - 1, Math.floor(waits.length * part))] ?? 0);
  say(
    `Health while ${copies.toLocaleString('en')} links are imported (${importMs} ms), shown and judged: median ${at(0.5)} ms, 95 of 100 within ${at(0.95)} ms, longest ${at(1)} ms of ${waits.length}.`,
  );
}
