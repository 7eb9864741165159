import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { AnswerOf, AuthorityView, ClientIdentity, ClientIdentityView, PlantSettings } from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class SettingsApi {
  private readonly http = inject(HttpClient);

  read = () => this.http.get<PlantSettings>('/api/settings');
  keep = (settings: PlantSettings) => this.http.put<AnswerOf<'putSettings'>>('/api/settings', settings);
  identities = () => this.http.get<{ identities: ClientIdentityView[] }>('/api/identities');
  authorities = () => this.http.get<{ authorities: AuthorityView[] }>('/api/authorities');
  giveIdentity = (applicationId: string, identity: ClientIdentity) =>
    this.http.put<ClientIdentityView>(`/api/identities/${encodeURIComponent(applicationId)}`, identity);
}
