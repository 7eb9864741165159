import type { PassageChange } from '@loyal-hinge/core';
import { conflict } from '../../http/problems.js';
import type { Carried, ChangeDesk, Gate } from '../../orders/port.js';

/** Lines of work orders that change rules of firewalls: whoever may change them does. */
export class PassageDesk implements ChangeDesk<PassageChange> {
  readonly action = 'firewall rules changed';
  readonly isAlwaysByHand = true;

  needPassphrase = (): Promise<boolean> => Promise.resolve(false);

  byHand = (): Promise<string> =>
    Promise.resolve(
      'Enter the rules at the firewall as they stand here, then mark it as done: its links are checked. Its rules, taken and imported afterwards, prove it.',
    );

  carry = (): Promise<Carried> =>
    Promise.reject(
      conflict('Rules are changed at the firewall itself.', 'Propose the way back as a work order of its own.'),
    );

  gate = (): Promise<Gate> => Promise.resolve({ heldBackBy: () => Promise.resolve(null) });
}
