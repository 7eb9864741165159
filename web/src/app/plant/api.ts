import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type {
  AnswerOf,
  Choosable,
  DiscoveryState,
  DiscoveryWish,
  PlantChoices,
  PlantView,
} from '@loyal-hinge/contract';
import type { PlantPart, PlantRow, PlantWish } from './state';

@Injectable({ providedIn: 'root' })
export class PlantApi {
  private readonly http = inject(HttpClient);

  view = ({ part, find, from }: PlantWish) =>
    this.http.get<PlantView>('/api/plant/view', { params: { part, ...(find === '' ? {} : { find }), from } });
  choices = (of: Choosable, find: string) =>
    this.http.get<PlantChoices>('/api/plant/choices', { params: { of, ...(find === '' ? {} : { find }) } });
  put = (part: PlantPart, row: PlantRow) =>
    this.http.put<PlantRow>(`/api/plant/${part}/${encodeURIComponent(row.id)}`, row);
  remove = (part: PlantPart, id: string) => this.http.delete(`/api/plant/${part}/${encodeURIComponent(id)}`);
  importDocument = (document: unknown) => this.http.put<AnswerOf<'importPlant'>>('/api/plant/document', document);
  discovery = () => this.http.get<DiscoveryState>('/api/discovery');
  beginDiscovery = (wish: DiscoveryWish) => this.http.post<DiscoveryState>('/api/discovery', wish);
  stopDiscovery = () => this.http.post<unknown>('/api/discovery/stop', {});
  importMachines = (csv: string) => this.http.post<{ machines: number }>('/api/plant/machines.csv', { csv });
}
