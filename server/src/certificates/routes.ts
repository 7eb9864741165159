import type { Router } from 'express';
import type { CertificateView } from '@loyal-hinge/contract';
import type { Database } from '../database/database.js';
import { notFound } from '../http/problems.js';
import { serve } from '../http/serve.js';
import type { FindActor } from '../http/serve.js';
import { findCertificate } from './store.js';
import { unusualAbout } from './unusual.js';

export function certificateRoutes(router: Router, findActor: FindActor, db: Database): void {
  serve(router, findActor, 'certificate', async ({ params }) => {
    const found = await findCertificate(db, params['thumbprint'] ?? '');
    if (!found) throw notFound('certificate', params['thumbprint'] ?? '');
    const certificate = found.summary as CertificateView['certificate'];
    return {
      certificate,
      unusual: [...unusualAbout(found.summary, new Date().toISOString())],
      firstSeen: found.firstSeen,
    };
  });
}
