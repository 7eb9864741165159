import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { join } from 'node:path';
import compression from 'compression';
import expressStaticGzip from 'express-static-gzip';
import express, { Router } from 'express';
import type { ErrorRequestHandler, Express, Request } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import type { Health } from '@loyal-hinge/contract';
import { hasGivenWay, isDatabaseAway, isDiskFull, isUnfitForDatabase } from '../database/faults.js';
import { isUnread } from './bodies.js';
import { openApiDocument, openApiPage, openApiStyle } from './openapi.js';
import {
  ProblemError,
  databaseAway,
  gaveWay,
  diskFull,
  foreignOrigin,
  invalid,
  notFound,
  notJson,
  tooLarge,
  unexpected,
} from './problems.js';

const hstsSeconds = 31_536_000;

export interface AppParts {
  readonly logger: Logger;
  /** It is reached over TLS. */
  readonly isSecure: boolean;
  readonly webFolder: string | null;
  readonly health: () => Promise<Health>;
  /** Adds the calls of the capabilities. */
  readonly routes: (router: Router) => void;
}

/** The HTTP side of the server: policy, limits, calls, the built web application, and errors as problem details. */
export async function makeApp({ logger, isSecure, webFolder, health, routes }: AppParts): Promise<Express> {
  const app = express();
  app.disable('x-powered-by');
  app.use(await securityHeaders(webFolder, isSecure));
  app.use(
    pinoHttp({
      logger,
      autoLogging: { ignore: (request: IncomingMessage) => !request.url?.startsWith('/api/') },
      serializers: shortened,
      customLogLevel,
    }),
  );
  app.use(compression({ filter: (request, response) => !isStream(response) && compression.filter(request, response) }));
  app.use('/api', (request, response, next) => {
    response.setHeader('cache-control', 'no-store');
    refuseForeign(request);
    next();
  });
  const router = Router();
  router.get('/api/health', async (_request, response) => {
    const told = await health();
    response.status(told.status === 'well' ? 200 : 503).json(told);
  });
  router.get('/api/openapi.json', (_request, response) => void response.json(openApiDocument()));
  router.get('/api/docs', (_request, response) => void response.type('html').send(openApiPage()));
  router.get('/api/docs.css', (_request, response) => void response.type('css').send(openApiStyle));
  routes(router);
  app.use(router);
  app.use('/api', (request) => {
    throw notFound('call', `${request.method} ${request.originalUrl}`);
  });
  if (webFolder !== null) serveWeb(app, webFolder);
  app.use(asProblem(logger));
  return app;
}

/**
 * A page of another origin has no business here: its browser says where it comes from with whatever changes something
 * (Fetch §3.2), and says so of every request (Fetch Metadata §2.3). Programs say neither.
 */
function refuseForeign(request: Request): void {
  const origin = request.get('origin');
  const host = request.get('host') ?? '';
  // On loopback a proxy of the same computer may stand before the server, and speak TLS for it.
  const own = request.secure ? [`https://${host}`] : [`http://${host}`, `https://${host}`];
  const site = request.get('sec-fetch-site');
  const isForeign = site === 'cross-site' || site === 'same-site';
  if ((origin !== undefined && !own.includes(origin)) || (isForeign && request.method !== 'GET')) throw foreignOrigin();
}

const isStream = (response: ServerResponse): boolean =>
  String(response.getHeader('content-type')).startsWith('text/event-stream');

/** Nothing comes from elsewhere; the one inline script of the built page is named by its hash. */
async function securityHeaders(webFolder: string | null, isSecure: boolean): Promise<ReturnType<typeof helmet>> {
  const page = webFolder === null ? '' : await readFile(join(webFolder, 'index.html'), 'utf8').catch(() => '');
  const scripts = [...page.matchAll(/<script>([\s\S]*?)<\/script>/g)].map(
    ([, code]) =>
      `'sha256-${createHash('sha256')
        .update(code ?? '')
        .digest('base64')}'`,
  );
  return helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'none'"],
        scriptSrc: ["'self'", ...scripts],
        // PrimeNG and Angular put component styles into the page as they are needed.
        styleSrc: ["'self'", "'unsafe-inline'"],
        fontSrc: ["'self'"],
        imgSrc: ["'self'", 'data:'],
        connectSrc: ["'self'"],
        workerSrc: ["'self'"],
        baseUri: ["'self'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    // A browser heeds it only where it trusts the certificate (RFC 6797 §8.1).
    strictTransportSecurity: isSecure ? { maxAge: hstsSeconds, includeSubDomains: false } : false,
  });
}

const shortened = {
  req: (request: { id: unknown; method: string; url: string }) => ({
    id: request.id,
    method: request.method,
    url: request.url.split('?')[0],
  }),
  res: (response: { statusCode: number }) => ({ status: response.statusCode }),
};

const customLogLevel = (_request: unknown, response: { statusCode: number }): 'debug' | 'warn' | 'error' =>
  response.statusCode >= 500 ? 'error' : response.statusCode >= 400 ? 'warn' : 'debug';

function serveWeb(app: Express, webFolder: string): void {
  app.use(
    expressStaticGzip(webFolder, {
      index: false,
      enableBrotli: true,
      orderPreference: ['br', 'gz'],
      serveStatic: {
        maxAge: '1y',
        immutable: true,
        setHeaders: (response, path) => {
          if (!/-[A-Z0-9]{8}\.\w+(\.br|\.gz)?$/.test(path)) response.setHeader('cache-control', 'no-cache');
        },
      },
    }),
  );
  app.get(/^\/(?!api\/)/, (_request, response) => {
    response.setHeader('cache-control', 'no-cache');
    response.sendFile(join(webFolder, 'index.html'));
  });
}

const asProblem =
  (logger: Logger): ErrorRequestHandler =>
  (error: unknown, request, response, next) => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const { problem, retryAfterSeconds } = problemOf(error);
    if (problem.status === 500 || hasGivenWay(error)) logger.error({ err: error, path: request.path }, 'a call failed');
    const retryAfter = retryAfterSeconds ?? (problem.status === 503 ? 2 : null);
    if (retryAfter !== null) response.setHeader('retry-after', String(retryAfter));
    if (isUnread(request)) response.setHeader('connection', 'close');
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };

function problemOf(error: unknown): ProblemError {
  if (error instanceof ProblemError) return error;
  if (isDatabaseAway(error)) return databaseAway();
  if (isDiskFull(error)) return diskFull();
  if (hasGivenWay(error)) return gaveWay();
  const type = error instanceof Error && 'type' in error ? String(error.type) : '';
  if (type === 'entity.too.large') return tooLarge();
  if (error instanceof Error && isUnfitForDatabase(error)) return invalid('A value can’t be stored.');
  if (error instanceof URIError) return invalid('The address has an escape that stands for no character.');
  if (type === 'entity.parse.failed' || type === 'encoding.unsupported' || type === 'charset.unsupported')
    return notJson();
  const status = error instanceof Error && 'status' in error ? Number(error.status) : 500;
  return status >= 400 && status < 500 ? invalid('The request is not well-formed.') : unexpected();
}
