/** The middle one of some values. */
export const median = (values) => [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)];

/** How long some work takes, in ms: the median of several rounds. */
export const timedOver = (rounds, work) =>
  median(
    Array.from({ length: rounds }, () => {
      const begun = performance.now();
      work();
      return performance.now() - begun;
    }),
  );
