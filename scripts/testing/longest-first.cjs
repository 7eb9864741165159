const Sequencer = require('@jest/test-sequencer').default;

/** What takes longest, in this order: begun late, one of these alone would keep everybody waiting at the end. */
const longest = ['odd-values', 'outlives', 'starting', 'renewed-authority', 'backup', 'two-processes', 'interrupted'];

const rankOf = (path) => {
  const place = longest.findIndex((name) => path.includes(`/${name}.live.`) || path.includes(`/${name}.own.`));
  return place < 0 ? longest.length : place;
};

module.exports = class LongestFirst extends Sequencer {
  async sort(tests) {
    return (await super.sort(tests)).sort((one, other) => rankOf(one.path) - rankOf(other.path));
  }
};
