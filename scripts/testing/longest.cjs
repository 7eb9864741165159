/** What takes longest, in this order: begun late, one of these alone would keep everybody waiting at the end. */
const longest = [
  ...['outlives', 'starting', 'backup'],
  ...['field', 'odd-values', 'two-processes', 'recipients', 'probes', 'walk-link', 'tunnels', 'broken-wire', 'killed'],
  ...['renewed-authority', 'away', 'gateways', 'admission', 'casebook', 'sockets', 'events'],
];

/** @returns the place of a file of tests among those that take longest; behind them all where it isn’t one */
module.exports = (path) => {
  const place = longest.findIndex((name) => path.endsWith(`/${name}.live.ts`) || path.endsWith(`/${name}.own.ts`));
  return place < 0 ? longest.length : place;
};
