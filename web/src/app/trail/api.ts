import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { AnswerOf, AuditQuery } from '@loyal-hinge/contract';

/** The parts of a query that are asked for. */
export const asked = (query: AuditQuery): Record<string, string> =>
  Object.fromEntries(
    Object.entries(query).filter((part): part is [string, string] => part[1] !== undefined && part[1] !== ''),
  );

@Injectable({ providedIn: 'root' })
export class TrailApi {
  private readonly http = inject(HttpClient);

  read = (query: AuditQuery) => this.http.get<AnswerOf<'audit'>>('/api/audit', { params: asked(query) });
  verify = () => this.http.post<AnswerOf<'verifyAudit'>>('/api/audit/verification', {});
}
