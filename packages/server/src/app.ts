// The Express application: guards, the interface for programs, the page.
import compression from 'compression';
import { randomBytes } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import express, { type Express, type Response } from 'express';
import { pinoHttp } from 'pino-http';
import helmet from 'helmet';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { JobEngine } from './jobs/engine';
import { refuse, route } from './routes/door';
import { compRoutes } from './routes/comps';
import { fileRoutes } from './routes/files';
import { boardRoutes } from './routes/board';
import { eventRoutes } from './routes/events';
import { jobRoutes } from './routes/jobs';
import type { Events } from './events';
import { keepingRoutes } from './routes/keeping';
import { bundleRoutes } from './routes/bundles';
import { packageRoutes } from './routes/packages';
import { reviewRoutes } from './routes/review';
import { shotRoutes } from './routes/shots';
import type { Storage } from './storage/storage';
import { HttpError } from './http-error';

/** Asked for all the time, and not worth a line in the log. */
const QUIET = ['/api/health', '/api/present', '/api/events'];
const LOCAL_NAMES = ['localhost', '127.0.0.1', '[::1]'];

export function createApp(parts: {
  storage: Storage;
  engine: JobEngine;
  events: Events;
  log: Logger;
  webFolder: string | null;
}): Express {
  const { storage, engine, events, log, webFolder } = parts;
  const app = express();
  app.disable('x-powered-by');
  app.use(
    pinoHttp({
      logger: log,
      autoLogging: { ignore: (req) => QUIET.includes(req.url ?? '') },
      serializers: { req: ({ method, url }: { method: string; url: string }) => ({ method, url }) },
    }),
  );
  app.use((_req, res, next) => {
    res.locals.nonce = randomBytes(16).toString('base64');
    next();
  });
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          workerSrc: ["'self'", 'blob:'],
          styleSrc: ["'self'", (_req, res) => `'nonce-${(res as Response).locals.nonce as string}'`],
          imgSrc: ["'self'", 'data:', 'blob:'],
          connectSrc: ["'self'"],
          fontSrc: ["'self'"],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          frameAncestors: ["'none'"],
          formAction: ["'self'"],
        },
      },
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      strictTransportSecurity: false, // loopback speaks plain HTTP
    }),
  );
  app.use((req, res, next) => {
    res.locals.log = log;
    const name = (req.headers.host ?? '').replace(/:\d+$/, '');
    if (!LOCAL_NAMES.includes(name))
      return next(new HttpError(421, 'This server answers on this machine only.'));
    const { origin } = req.headers;
    if (origin !== undefined && origin !== `http://${req.headers.host}`)
      return next(new HttpError(403, 'Requests from other sites are refused.'));
    next();
  });
  app.use(
    compression({
      filter: (req, res) =>
        !String(res.getHeader('Content-Type')).includes('event-stream') && compression.filter(req, res),
    }),
  );
  app.use(express.json({ limit: '16mb' }));
  app.get('/api/health', (_req, res) => void res.json({ ok: true }));
  app.use(
    '/api',
    eventRoutes(events),
    boardRoutes(storage, events),
    reviewRoutes(storage, events),
    shotRoutes(storage, events, engine.cli),
    jobRoutes(storage, engine),
    keepingRoutes(storage, engine),
    packageRoutes(storage, engine.cli, events),
    bundleRoutes(storage),
    fileRoutes(storage, engine.cli),
    compRoutes(storage),
  );
  app.use('/api', (_req, _res, next) => next(new HttpError(404, 'There is nothing at this address.')));
  if (webFolder) {
    app.use(express.static(webFolder, { index: false, maxAge: '1h' }));
    app.get(
      '/{*path}',
      route(async (_req, res) => {
        const page = await readFile(join(webFolder, 'index.html'), 'utf8');
        const nonce = res.locals.nonce as string;
        res
          .type('html')
          .set('Cache-Control', 'no-store')
          .send(page.replace('property="csp-nonce" content=""', `property="csp-nonce" content="${nonce}"`));
      }),
    );
  }

  app.use(refuse);
  return app;
}
