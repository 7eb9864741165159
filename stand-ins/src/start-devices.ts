import { wordsFor } from '@loyal-hinge/core/field';
import { FieldDevice } from '@loyal-hinge/field';
import type { StandInDevice } from './marrowby/field.js';
import { startSilentPort } from './other-ports.js';
import type { Stoppable } from './other-ports.js';
import { ProcessValue } from './process-values.js';

const tickMs = 1000;

/** Starts a field device whose registers move as measurements do. */
export async function startDevice(standIn: StandInDevice): Promise<Stoppable> {
  const { address, port, unit, mostConnections, registers, isSilent } = standIn;
  if (isSilent) return startSilentPort(address, port);
  const holding = new Map<number, number>();
  const values = registers.map(({ place, form, mean, swing }) => ({
    place,
    form,
    mean,
    swing,
    value: new ProcessValue({ mean, swing }),
  }));
  const move = (): void => {
    for (const { place, form, mean, swing, value } of values)
      wordsFor(swing === 0 ? mean : value.next(), form).forEach((word, index) => holding.set(place + index, word));
  };
  move();
  const device = await FieldDevice.start(address, port, {
    units: [unit],
    mostConnections,
    at: (table, place) => (table === 'holding' ? (holding.get(place) ?? null) : null),
  });
  const timer = setInterval(move, tickMs);
  return {
    stop: () => {
      clearInterval(timer);
      return device.stop();
    },
  };
}
