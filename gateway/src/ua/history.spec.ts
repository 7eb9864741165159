import { HistoryPoints } from './history';

describe('continuation points of a face', () => {
  const point = Buffer.from('at the source');

  it('are of use to the session that got them, once', () => {
    const points = new HistoryPoints();
    const own = points.keep('reader', point);
    expect(own.equals(point)).toBe(false);
    expect(points.take('another', own)).toBeNull();
    expect(points.take('reader', own)).toEqual(point);
    expect(points.take('reader', own)).toBeNull();
  });

  it('go, the oldest first, where there are too many', () => {
    const points = new HistoryPoints();
    const [first, second] = Array.from({ length: 1_001 }, () => points.keep('reader', point));
    expect(first && points.take('reader', first)).toBeNull();
    expect(second && points.take('reader', second)).toEqual(point);
  });
});
