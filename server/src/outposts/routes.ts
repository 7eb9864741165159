import type { Router } from 'express';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import type { Enrolment } from './enrolment.js';

export function outpostRoutes(router: Router, findActor: FindActor, enrolment: Enrolment): void {
  const outpostIn = (params: Readonly<Record<string, string>>): string => params['outpostId'] ?? '';

  serve(router, findActor, 'makeOutpostTicket', ({ params, body }, { name }) =>
    enrolment.makeTicket(outpostIn(params), body, name),
  );
  serve(router, findActor, 'bringOutpostRequest', ({ params, body }, { name }) =>
    enrolment.bring(outpostIn(params), body.requestPem, name),
  );
  serve(router, findActor, 'signOutpost', ({ params, body }, { name }) =>
    enrolment.sign(outpostIn(params), body, name),
  );
  serve(router, findActor, 'refuseOutpost', ({ params }, { name }) => enrolment.refuse(outpostIn(params), name));
}
