const Sequencer = require('@jest/test-sequencer').default;
const placeOf = require('./longest.cjs');

/** Parts of all tests begin with the first one, which has the longest. */
module.exports = class LongestFirst extends Sequencer {
  async sort(tests) {
    const byName = (await super.sort(tests)).sort((one, other) => (one.path < other.path ? -1 : 1));
    return byName.sort((one, other) => placeOf(one.path) - placeOf(other.path));
  }
};
