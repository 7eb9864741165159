import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { SignedIn } from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class SessionApi {
  private readonly http = inject(HttpClient);

  whoAmI = () => this.http.get<SignedIn>('/api/session');
  signIn = (name: string, password: string) => this.http.post<SignedIn>('/api/session', { name, password });
  signOut = () => this.http.delete('/api/session');
}
