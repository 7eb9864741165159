import { join } from 'node:path';
import { Linter } from 'eslint';
import { circleAmong, foundations, rooms } from './rooms.mjs';
import { roomOf, roomsRule } from './rooms-rule.mjs';

const source = join('/', 'server', 'src');

function complaints(file: string, code: string): readonly string[] {
  const plugins = { server: { rules: { rooms: roomsRule(source) } } };
  return new Linter({ cwd: '/' })
    .verify(code, [{ files: ['**/*.ts'], plugins, rules: { 'server/rooms': 'error' } }], join(source, file))
    .map(({ message }) => message);
}

describe('the rooms of the server', () => {
  it('form no circle', () => {
    expect(circleAmong(rooms)).toBeNull();
  });

  it('would be told if they did', () => {
    expect(circleAmong({ links: ['means'], means: ['facts', 'orders'], facts: [], orders: ['links'] })).toEqual([
      'links',
      'means',
      'orders',
      'links',
    ]);
  });

  it('name nobody that is not on the map', () => {
    const known = new Set([...foundations, ...Object.keys(rooms)]);
    expect(Object.values(rooms).flatMap((used) => used.filter((room) => !known.has(room)))).toEqual([]);
  });

  it('are told apart down to the parts of trust', () => {
    expect(roomOf(source, join(source, 'trust/push/carrier.ts'))).toBe('trust/push');
    expect(roomOf(source, join(source, 'trust/routes.ts'))).toBe('trust');
    expect(roomOf(source, join(source, 'start-server.ts'))).toBeNull();
  });
});

describe('an import', () => {
  it('may lead to an allowed room, to the same one, and to a foundation', () => {
    expect(complaints('bench/service.ts', "import '../probe/walk-link.js'; import './routes.js';")).toEqual([]);
    expect(complaints('trust/push/desk.ts', "import '../../database/database.js';")).toEqual([]);
  });

  it('may not lead to any other room, to a later foundation, or to what puts them together', () => {
    expect(complaints('orders/carry-out.ts', "import '../trust/push/carrier.js';")).toEqual([
      'The room orders may not use trust/push (scripts/lint/rooms.mjs).',
    ]);
    expect(complaints('database/database.ts', "export { x } from '../audit/trail.js';")).toHaveLength(1);
    expect(complaints('links/service.ts', "import '../start-server.js';")).toEqual([
      'The room links may not use what puts the rooms together.',
    ]);
  });

  it('is refused from a room that nobody has put on the map', () => {
    expect(complaints('attic/things.ts', "import '../database/database.js';")).toEqual([
      'The room attic is not on the map (scripts/lint/rooms.mjs).',
    ]);
  });
});
