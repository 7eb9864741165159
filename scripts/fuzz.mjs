import { command } from './lib/command.mjs';
import { ensurePackages } from './lib/install.mjs';
import { root } from './lib/places.mjs';
import { run } from './lib/run.mjs';
import { giveUp, say } from './lib/say.mjs';

/** `npm run fuzz -- 60` breaks the files of cli/corpus in every way for 60 s a reader; what a reader stumbles over is kept there. */
const seconds = Number(process.argv[2] ?? 30);
await command(async () => {
  if (!Number.isInteger(seconds) || seconds < 1) giveUp('Say for how many whole seconds: npm run fuzz -- 60');
  await ensurePackages();
  say(`Each reader is given broken files for ${seconds} s …`);
  await run('npx', ['jest', '--selectProjects', 'unit', '--testPathPatterns', 'cli/src/corpus', '-t', 'never throws'], {
    cwd: root,
    env: { HINGE_FUZZ_SECONDS: String(seconds) },
  }).catch(() => giveUp('A reader stumbled: see above, and what is new in cli/corpus.'));
});
