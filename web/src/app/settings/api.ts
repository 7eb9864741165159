import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type {
  AnswerOf,
  AuthorityView,
  ClientIdentity,
  ClientIdentityView,
  OwnCertificate,
  OwnCertificateState,
  PlantSettings,
} from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class SettingsApi {
  private readonly http = inject(HttpClient);

  read = () => this.http.get<PlantSettings>('/api/settings');
  keep = (settings: PlantSettings) => this.http.put<AnswerOf<'putSettings'>>('/api/settings', settings);
  identities = () => this.http.get<{ identities: ClientIdentityView[] }>('/api/identities');
  authorities = () => this.http.get<{ authorities: AuthorityView[] }>('/api/authorities');
  ownCertificate = () => this.http.get<OwnCertificateState>('/api/own-certificate');
  giveOwnCertificate = (wish: OwnCertificate) => this.http.put<OwnCertificateState>('/api/own-certificate', wish);
  requestOwnCertificate = (hosts: readonly string[]) =>
    this.http.post<AnswerOf<'requestOwnCertificate'>>('/api/own-certificate/request', { hosts });
  giveIdentity = (applicationId: string, identity: ClientIdentity) =>
    this.http.put<ClientIdentityView>(`/api/identities/${encodeURIComponent(applicationId)}`, identity);
}
