/**
 * Tells that nothing came in time. Where this process stood still meanwhile, what had come is heard first: timers run out before
 * anybody looks at the sockets. A copy of what field devices are read with: this package stands on no other.
 * @returns calls it off
 */
export function whenSilent(ms: number, tell: () => void): () => void {
  let late: NodeJS.Immediate | undefined;
  const timer = setTimeout(() => (late = setImmediate(tell)), ms);
  return () => {
    clearTimeout(timer);
    clearImmediate(late);
  };
}
