import { sayExplanation } from '../../../field/compare-origin.js';
import type { Explanation } from '../../../field/compare-origin.js';
import { writeAddress } from '../../../field/modbus/addresses.js';
import { byHand } from '../../../orders/change.js';
import { cause } from '../../cause.js';
import type { Cause } from '../../cause.js';
import { comparedOrigins, sayOrigin, sayReadAs, sayValue } from '../origin-sight.js';

/** A cause for one way in which a server may read another register than the one that is meant, or read it otherwise. */
const mapping = (id: string, title: string, clause: string, isIt: (explained: Explanation) => boolean): Cause =>
  cause({
    id,
    steps: ['origin-value'],
    clause,
    title,
    severity: 'fails',
    test({ facts }) {
      for (const { origin, compared, comparison } of comparedOrigins(facts)) {
        if (comparison.outcome !== 'differs' || !comparison.explained || !isIt(comparison.explained)) continue;
        return { because: [compared, origin], origin, comparison, explained: comparison.explained };
      }
      return null;
    },
    meaning({ origin, comparison: { value, device }, explained }, { subject: { server } }) {
      const does = sayExplanation(explained, (place) => writeAddress(place, origin.table, origin.convention));
      return `${origin.path} is ${sayValue(value)} at ${server.name} and ${sayValue(device)} at ${origin.device ?? origin.deviceId}. The server’s value comes out where it ${does}; by its origin it is ${sayOrigin(origin)}.`;
    },
    remedies({ origin, explained }, { subject: { server } }) {
      const read = sayReadAs(origin, explained);
      return [
        byHand({
          title: `Set the register of ${origin.path} at ${server.name}`,
          target: server.name,
          before: read,
          after: sayOrigin(origin),
          undo: `Set ${read} again.`,
        }),
        byHand({
          title: `Or correct the origin of ${origin.path}, where the device’s papers say so`,
          target: 'the plant, under “Behind the server”',
          before: sayOrigin(origin),
          after: read,
          undo: `Set ${sayOrigin(origin)} again.`,
        }),
      ];
    },
  });

export const registerOffByOne = mapping(
  'register-off-by-one',
  'The server reads the register beside it',
  'Modbus Application Protocol §4.4',
  ({ what }) => what === 'place',
);
export const wordsSwapped = mapping(
  'words-swapped',
  'The words are the other way round',
  'Modbus Application Protocol §4.2',
  ({ what }) => what === 'words',
);
export const bytesSwapped = mapping(
  'bytes-swapped',
  'The bytes are the other way round',
  'Modbus Application Protocol §4.2',
  ({ what }) => what === 'bytes',
);
export const typeWrong = mapping(
  'type-wrong',
  'The server reads another type',
  'Modbus Application Protocol §4.3',
  ({ what }) => what === 'type',
);
export const scaleWrong = mapping(
  'scale-wrong',
  'The server scales otherwise',
  'Modbus Application Protocol §4.3',
  ({ what }) => what === 'scale',
);
