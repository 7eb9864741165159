import type { Router } from 'express';
import { serve } from '../../http/serve.js';
import type { FindActor } from '../../http/serve.js';
import type { RegisterSearches } from './service.js';

export function registerSearchRoutes(router: Router, findActor: FindActor, searches: RegisterSearches): void {
  serve(router, findActor, 'searchRegister', ({ params, body }, { name }) =>
    searches.begin(params['linkId'] ?? '', body, name),
  );
  serve(router, findActor, 'registerSearches', ({ params }) =>
    Promise.resolve({ searches: searches.ofLink(params['linkId'] ?? '') }),
  );
  serve(router, findActor, 'registerSearch', ({ params }) => Promise.resolve(searches.view(params['searchId'] ?? '')));
  serve(router, findActor, 'stopRegisterSearch', ({ params }) => {
    searches.end(params['searchId'] ?? '');
    return Promise.resolve({});
  });
}
