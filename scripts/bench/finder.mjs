import { Worker } from 'node:worker_threads';

const [registers, samples, rounds] = [1000, 60, 5];

/** The register of a value, searched among a thousand that move, in a worker as the server does it. */
export async function finder(say) {
  const worker = new Worker(
    `
    const { parentPort, workerData: { registers, samples } } = require('node:worker_threads');
    import(${JSON.stringify(new URL('../../core/dist/field/index.js', import.meta.url).href)}).then(({ findRegister, wordsFor }) => {
      let state = 5;
      const chance = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
      const form = { type: 'float32', order: 'low-first', scale: 1, offset: 0, bits: null };
      const seen = Array.from({ length: samples }, (_, index) => {
        const value = Math.fround(200 + Math.sin(index / 5) * 40 + chance());
        const places = Array.from({ length: registers }, (_, place) => place % 4 === 0 ? place : Math.floor(20000 + Math.sin(index / 7 + place) * 500 + chance() * 20));
        wordsFor(value, form).forEach((word, part) => (places[500 + part] = word));
        return { value, places };
      });
      parentPort.on('message', () => {
        const begun = performance.now();
        const { candidates } = findRegister({ first: 0, holds: 'words', samples: seen });
        parentPort.postMessage({ ms: performance.now() - begun, place: candidates[0]?.place, sureness: candidates[0]?.sureness });
      });
      parentPort.postMessage('ready');
    });`,
    { eval: true, workerData: { registers, samples } },
  );
  const heard = () => new Promise((resolve, reject) => worker.once('message', resolve).once('error', reject));
  try {
    await heard();
    const times = [];
    for (let round = 0; round < rounds; round += 1) {
      const answer = heard();
      worker.postMessage('search');
      const { ms, place, sureness } = await answer;
      if (place !== 500 || sureness !== 'proved') throw new Error(`the search found ${place}, ${sureness}`);
      times.push(ms);
    }
    times.sort((left, right) => left - right);
    say(
      `\nThe register of a value, among ${registers} registers over ${samples} samples, in every form: ${Math.round(times[rounds >> 1])} ms (median of ${rounds}, ${Math.round(times[0])} to ${Math.round(times[rounds - 1])} ms).`,
    );
  } finally {
    await worker.terminate();
  }
}
