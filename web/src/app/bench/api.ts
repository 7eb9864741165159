import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import { Observable } from 'rxjs';
import type { BenchNode, BenchOpened, BenchReading, BenchValue, LinkBoard } from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class BenchApi {
  private readonly http = inject(HttpClient);

  links = (find: string) =>
    this.http.get<LinkBoard>('/api/links', {
      params: { usable: 'yes', by: 'name', most: 50, ...(find === '' ? {} : { find }) },
    });
  open = (linkId: string) => this.http.post<BenchOpened>(`/api/links/${encodeURIComponent(linkId)}/bench`, {});
  browse = (benchId: string, parent: string | null) =>
    this.http.get<{ nodes: BenchNode[] }>(`/api/bench/${benchId}/nodes`, { params: parent === null ? {} : { parent } });
  read = (benchId: string, nodeId: string) =>
    this.http.get<BenchReading>(`/api/bench/${benchId}/value`, { params: { nodeId } });
  close = (benchId: string) => this.http.delete(`/api/bench/${benchId}`);

  values(benchId: string, nodeIds: readonly string[]): Observable<BenchValue[]> {
    return new Observable((subscriber) => {
      const query = nodeIds.map((nodeId) => `nodeId=${encodeURIComponent(nodeId)}`).join('&');
      const source = new EventSource(`/api/bench/${benchId}/values?${query}`);
      source.onmessage = ({ data }: MessageEvent<string>) =>
        subscriber.next((JSON.parse(data) as { values: BenchValue[] }).values);
      return () => source.close();
    });
  }
}
