import { Observable } from 'rxjs';
import type { BenchValue } from '@loyal-hinge/contract';

/** The values of watched items, as the server tells them; it closes the bench where nobody listens any more. */
export const benchValues = (benchId: string, nodeIds: readonly string[]): Observable<BenchValue[]> =>
  new Observable((subscriber) => {
    const query = nodeIds.map((nodeId) => `nodeId=${encodeURIComponent(nodeId)}`).join('&');
    const source = new EventSource(`/api/bench/${benchId}/values?${query}`);
    source.onmessage = ({ data }: MessageEvent<string>) =>
      subscriber.next((JSON.parse(data) as { values: BenchValue[] }).values);
    return () => source.close();
  });
