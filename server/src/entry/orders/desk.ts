import { byNumber } from '@loyal-hinge/core';
import type { DoorChange } from '@loyal-hinge/core';
import { conflict } from '../../http/problems.js';
import type { Batch } from '../../orders/batches.js';
import type { Carried, ChangeDesk, Gate, OrderAtWork } from '../../orders/port.js';

/** Lines of work orders that open or close doors: a person sets them at the server, since no call of the standard does. */
export class DoorDesk implements ChangeDesk<DoorChange> {
  readonly action = 'doors changed';
  readonly isAlwaysByHand = true;

  needPassphrase = (): Promise<boolean> => Promise.resolve(false);

  byHand = (): Promise<string> =>
    Promise.resolve(
      'The standard has no call for this. Set it in the configuration of the server, restart the server if it asks for that, then mark it as done: its links are checked, and what it offers then proves it.',
    );

  carry = (): Promise<Carried> =>
    Promise.reject(conflict('Doors are set at the server itself.', 'Propose the way back as a work order of its own.'));

  /** No door is closed while one that the same order opens is not seen to be open. */
  gate({ linesNow }: OrderAtWork): Promise<Gate> {
    return Promise.resolve({
      heldBackBy: async ({ stage }: Batch) => {
        if (stage === 0) return null;
        const open = (await linesNow()).filter(
          ({ change, state }) => change.kind === 'open-doors' && state !== 'proved',
        );
        return open.length === 0
          ? null
          : byNumber(
              open.length,
              'It waits for # line that opens doors and is not proved.',
              'It waits for # lines that open doors and are not proved.',
            );
      },
    });
  }
}
