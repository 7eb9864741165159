import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import { at, routes } from '@loyal-hinge/contract';
import { Server, urlOf } from './server';

function server(): { server: Server; http: HttpTestingController } {
  TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
  return { server: TestBed.inject(Server), http: TestBed.inject(HttpTestingController) };
}

describe('a call of the server', () => {
  it('has an address for every call of the contract', () => {
    expect(Object.keys(at)).toEqual(Object.keys(routes));
  });

  it('fills the parts of its path in, whatever is in them', () => {
    const { server: asked, http } = server();
    asked.ask('undoLine', { path: { id: 'a/b ü', position: 2 } }).subscribe();
    const { request } = http.expectOne('/api/orders/a%2Fb%20%C3%BC/lines/2/undoing');
    expect([request.method, request.body]).toEqual(['POST', {}]);
  });

  it('leaves out of its query what is not asked for', () => {
    expect(urlOf('exportLinks', { query: { find: '', state: 'Parted', by: 'name' } })).toBe(
      '/api/links-csv?state=Parted&by=name',
    );
    expect(urlOf('exportLinks')).toBe('/api/links-csv');
    expect(urlOf('judgeUrl', { query: { url: 'opc.tcp://a b/?&=ü' } })).toBe(
      '/api/judged-url?url=opc.tcp%3A%2F%2Fa+b%2F%3F%26%3D%C3%BC',
    );
  });

  it('sends no body along with a question, nor with a removal', () => {
    const { server: asked, http } = server();
    asked.ask('health').subscribe();
    asked.ask('signOut').subscribe();
    expect(http.match(() => true).map(({ request }) => [request.method, request.body])).toEqual([
      ['GET', null],
      ['DELETE', null],
    ]);
  });
});
