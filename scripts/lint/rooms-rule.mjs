import { dirname, join, relative, sep } from 'node:path';
import { circleAmong, foundations, rooms, usableFrom } from './rooms.mjs';

const known = new Set([...foundations, ...Object.keys(rooms)]);
const circle = circleAmong(rooms);
if (circle) throw new Error(`The rooms that may use each other form a circle: ${circle.join(' → ')}.`);

/** The room of a file below `server/src`: the longest known one; null for what stands in none. */
export function roomOf(source, file) {
  const parts = relative(source, file).split(sep).slice(0, -1);
  if (parts[0] === '..' || parts[0] === 'testing') return null;
  for (let length = parts.length; length > 0; length -= 1) {
    const room = parts.slice(0, length).join('/');
    if (known.has(room)) return room;
  }
  return parts.length === 0 ? null : parts[0];
}

/** Lets a file import from its own room, and from those that its room may use (`rooms.mjs`). */
export const roomsRule = (source) => ({
  meta: { type: 'problem', schema: [] },
  create(context) {
    const room = roomOf(source, context.filename);
    if (room === null) return {};
    const usable = new Set([room, ...usableFrom(room)]);
    const look = (node) => {
      const path = node.source?.value;
      if (typeof path !== 'string' || !path.startsWith('.')) return;
      const target = join(dirname(context.filename), path);
      if (relative(source, target).startsWith('..')) return;
      const other = roomOf(source, target);
      if (other === null) {
        if (!relative(source, target).startsWith(`testing${sep}`))
          context.report({ node, message: `The room ${room} may not use what puts the rooms together.` });
      } else if (!known.has(room))
        context.report({ node, message: `The room ${room} is not on the map (scripts/lint/rooms.mjs).` });
      else if (!usable.has(other))
        context.report({ node, message: `The room ${room} may not use ${other} (scripts/lint/rooms.mjs).` });
    };
    return { ImportDeclaration: look, ExportNamedDeclaration: look, ExportAllDeclaration: look };
  },
});
