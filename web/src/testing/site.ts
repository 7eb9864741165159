import { HttpBackend, HttpErrorResponse, HttpResponse } from '@angular/common/http';
import type { HttpEvent, HttpRequest } from '@angular/common/http';
import { EnvironmentInjector, createComponent } from '@angular/core';
import type { ComponentRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import { RouterTestingHarness } from '@angular/router/testing';
import type { Observable } from 'rxjs';
import { defer, delay, of, throwError } from 'rxjs';
import { routes } from '@loyal-hinge/contract';
import type { AnswerOf, BodyOf, Problem, Role, RouteName } from '@loyal-hinge/contract';
import { appConfig } from '../app/app.config';
import { noticeMs, Notices } from '../app/shell/notices';
import { comesSoon, forgetWhatComes } from './soon';
import { undrawn } from './undrawn';

type Params = Readonly<Record<string, string>>;
type Answer<Name extends RouteName> = AnswerOf<Name> | Refused | ((params: Params) => AnswerOf<Name> | Refused);
/** What the server answers, by the name of the call; a call without an answer is refused as not found. */
export type Answers = { readonly [Name in RouteName]?: Answer<Name> };

/** What a field offers, once its list hangs at the body: until then its field would hear the click, too. */
const shownOption = 'body > .p-overlay [role=option]';

/** An answer of the server that is a problem. */
export class Refused {
  constructor(readonly problem: Problem) {}
}

export const refused = (detail: string, status = 409, code = 'conflict'): Refused =>
  new Refused({
    type: `urn:loyal-hinge:problem:${code}`,
    title: 'Can’t be done now',
    status,
    code,
    detail,
    remedy: 'Look again.',
  });

interface Call {
  readonly name: RouteName;
  readonly params: Params;
  readonly body: unknown;
}

/**
 * The whole web application with its router, store and effects, before a server that is made up. Bodies and answers must fit
 * the contract, so that neither pages nor tests make up calls.
 */
export class Site {
  readonly calls: Call[] = [];

  private constructor(
    private readonly harness: RouterTestingHarness,
    private readonly notices: ComponentRef<Notices>,
    readonly answers: { [Name in RouteName]?: unknown },
  ) {}

  static async open(url: string, answers: Answers, role: Role = 'engineer'): Promise<Site> {
    const calls: Call[] = [];
    const given: { [Name in RouteName]?: unknown } = { whoAmI: signedInAs(role), ...answers };
    TestBed.resetTestingModule();
    forgetWhatComes();
    TestBed.configureTestingModule({
      providers: [
        ...appConfig.providers,
        undrawn,
        /* What was told stays told, however slowly a test runs. */
        { provide: noticeMs, useValue: 3_600_000 },
        { provide: HttpBackend, useValue: new MadeUpServer(given, calls) },
      ],
    });
    Object.assign(globalThis, { EventSource: SilentEvents });
    const harness = await RouterTestingHarness.create();
    const site = new Site(harness, noticesBeside(), given);
    Object.assign(site, { calls });
    await harness.navigateByUrl(url);
    await site.settle();
    return site;
  }

  /** Lets everything that is under way come to its end. */
  async settle(): Promise<void> {
    for (let [turn, quiet] = [0, 0]; quiet < 6 && turn < 1000; turn++) {
      await this.draw();
      quiet = comesSoon() ? 0 : quiet + 1;
    }
  }

  /** Waits for something that comes with one of the next frames, whatever else is under way. */
  async until(isThere: () => boolean): Promise<void> {
    for (let turn = 0; turn < 1000; turn++) {
      await this.draw();
      if (isThere()) return;
    }
    throw new Error('it did not come');
  }

  private async draw(): Promise<void> {
    await new Promise((resolve) => setTimeout(resolve, 2));
    this.harness.detectChanges();
    this.notices.changeDetectorRef.detectChanges();
  }

  get url(): string {
    return TestBed.inject(Router).url;
  }

  get text(): string {
    return wordsOf(document.body);
  }

  /** What was told in passing: what came of what was asked for. */
  get told(): string {
    return this.all('p-toast').map(wordsOf).join(' ');
  }

  /** What is said to be wrong, field by field. */
  get faults(): readonly string[] {
    return this.all('hinge-field-fault [role=alert]').map(wordsOf);
  }

  get headline(): string {
    return wordsOf(this.one('h1'));
  }

  all(selector: string): readonly HTMLElement[] {
    return [...document.body.querySelectorAll<HTMLElement>(selector)];
  }

  one(selector: string, holding = /./): HTMLElement {
    const found = this.all(selector).find((part) => holding.test(wordsOf(part)));
    if (!found) throw new Error(`no ${selector} with ${String(holding)} in: ${this.text}`);
    return found;
  }

  async go(url: string): Promise<void> {
    await TestBed.inject(Router).navigateByUrl(url);
    await this.settle();
  }

  button(name: RegExp): HTMLButtonElement {
    return this.one('button, [role=tab]', name) as HTMLButtonElement;
  }

  async press(name: RegExp): Promise<void> {
    this.button(name).click();
    await this.settle();
  }

  /** Presses the heading of a table’s column. */
  async sortBy(title: RegExp): Promise<void> {
    this.one('th', title).click();
    await this.settle();
  }

  /** Fills a field that is found by its label, as a person would. */
  async fill(label: RegExp, value: string): Promise<void> {
    const field = this.field(label);
    if (field instanceof HTMLInputElement && field.type === 'checkbox') field.click();
    else if (!(field instanceof HTMLInputElement) && field.getAttribute('role') === 'combobox') {
      field.click();
      const offered = (): readonly string[] => this.all(shownOption).map(wordsOf);
      await this.until(() => offered().includes(value)).catch(() => {
        throw new Error(`${String(label)} offers: ${offered().join(' | ')}`);
      });
      this.all(shownOption)
        .find((option) => wordsOf(option) === value)
        ?.click();
      await this.until(() => offered().length === 0);
    } else {
      // Days are read as they are typed, key by key; numbers once their field is left.
      field.dispatchEvent(new Event('focus'));
      field.dispatchEvent(new KeyboardEvent('keydown', { key: '0', bubbles: true }));
      field.value = value;
      for (const kind of ['input', 'change', 'blur']) field.dispatchEvent(new Event(kind, { bubbles: true }));
    }
    await this.settle();
  }

  /** Opens a field that lets one of many be chosen, and types words of what is looked for. */
  async lookFor(label: RegExp, words: string): Promise<void> {
    this.field(label).click();
    await this.until(() => this.all('.p-select-filter').length > 0);
    const typing = this.all('.p-select-filter')[0] as HTMLInputElement;
    typing.value = words;
    typing.dispatchEvent(new Event('input', { bubbles: true }));
    await this.settle();
  }

  /** Opens a field that lets one of several be chosen. @returns what it offers */
  async offered(label: RegExp): Promise<readonly string[]> {
    this.field(label).click();
    await this.until(() => this.all(shownOption).length > 0);
    return this.all(shownOption).map(wordsOf);
  }

  /** Chooses one of what a field offers that is open. */
  async pick(name: RegExp): Promise<void> {
    this.one(shownOption, name).click();
    await this.until(() => this.all(shownOption).length === 0);
  }

  /** Chooses a file in a field that is found by its label. */
  async choose(label: RegExp, name: string, text: string): Promise<void> {
    const part = this.all('hinge-file, hinge-file-button').find(
      (one) => label.test(wordsOf(one)) || label.test(one.querySelector('button')?.getAttribute('aria-label') ?? ''),
    );
    const field = part?.querySelector<HTMLInputElement>('input[type=file]') ?? this.field(label);
    // jsdom’s files can’t be read as a browser’s can.
    const bytes = new TextEncoder().encode(text);
    const file = Object.assign(new File([text], name), {
      text: () => Promise.resolve(text),
      arrayBuffer: () => Promise.resolve(bytes.buffer),
      slice: (from: number, to: number) => ({ arrayBuffer: () => Promise.resolve(bytes.slice(from, to).buffer) }),
    });
    Object.defineProperty(field, 'files', { value: [file], configurable: true });
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await this.settle();
  }

  /** What stands in a field. */
  filled(label: RegExp): string {
    const field = this.field(label);
    return field.getAttribute('role') === 'combobox' ? wordsOf(field) : field.value;
  }

  private field(label: RegExp): HTMLInputElement | HTMLSelectElement {
    const labelOf = (part: HTMLElement): string => {
      const by = part.getAttribute('aria-labelledby');
      const told = by === null ? null : document.getElementById(by);
      if (told) return wordsOf(told);
      const label = document.querySelector(`label[for="${part.id}"]`) ?? part.closest('label');
      return part.getAttribute('aria-label') ?? wordsOf(label ?? part);
    };
    const named = (part: HTMLElement): boolean => label.test(labelOf(part));
    // What stands in an open dialog covers the rest.
    const within = (place: string) =>
      this.all(['input', 'select', 'textarea', '[role=combobox]'].map((tag) => `${place} ${tag}`).join());
    const found = [...within('[role=dialog]'), ...within('')].find(named);
    if (!found) throw new Error(`no field ${String(label)} in: ${this.text}`);
    return found as HTMLInputElement | HTMLSelectElement;
  }

  /** The bodies that a call was made with. */
  asked<Name extends RouteName>(name: Name): readonly BodyOf<Name>[] {
    return this.calls.filter((call) => call.name === name).map(({ body }) => body as BodyOf<Name>);
  }

  /** The rows of a table, by the words in their cells. */
  rows(selector = 'tbody tr'): readonly (readonly string[])[] {
    return this.all(selector).map((row) => [...row.querySelectorAll('td, th')].map(wordsOf));
  }
}

export const wordsOf = (part: Element): string => (part.textContent ?? '').replace(/\s+/g, ' ').trim();

const signedInAs = (role: Role): AnswerOf<'whoAmI'> => ({
  name: 'engineer',
  role,
  token: 'a token',
  mustChangePassword: false,
  plantName: 'Works',
  newestEvent: 0,
});

/** What tells in passing stands beside the pages, as it does in the application. */
function noticesBeside(): ComponentRef<Notices> {
  const hostElement = document.body.appendChild(document.createElement('hinge-notices'));
  return createComponent(Notices, { environmentInjector: TestBed.inject(EnvironmentInjector), hostElement });
}

/** Answers calls of the contract out of a table, a moment later. */
class MadeUpServer implements HttpBackend {
  constructor(
    private readonly answers: { [Name in RouteName]?: unknown },
    private readonly calls: Call[],
  ) {}

  handle(request: HttpRequest<unknown>): Observable<HttpEvent<unknown>> {
    return defer(() => this.answered(request)).pipe(delay(0));
  }

  private answered(request: HttpRequest<unknown>): Observable<HttpEvent<unknown>> {
    const path = request.url.split('?')[0] ?? '';
    const found = (Object.keys(routes) as RouteName[]).flatMap((name) => {
      const params = routes[name].method.toUpperCase() === request.method ? paramsIn(routes[name].path, path) : null;
      return params ? [{ name, params }] : [];
    })[0];
    if (!found) throw new Error(`the contract has no ${request.method} ${path}`);
    const route = routes[found.name];
    const body = 'body' in route ? route.body.parse(request.body) : request.body;
    this.calls.push({ ...found, body });
    const given = this.answers[found.name];
    const asked = { ...found.params, ...queryOf(request) };
    const answer: unknown = typeof given === 'function' ? (given as (params: Params) => unknown)(asked) : given;
    const told = answer ?? refused(`Nothing is known of ${found.name}.`, 404);
    if (told instanceof Refused)
      return throwError(() => new HttpErrorResponse({ status: told.problem.status, error: told.problem }));
    return of(new HttpResponse({ status: 200, body: route.answer.parse(told) }));
  }
}

/** The values of the parameters of a path; null where it is another path. */
const queryOf = ({ urlWithParams }: HttpRequest<unknown>): Params =>
  Object.fromEntries(new URL(urlWithParams, 'http://server').searchParams);

function paramsIn(pattern: string, path: string): Params | null {
  const [wanted, given] = [pattern.split('/'), path.split('/')];
  if (wanted.length !== given.length) return null;
  const params: Record<string, string> = {};
  for (const [index, part] of wanted.entries()) {
    const value = decodeURIComponent(given[index] ?? '');
    if (part.startsWith(':')) params[part.slice(1)] = value;
    else if (part !== value) return null;
  }
  return params;
}

/** Events of the server, which never come. */
class SilentEvents {
  addEventListener(): void {}
  close(): void {}
}
