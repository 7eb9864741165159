import { HttpClient } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import type { Observable } from 'rxjs';
import { at, placed } from '@loyal-hinge/contract';
import type { AnswerOf, BodyOf, PartOf, QueryOf, RouteName } from '@loyal-hinge/contract';

type Needed<Key extends string, Value> = [Value] extends [undefined]
  ? object
  : Record<string, never> extends Value
    ? { readonly [_ in Key]?: Value }
    : { readonly [_ in Key]: Value };
/** Whatever is sent isn’t changed: it may be readonly through and through. */
type Given<Value> = Value extends readonly (infer Each)[]
  ? readonly Given<Each>[]
  : Value extends object
    ? { readonly [Key in keyof Value]: Given<Value[Key]> }
    : Value;
type Empty<Query> = Query extends object ? { readonly [Key in keyof Query]: Query[Key] | '' } : undefined;

/** What goes along with a call: parts of its path, its query, its body; as the contract’s table has them. */
export type Along<Name extends RouteName> = ([PartOf<Name>] extends [never]
  ? object
  : { readonly path: Readonly<Record<PartOf<Name>, string | number>> }) &
  Needed<'query', Empty<QueryOf<Name>>> &
  Needed<'body', Given<BodyOf<Name>>>;
type Rest<Name extends RouteName> = object extends Along<Name> ? [along?: Along<Name>] : [along: Along<Name>];

interface Sent {
  readonly path?: Readonly<Record<string, string | number>>;
  readonly query?: Readonly<Record<string, unknown>>;
  readonly body?: unknown;
}

/** The server’s calls, by their names in the contract. */
@Injectable({ providedIn: 'root' })
export class Server {
  private readonly http = inject(HttpClient);

  /** Asks once it is subscribed to, and again by each subscription; a refusal is an HttpErrorResponse. */
  ask<Name extends RouteName>(name: Name, ...[along]: Rest<Name>): Observable<AnswerOf<Name>> {
    const { method, url, body } = requestOf(name, along ?? {});
    return this.http.request<AnswerOf<Name>>(method, url, { body });
  }

  /** A call that answers with a file. */
  file<Name extends RouteName>(name: Name, ...[along]: Rest<Name>): Observable<Blob> {
    const { method, url, body } = requestOf(name, along ?? {});
    return this.http.request(method, url, { body, responseType: 'blob' });
  }
}

/** Where the browser fetches what a call answers, such as a file. */
export const urlOf = <Name extends RouteName>(name: Name, ...[along]: Rest<Name>): string =>
  requestOf(name, along ?? {}).url;

/** What isn’t asked for, or empty, is left out of the query. */
function requestOf(name: RouteName, { path: parts = {}, query = {}, body }: Sent) {
  const { method, path } = placed(at[name]);
  const filled = path.replace(/:(\w+)/g, (_, part: string) => encodeURIComponent(parts[part] ?? ''));
  const asked = Object.entries(query).flatMap(([key, value]) =>
    value === undefined || value === '' ? [] : [[key, String(value)]],
  );
  const search = new URLSearchParams(asked).toString();
  const hasBody = method === 'post' || method === 'put';
  return { method, url: search === '' ? filled : `${filled}?${search}`, body: hasBody ? (body ?? {}) : undefined };
}
