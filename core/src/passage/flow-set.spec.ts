import fc from 'fast-check';
import {
  canonical,
  cut,
  dimensionAt,
  isEmpty,
  isSame,
  isSubset,
  keyOf,
  possibleFlows,
  regionOf,
  subtract,
  unite,
} from './flow-set';
import type { FlowSet, Region } from './flow-set';
import { hasPoint, onePoint, rangesOf } from './ranges';
import type { Ranges } from './ranges';

/** A small universe: eight addresses at each end, eight ports, three interfaces, two states. */
const addresses = [0, 1, 2, 3, 4, 5, 6, 7];
const names = ['a', 'b', 'c'];
const points = names.flatMap((inInterface) =>
  [0, 3, 6].flatMap((source) =>
    [1, 4, 7].flatMap((destination) =>
      addresses.flatMap((destinationPort) =>
        [0, 1].map((state) => ({ inInterface, source, destination, destinationPort, state })),
      ),
    ),
  ),
);
type Place = (typeof points)[number];

const numbers = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 7 }), fc.integer({ min: 1, max: 4 })), { minLength: 1, maxLength: 3 })
  .map((parts): Ranges => rangesOf(parts.map(([from, size]) => ({ from, to: from + size }))));
const interfaces = fc
  .subarray(names, { minLength: 1 })
  .map((chosen): Ranges => rangesOf(chosen.map((name) => ({ from: name, to: `${name}\0` }))));
const states = fc.constantFrom(0, 1).map((state) => onePoint(state));
const regions: fc.Arbitrary<Region> = fc
  .record({
    inInterface: fc.option(interfaces),
    source: fc.option(numbers),
    destination: fc.option(numbers),
    destinationPort: fc.option(numbers),
    state: fc.option(states),
  })
  .map((given) =>
    regionOf(Object.fromEntries(Object.entries(given).flatMap(([name, ranges]) => (ranges ? [[name, ranges]] : [])))),
  );
const sets: fc.Arbitrary<FlowSet> = fc.array(regions, { maxLength: 4 });

const isIn = (flows: FlowSet, place: Place): boolean =>
  flows.some((region) =>
    Object.entries(place).every(([name, point]) => {
      const ranges = region[dimensionAt[name as keyof Place]];
      return !ranges || hasPoint(ranges, point);
    }),
  );
const agrees = (flows: FlowSet, wanted: (place: Place) => boolean): boolean =>
  points.every((place) => isIn(flows, place) === wanted(place));

describe('Sets of flows', () => {
  it('are cut, united and subtracted as their points are', () => {
    fc.assert(
      fc.property(sets, sets, (left, right) => {
        expect(agrees(cut(left, right), (place) => isIn(left, place) && isIn(right, place))).toBe(true);
        expect(agrees(unite(left, right), (place) => isIn(left, place) || isIn(right, place))).toBe(true);
        expect(agrees(subtract(left, right), (place) => isIn(left, place) && !isIn(right, place))).toBe(true);
      }),
    );
  });

  it('are subtracted in boxes that share nothing', () => {
    fc.assert(
      fc.property(regions, sets, (left, right) => {
        const rest = subtract([left], right);
        return rest.every((one, index) => rest.slice(index + 1).every((other) => isEmpty(cut([one], [other]))));
      }),
    );
  });

  it('are one in another just where nothing of them is outside', () => {
    fc.assert(
      fc.property(sets, sets, (left, right) => {
        expect(isSubset(cut(left, right), left)).toBe(true);
        expect(isSubset(left, unite(left, right))).toBe(true);
        expect(isSame(left, right)).toBe(isEmpty(subtract(left, right)) && isEmpty(subtract(right, left)));
      }),
    );
  });

  it('have one form, whatever boxes they are given as', () => {
    fc.assert(
      fc.property(sets, sets, (left, right) => {
        const one = canonical(unite(left, right));
        const other = canonical([...subtract(right, left), ...left]);
        expect(keyOf(one)).toBe(keyOf(other));
        expect(agrees(one, (place) => isIn(left, place) || isIn(right, place))).toBe(true);
      }),
    );
  });

  it('tell two sets apart by their forms just where they differ', () => {
    fc.assert(
      fc.property(sets, sets, (left, right) => {
        const [one, other] = [left, right].map((flows) => cut(flows, possibleFlows));
        expect(keyOf(canonical(left)) === keyOf(canonical(right))).toBe(isSame(one ?? [], other ?? []));
      }),
    );
  });

  it('never go from one family of addresses to the other', () => {
    expect(canonical([regionOf({})])).toHaveLength(2);
    expect(
      isEmpty(cut(possibleFlows, [regionOf({ source: onePoint(5), destination: onePoint(2n ** 33n + 5n) })])),
    ).toBe(true);
  });
});
