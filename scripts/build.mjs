import { ensureBuild } from './lib/build.mjs';

await ensureBuild();
