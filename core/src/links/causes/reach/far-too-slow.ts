import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';
import { spanOf } from '../../../time.js';

/** Connecting takes over a second, or varies tenfold between attempts. */
export const farTooSlow = cause({
  id: 'far-too-slow',
  steps: ['reach'],
  clause: 'Part 6 §7.2',
  title: 'Connecting is far too slow',
  severity: 'weak',
  test({ facts, rules }) {
    const open = facts.all('tcp-connect').filter((fact) => fact.purpose === 'link' && fact.outcome === 'open');
    const slowest = open.reduce<(typeof open)[number] | null>(
      (worst, fact) => (!worst || fact.ms > worst.ms ? fact : worst),
      null,
    );
    if (!slowest) return null;
    const quickestMs = Math.min(...open.map((fact) => fact.ms));
    // Below a tenth of the limit a tenfold difference says nothing: it is how the machine happened to be scheduled.
    const varies = slowest.ms >= rules.slowConnectMs / 10 && slowest.ms >= 10 * quickestMs;
    return slowest.ms > rules.slowConnectMs || varies
      ? { because: [slowest], slowestMs: slowest.ms, quickestMs }
      : null;
  },
  meaning: ({ slowestMs, quickestMs }) =>
    quickestMs * 10 <= slowestMs
      ? `Connecting takes between ${spanOf(quickestMs)} and ${spanOf(slowestMs)}: the network is overloaded or interrupted at times.`
      : `Connecting takes ${spanOf(slowestMs)}; inside a works it takes a few milliseconds.`,
  remedies: (_, { subject: { clientMachine, serverMachine } }) => [
    byHand({
      title: 'Look for an overloaded network link, a name look-up on the way or a duplex mismatch',
      target: `the network between ${clientMachine.name} and ${serverMachine.name}`,
      undo: 'Nothing to undo.',
    }),
  ],
});
