import type { LinkInPlant, LinkKindId } from '@loyal-hinge/core';
import { walkClassicLink } from '../../probe/classic/walk-classic-link.js';
import type { CheckLog, CheckMeans } from '../../probe/means.js';
import { walkLink } from '../../probe/walk-link.js';
import type { BenchSession } from './bench-session.js';
import { ClassicBenchSession } from './classic-bench-session.js';
import { UaBenchSession } from './ua-bench-session.js';

type WalkToSession = (
  subject: LinkInPlant,
  means: CheckMeans,
  log: CheckLog,
  signal: AbortSignal,
  use: (session: BenchSession) => Promise<void>,
) => Promise<void>;

/** How links of each kind are walked to the session that the bench holds; it is given back when its use ends. */
export const benchWalks: Readonly<Record<LinkKindId, WalkToSession>> = {
  ua: (subject, means, log, signal, use) =>
    walkLink(subject, means, log, signal, (session) => use(new UaBenchSession(session))),
  classic: (subject, means, log, signal, use) =>
    walkClassicLink(subject, means, log, signal, (held) => use(new ClassicBenchSession(held))),
};
