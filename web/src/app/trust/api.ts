import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { TrustChange } from '@loyal-hinge/core';
import type {
  AnswerOf,
  AuthorityView,
  BodyOf,
  CertificatePage,
  CreateAuthority,
  HolderDetail,
  HorizonView,
  ImportAuthority,
  Issued,
  IssueRequest,
  MadeTicket,
  PullTicket,
  RenewAuthority,
  ReportedBundle,
  SigningRequestView,
  TrustFinding,
  TrustOverview,
  TrustPlans,
  PasswordMove,
  TrustWayBody,
  WaiverView,
  WorkOrder,
} from '@loyal-hinge/contract';
import type { GridWish } from './state';

const place = encodeURIComponent;

/** A wish as the contract has it: what is not filtered by is left out. */
const gridQuery = ({ find, only, from }: GridWish): Record<string, string> => ({
  ...(find === '' ? {} : { find }),
  ...(only === 'all' ? {} : { only }),
  ...(from === 0 ? {} : { from: String(from) }),
});

/** Where the cells that fit are found as a CSV file. */
export const trustCsv = (wish: GridWish): string =>
  `/api/trust-csv?${new URLSearchParams(gridQuery({ ...wish, from: 0 })).toString()}`;

@Injectable({ providedIn: 'root' })
export class TrustApi {
  private readonly http = inject(HttpClient);

  overview = (wish: GridWish) => this.http.get<TrustOverview>('/api/trust', { params: gridQuery(wish) });
  finding = () => this.http.get<TrustFinding>('/api/trust/finding');
  parties = () => this.http.get<AnswerOf<'trustParties'>>('/api/trust/parties');
  holder = (id: string) => this.http.get<HolderDetail>(`/api/trust/holders/${place(id)}`);
  read = (id: string) => this.http.post<AnswerOf<'readTrust'>>(`/api/trust/holders/${place(id)}/readings`, {});
  readAll = () => this.http.post<AnswerOf<'readAllTrust'>>('/api/trust/readings', {});
  setWay = (id: string, body: TrustWayBody) =>
    this.http.put<AnswerOf<'setTrustWay'>>(`/api/trust/holders/${place(id)}/way`, body);
  releasePassword = (id: string, move: PasswordMove) =>
    this.http.post<AnswerOf<'releasePushPassword'>>(`/api/trust/holders/${place(id)}/password-release`, move);
  stepBack = (id: string, entry: number) =>
    this.http.post<WorkOrder>(`/api/trust/holders/${place(id)}/history/${entry}/back`, {});
  bundle = (id: string) => this.http.get(`/api/trust/holders/${place(id)}/bundle`, { responseType: 'blob' });
  importBundle = (id: string, body: BodyOf<'importBundle'>) =>
    this.http.post<ReportedBundle>(`/api/trust/holders/${place(id)}/bundle`, body);
  plans = (find: string) => this.http.get<TrustPlans>('/api/trust/plans', { params: find === '' ? {} : { find } });
  whatIf = (changes: readonly TrustChange[]) =>
    this.http.post<AnswerOf<'trustWhatIf'>>('/api/trust/what-if', { changes });
  waive = (body: BodyOf<'giveWaiver'>) => this.http.post<AnswerOf<'giveWaiver'>>('/api/trust/waivers', body);
  takeWaiverBack = (id: number) => this.http.post<WaiverView>(`/api/trust/waivers/${id}/withdrawal`, {});
  setAside = () => this.http.get<AnswerOf<'setAside'>>('/api/trust/set-aside');
  dismiss = (holderId: string, thumbprint: string, dismissed: boolean) =>
    this.http.post<AnswerOf<'dismissSetAside'>>('/api/trust/set-aside/dismissals', { holderId, thumbprint, dismissed });
  horizon = () => this.http.get<HorizonView>('/api/trust/horizon');
  certificate = (thumbprint: string) => this.http.get<CertificatePage>(`/api/certificates/${place(thumbprint)}/page`);
  recognise = (files: BodyOf<'recognise'>['files']) =>
    this.http.post<AnswerOf<'recognise'>>('/api/trust/recognised-files', { files });

  authorities = () => this.http.get<AnswerOf<'authorities'>>('/api/authorities');
  createAuthority = (body: CreateAuthority) => this.http.post<AuthorityView>('/api/authorities', body);
  importAuthority = (body: ImportAuthority) => this.http.post<AuthorityView>('/api/authorities/imports', body);
  renewAuthority = (authority: string, body: RenewAuthority) =>
    this.http.post<AuthorityView>(`/api/authorities/${place(authority)}/renewals`, body);
  issue = (authority: string, body: IssueRequest) =>
    this.http.post<Issued>(`/api/authorities/${place(authority)}/certificates`, body);
  revoke = (authority: string, body: BodyOf<'revokeCertificate'>) =>
    this.http.post<AuthorityView>(`/api/authorities/${place(authority)}/revocations`, body);
  makeRequest = (authority: string, applicationId: string) =>
    this.http.post<SigningRequestView>(`/api/authorities/${place(authority)}/requests`, { applicationId });
  bringCertificate = (id: string, certificatePem: string) =>
    this.http.post<WorkOrder>(`/api/signing-requests/${place(id)}/certificate`, { certificatePem });
  dropRequest = (id: string) => this.http.delete<AnswerOf<'dropRequest'>>(`/api/signing-requests/${place(id)}`);
  tickets = () => this.http.get<AnswerOf<'pullTickets'>>('/api/pull-tickets');
  makeTicket = (body: BodyOf<'makePullTicket'>) => this.http.post<MadeTicket>('/api/pull-tickets', body);
  signTicket = (id: string, body: BodyOf<'signPullTicket'>) =>
    this.http.post<PullTicket>(`/api/pull-tickets/${place(id)}/signature`, body);
  issueCrl = (authority: string, passphrase: string) =>
    this.http.post<AuthorityView>(`/api/authorities/${place(authority)}/crls`, { passphrase });
}
