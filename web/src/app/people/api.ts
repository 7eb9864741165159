import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { AddPerson, AnswerOf, ChangePerson, ResetPerson } from '@loyal-hinge/contract';

const place = encodeURIComponent;

@Injectable({ providedIn: 'root' })
export class PeopleApi {
  private readonly http = inject(HttpClient);

  all = () => this.http.get<AnswerOf<'people'>>('/api/people');
  add = (body: AddPerson) => this.http.post<AnswerOf<'addPerson'>>('/api/people', body);
  change = (name: string, body: ChangePerson) =>
    this.http.put<AnswerOf<'changePerson'>>(`/api/people/${place(name)}`, body);
  reset = (name: string, body: ResetPerson) =>
    this.http.post<AnswerOf<'resetPerson'>>(`/api/people/${place(name)}/reset`, body);
  sessionsOf = (name: string) => this.http.get<AnswerOf<'sessionsOf'>>(`/api/people/${place(name)}/sessions`);
  endSession = (name: string, id: string) =>
    this.http.delete<AnswerOf<'endSession'>>(`/api/people/${place(name)}/sessions/${place(id)}`);

  account = () => this.http.get<AnswerOf<'ownAccount'>>('/api/account');
  changePassword = (current: string, next: string) =>
    this.http.put<AnswerOf<'changePassword'>>('/api/account/password', { current, next });
  endOwnSession = (id: string) => this.http.delete<AnswerOf<'endOwnSession'>>(`/api/account/sessions/${place(id)}`);
  beginSecondFactor = (current: string) =>
    this.http.post<AnswerOf<'beginSecondFactor'>>('/api/account/second-factor', { current });
  confirmSecondFactor = (code: string) =>
    this.http.put<AnswerOf<'confirmSecondFactor'>>('/api/account/second-factor', { code });
  endSecondFactor = (current: string) =>
    this.http.post<AnswerOf<'endSecondFactor'>>('/api/account/second-factor/end', { current });
  renewRecoveryCodes = (current: string) =>
    this.http.post<AnswerOf<'renewRecoveryCodes'>>('/api/account/recovery-codes', { current });
}
