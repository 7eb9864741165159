import type { DcomChange } from '@loyal-hinge/core';
import { conflict } from '../../http/problems.js';
import type { Carried, ChangeDesk, Gate } from '../../orders/port.js';

/** Lines of work orders that set permissions of DCOM: a person puts a file in force on the machine. */
export class DcomDesk implements ChangeDesk<DcomChange> {
  readonly action = 'permissions changed';
  readonly isAlwaysByHand = true;

  needPassphrase = (): Promise<boolean> => Promise.resolve(false);

  byHand = (): Promise<string> =>
    Promise.resolve(
      'Save the file and put it in force on the machine as an administrator (reg import), start the server anew, then mark it as done: its links are checked. New exports of the machine prove it.',
    );

  carry = (): Promise<Carried> =>
    Promise.reject(
      conflict('Permissions are set on the machine itself.', 'Propose the way back as a work order of its own.'),
    );

  gate = (): Promise<Gate> => Promise.resolve({ heldBackBy: () => Promise.resolve(null) });
}
