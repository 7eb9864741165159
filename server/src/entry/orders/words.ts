import { doorsHold, doorsOf, noFloor, sayDoorChange } from '@loyal-hinge/core';
import type { DoorChange } from '@loyal-hinge/core';
import { knownEndpoints } from '../../facts/endpoints.js';
import type { ChangeWords } from '../../orders/port.js';
import { namesOf } from '../../plant/part.js';

/** Changes of doors, as work orders show and prove them. */
export const doorWords: ChangeWords<DoorChange> = {
  async say(db, lines) {
    const names = await namesOf(
      db,
      lines.map(({ change }) => change.serverId),
    );
    return lines.map(({ change }) => {
      const said = sayDoorChange(change, names.get(change.serverId) ?? change.serverId);
      return { ...said, way: 'by hand', restart: true, signedHere: false };
    });
  },
  async holding(db, lines) {
    const seen = await knownEndpoints(
      db,
      lines.map(({ change }) => change.serverId),
    );
    return lines
      .filter((line) => {
        const known = seen.get(line.change.serverId);
        // What was seen before the change was made proves nothing of it.
        return (
          known &&
          line.at !== null &&
          Date.parse(known.seenAt) > Date.parse(line.at) &&
          doorsHold(line.change, doorsOf(known.endpoints, noFloor))
        );
      })
      .map(({ position }) => position);
  },
  asTheyLie: (_, lines) => Promise.resolve(lines),
};
