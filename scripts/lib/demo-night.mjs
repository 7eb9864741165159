import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { callOwn } from './call-own.mjs';
import { standInsFolder } from './demo-plant.mjs';
import { nightMain } from './places.mjs';
import { runOwn } from './run.mjs';

const partBytes = 3 << 20;
const recordedIn = (folder) => join(folder, 'recorded');

/** Plays a night of the made-up plant where none was recorded yet. The plant must not be running. */
export async function recordNight(folder, block = 41) {
  if (!existsSync(recordedIn(folder))) await runOwn(nightMain, [folder], { env: { HINGE_PLANT_BLOCK: String(block) } });
}

/** Brings what was recorded of the night to the casebook, as an engineer would. */
export async function bringNight(url, dataFolder, headers) {
  const folder = recordedIn(standInsFolder(dataFolder));
  if (!existsSync(folder)) return;
  const send = async (method, path, body) => {
    const answer = await callOwn(url, path, { dataFolder, method, headers, body: JSON.stringify(body) });
    if (answer.status >= 400) throw new Error(answer.json().detail ?? `${path} answered ${answer.status}`);
    return answer.json();
  };
  for (const name of readdirSync(folder)) {
    const bytes = readFileSync(join(folder, name));
    const { evidenceId, received } = await send('POST', '/api/casebook/evidence', { name, bytes: bytes.length });
    for (let from = received; from < bytes.length; from += partBytes) {
      const content = bytes.subarray(from, from + partBytes).toString('base64');
      await send('PUT', `/api/casebook/evidence/${evidenceId}/parts`, { from, content });
    }
  }
}
