import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { Plant } from '@loyal-hinge/core';
import type { PlantPart, PlantRow } from './state';

@Injectable({ providedIn: 'root' })
export class PlantApi {
  private readonly http = inject(HttpClient);

  read = () => this.http.get<Plant>('/api/plant');
  put = (part: PlantPart, row: PlantRow) =>
    this.http.put<PlantRow>(`/api/plant/${part}/${encodeURIComponent(row.id)}`, row);
  remove = (part: PlantPart, id: string) => this.http.delete(`/api/plant/${part}/${encodeURIComponent(id)}`);
  importDocument = (document: unknown) => this.http.put('/api/plant/document', document);
  importMachines = (csv: string) => this.http.post<{ machines: number }>('/api/plant/machines.csv', { csv });
}
