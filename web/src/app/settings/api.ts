import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { ClientIdentityView, PlantSettings } from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class SettingsApi {
  private readonly http = inject(HttpClient);

  read = () => this.http.get<PlantSettings>('/api/settings');
  keep = (settings: PlantSettings) => this.http.put<PlantSettings>('/api/settings', settings);
  identities = () => this.http.get<{ identities: ClientIdentityView[] }>('/api/identities');
  giveIdentity = (applicationId: string, certificatePem: string, privateKeyPem: string) =>
    this.http.put<ClientIdentityView>(`/api/identities/${encodeURIComponent(applicationId)}`, {
      certificatePem,
      privateKeyPem,
    });
}
