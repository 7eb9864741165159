/** Streams wait by intervals; what comes after longer than this is a clock, and not something that is under way. */
const longestMs = 500;
const awaited = new Set<unknown>();
const [begin, end] = [globalThis.setInterval, globalThis.clearInterval];

/** From now on it is known whether something will come soon: typed words that are gathered, an answer that is on its way. */
export function watchWhatComes(): void {
  Object.assign(globalThis, {
    setInterval: (run: () => void, ms = 0, ...more: unknown[]) => {
      const id: unknown = begin(run, ms, ...more);
      if (ms <= longestMs) awaited.add(id);
      return id;
    },
    clearInterval: (id: Parameters<typeof end>[0]) => {
      awaited.delete(id);
      end(id);
    },
  });
}

export const comesSoon = (): boolean => awaited.size > 0;
/** What an earlier test left behind is nothing that this one waits for. */
export const forgetWhatComes = (): void => awaited.clear();
