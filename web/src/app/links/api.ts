import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import { Observable, repeat } from 'rxjs';
import type { Change } from '@loyal-hinge/core';
import type {
  AnswerOf,
  CertificateView,
  Check,
  CheckDetail,
  HingeEvent,
  LinkBoard,
  LinkDetail,
  LinkFilter,
  LinkRow,
} from '@loyal-hinge/contract';
import type { BoardWish } from './state';

export type LiveNews =
  | { readonly kind: 'open' }
  /** Some events are gone: everything is to be looked at anew. */
  | { readonly kind: 'missed' }
  | { readonly kind: 'broken' }
  | { readonly kind: 'event'; readonly event: HingeEvent };

const againAfterMs = 3000;

/** A filter as the contract has it: what is not filtered by is left out. */
export const fittingOf = ({ find, state }: Pick<BoardWish, 'find' | 'state'>): LinkFilter => ({
  ...(find === '' ? {} : { find }),
  ...(state === '' ? {} : { state }),
});

/** Where the links that fit are found as a CSV file. */
export const linksCsv = (wish: BoardWish): string =>
  `/api/links-csv?${new URLSearchParams({ ...fittingOf(wish), by: wish.by }).toString()}`;

@Injectable({ providedIn: 'root' })
export class LinksApi {
  private readonly http = inject(HttpClient);

  rows = (wish: BoardWish, from: number, most: number) =>
    this.http.get<LinkBoard>('/api/links', { params: { ...fittingOf(wish), by: wish.by, from, most } });
  row = (linkId: string) => this.http.get<LinkRow>(`/api/links/${encodeURIComponent(linkId)}/row`);
  detail = (linkId: string) => this.http.get<LinkDetail>(`/api/links/${encodeURIComponent(linkId)}`);
  check = (linkId: string) => this.http.post<Check>(`/api/links/${encodeURIComponent(linkId)}/checks`, {});
  checkAll = (linkIds: readonly string[]) => this.http.post<AnswerOf<'checkAll'>>('/api/checks', { linkIds });
  checkFitting = (wish: Pick<BoardWish, 'find' | 'state'>) =>
    this.http.post<AnswerOf<'checkAll'>>('/api/checks', { fitting: fittingOf(wish) });
  cancelAll = () => this.http.post<AnswerOf<'cancelAll'>>('/api/checks/cancel', {});
  cancel = (checkId: string) => this.http.post<Check>(`/api/checks/${checkId}/cancel`, {});
  checkDetail = (checkId: string) => this.http.get<CheckDetail>(`/api/checks/${checkId}`);
  certificate = (thumbprint: string) => this.http.get<CertificateView>(`/api/certificates/${thumbprint}`);
  mend = (linkId: string, change: Change, password: string | undefined) =>
    this.http.post<AnswerOf<'mend'>>(`/api/links/${encodeURIComponent(linkId)}/mendings`, { change, password });
  judgeUrl = (url: string, serverId: string) =>
    this.http.get<AnswerOf<'judgeUrl'>>('/api/judged-url', { params: { url, serverId } });

  /** What the server tells by itself; the browser takes a broken stream up again where it broke, and we one that was refused. */
  live(): Observable<LiveNews> {
    return this.stream().pipe(repeat({ delay: againAfterMs }));
  }

  /** Ends where the server refuses to go on. */
  private stream(): Observable<LiveNews> {
    return new Observable((subscriber) => {
      const source = new EventSource('/api/events');
      source.addEventListener('hello', ({ data }: MessageEvent<string>) => {
        subscriber.next({ kind: 'open' });
        if ((JSON.parse(data) as { missed?: boolean }).missed) subscriber.next({ kind: 'missed' });
      });
      source.onmessage = ({ data }: MessageEvent<string>) =>
        subscriber.next({ kind: 'event', event: JSON.parse(data) as HingeEvent });
      source.onerror = () => {
        subscriber.next({ kind: 'broken' });
        if (source.readyState === EventSource.CLOSED) subscriber.complete();
      };
      return () => source.close();
    });
  }
}
