import type { MappingChange } from '@loyal-hinge/core';
import { conflict } from '../../http/problems.js';
import type { Carried, ChangeDesk, Gate } from '../../orders/port.js';

/** Lines of work orders that set what a server reads of a device: a person does it in the server’s own configuration. */
export class MappingDesk implements ChangeDesk<MappingChange> {
  readonly action = 'registers set at a server';
  readonly isAlwaysByHand = true;

  needPassphrase = (): Promise<boolean> => Promise.resolve(false);

  byHand = (): Promise<string> =>
    Promise.resolve(
      'Set the register in the server’s own configuration as it stands here, then mark it as done: its links are checked. A check in which server and device agree proves it.',
    );

  carry = (): Promise<Carried> =>
    Promise.reject(
      conflict('What a server reads is set at the server itself.', 'Propose the way back as a work order of its own.'),
    );

  gate = (): Promise<Gate> => Promise.resolve({ heldBackBy: () => Promise.resolve(null) });
}
