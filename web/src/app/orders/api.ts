import type { Strategy } from '@loyal-hinge/core';
import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { AnswerOf, Proposal, ProposedOrder, WorkOrder } from '@loyal-hinge/contract';

@Injectable({ providedIn: 'root' })
export class OrdersApi {
  private readonly http = inject(HttpClient);

  all = () => this.http.get<AnswerOf<'orders'>>('/api/orders');
  proposals = () => this.http.get<AnswerOf<'proposals'>>('/api/proposals');
  decide = ({ id }: Proposal, accepts: boolean) =>
    this.http.post<Proposal>(`/api/proposals/${encodeURIComponent(id)}/${accepts ? 'acceptance' : 'refusal'}`, {});
  one = (id: string) => this.http.get<WorkOrder>(`/api/orders/${encodeURIComponent(id)}`);
  proposePlan = (strategy: Strategy) => this.http.post<WorkOrder>('/api/trust/plans/order', { strategy });
  propose = (order: ProposedOrder) => this.http.post<WorkOrder>('/api/orders', order);
  approve = (id: string) => this.http.post<WorkOrder>(`/api/orders/${id}/approval`, {});
  withdraw = (id: string) => this.http.post<WorkOrder>(`/api/orders/${id}/withdrawal`, {});
  carryOut = (id: string, passphrase: string | undefined) =>
    this.http.post<WorkOrder>(`/api/orders/${id}/carrying-out`, { passphrase });
  doneByHand = (id: string, position: number) =>
    this.http.post<WorkOrder>(`/api/orders/${id}/lines/${position}/done`, {});
  undo = (id: string, position: number) => this.http.post<WorkOrder>(`/api/orders/${id}/lines/${position}/undoing`, {});
}
