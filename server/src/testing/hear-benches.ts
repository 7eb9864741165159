import type { BenchHeard, BenchMessage } from '@loyal-hinge/contract';
import type { Caller } from './calls.js';

/** Hears benches as their page does, until it is stopped. */
export function hearBenches(url: string, caller: Caller, page: string) {
  const ended = new AbortController();
  const heard: BenchHeard[] = [];
  const reading = (async () => {
    const answer = await fetch(`${url}/api/bench-stream?page=${page}`, {
      headers: caller.headers,
      signal: ended.signal,
    });
    let left = '';
    for await (const part of answer.body?.pipeThrough(new TextDecoderStream()) ?? []) {
      const blocks = (left + part).split('\n\n');
      left = blocks.pop() ?? '';
      for (const block of blocks)
        if (block.startsWith('data: ')) heard.push(...(JSON.parse(block.slice(6)) as BenchMessage).heard);
    }
  })().catch(() => undefined);
  return {
    heard,
    stop: async () => {
      ended.abort();
      await reading;
    },
  };
}
