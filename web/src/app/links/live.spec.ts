import { liveNews } from './live';
import type { LiveNews } from './live';

/** Streams that were opened, by their addresses, and what they tell. */
class MadeUpEvents {
  static readonly opened: MadeUpEvents[] = [];
  static readonly CLOSED = 2;
  readyState = 1;
  onmessage: (message: { data: string; lastEventId: string }) => void = () => undefined;
  onerror: () => void = () => undefined;
  constructor(readonly url: string) {
    MadeUpEvents.opened.push(this);
  }
  addEventListener(): void {}
  close(): void {}
}

describe('what the server tells by itself', () => {
  beforeEach(() => {
    jest.useFakeTimers();
    Object.assign(globalThis, { EventSource: MadeUpEvents });
  });
  afterEach(() => jest.useRealTimers());

  it('begins behind what was known, and is taken up behind what was heard', () => {
    const heard: LiveNews[] = [];
    const listening = liveNews(41).subscribe((news) => heard.push(news));
    const [first] = MadeUpEvents.opened;
    expect(first?.url).toBe('/api/events?after=41');
    first?.onmessage({ data: '{"kind":"plant-changed"}', lastEventId: '57' });
    expect(heard).toEqual([{ kind: 'event', event: { kind: 'plant-changed' } }]);
    Object.assign(first ?? {}, { readyState: MadeUpEvents.CLOSED });
    first?.onerror();
    jest.advanceTimersByTime(10_000);
    expect(MadeUpEvents.opened.map(({ url }) => url)).toEqual(['/api/events?after=41', '/api/events?after=57']);
    listening.unsubscribe();
  });
});
