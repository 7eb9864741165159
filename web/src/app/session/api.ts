import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { BodyOf, SignedIn } from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class SessionApi {
  private readonly http = inject(HttpClient);

  whoAmI = () => this.http.get<SignedIn>('/api/session');
  signIn = (wish: BodyOf<'signIn'>) => this.http.post<SignedIn>('/api/session', wish);
  signOut = () => this.http.delete('/api/session');
}
