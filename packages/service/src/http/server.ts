import { existsSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { fileURLToPath } from 'node:url';
import express, { type Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { identify } from '../access/callers.ts';
import { cookieName, cookieOptions, overTls, readCookie } from '../access/cookies.ts';
import type { App } from '../app.ts';
import { davRouter } from '../dav/door.ts';
import { feedRouter } from '../feeds/door.ts';
import { replyRouter } from '../invitations/reply-page.ts';
import { resumeLanes } from '../systems/check.ts';
import { end as endConsent } from '../systems/consent.ts';
import { changes } from './changes.ts';
import { checkContent, checkHost, checkOrigin } from './from-here.ts';
import { healthRouter } from './health.ts';
import { hookRouter } from './hooks.ts';
import { metrics } from './metrics.ts';
import { openApi } from './openapi.ts';
import { HttpProblem, problemHandler } from './problem.ts';
import { providerRouter } from './provider.ts';
import { type AnyRoute, mount } from './route.ts';
import { accessRoutes } from './routes/access.ts';
import { arrangeRoutes } from './routes/arrange.ts';
import { calendarRoutes } from './routes/calendars.ts';
import { feedRoutes } from './routes/feeds.ts';
import { guestRoutes } from './routes/guests.ts';
import { laneRoutes } from './routes/lanes.ts';
import { notificationRoutes } from './routes/notifications.ts';
import { overviewRoutes } from './routes/overview.ts';
import { pauseRoutes } from './routes/pause.ts';
import { peopleRoutes } from './routes/people.ts';
import { runRoutes } from './routes/runs.ts';
import { settingsRoutes } from './routes/settings.ts';
import { systemContentRoutes } from './routes/system-contents.ts';
import { systemRoutes } from './routes/systems.ts';
import { watchRoutes } from './routes/watch.ts';

/** Every declared call of the interface, by noun. */
export const routesOf = (app: App): AnyRoute[] => [
  ...accessRoutes(app),
  ...peopleRoutes(app),
  ...pauseRoutes(app),
  ...settingsRoutes(app),
  ...guestRoutes(app),
  ...notificationRoutes(app),
  ...watchRoutes(app),
  ...overviewRoutes(app),
  ...calendarRoutes(app),
  ...feedRoutes(app),
  ...systemRoutes(app),
  ...systemContentRoutes(app),
  ...arrangeRoutes(app),
  ...laneRoutes(app),
  ...runRoutes(app),
];

/** Octets of a body. */
const LARGEST_BODY = 256_000;
/** Where documents of other programs come in. */
const DOCUMENTS = '/descriptors/draft';

/** The HTTP interface, the door for notices, and the console's files. */
export function buildServer(app: App): Server {
  const web = express();
  web.disable('x-powered-by');
  web.set('trust proxy', app.config.trustProxy);
  // They, too, answer only for the service's own names.
  const ownName = checkHost(app);
  web.use((request, response, next) => {
    const isDoor = /^\/(dav|feed|reply|\.well-known\/caldav)(\/|$)/.test(request.path) || request.method === 'PROPFIND';
    return isDoor ? ownName(request, response, next) : next();
  });
  // Doors for programs: they come often, and bring credentials with every request, or a secret address; no page is served there.
  web.use(davRouter(app));
  web.use(feedRouter(app));
  web.use(replyRouter(app));
  web.use(
    helmet({
      // On plain HTTP, both would make browsers look for a TLS server that is not there.
      strictTransportSecurity: overTls(app.config) ? { maxAge: 31_536_000 } : false,
      contentSecurityPolicy: {
        useDefaults: true,
        directives: {
          'upgrade-insecure-requests': overTls(app.config) ? [] : null,
          'style-src': ["'self'", "'unsafe-inline'"],
          'frame-ancestors': ["'none'"],
        },
      },
    }),
  );
  web.use(
    pinoHttp({
      logger: app.log,
      autoLogging: { ignore: (request) => ['/api/v1/health', '/healthz', '/readyz'].includes(request.url ?? '') },
      customLogLevel: (_q, response) => (response.statusCode >= 500 ? 'error' : 'debug'),
      serializers: {
        req: (r: { method: string; url: string }) => ({ method: r.method, url: r.url }),
        res: (r: { statusCode: number }) => ({ status: r.statusCode }),
      },
    }),
  );
  web.use('/hooks', rateLimit({ windowMs: 60_000, limit: 6000, standardHeaders: true, legacyHeaders: false }), hookRouter(app));

  web.use(healthRouter(app));
  web.use(checkHost(app));

  // Where a person comes back from consenting: known by the state that they were sent with, and by nothing else.
  web.get('/oauth/back', rateLimit({ windowMs: 60_000, limit: 30 }), async (request, response) => {
    const browser = readCookie(app.config, request, 'consent');
    response.clearCookie(cookieName(app.config, 'consent'), cookieOptions(app.config, { path: '/oauth' }));
    const { back, system, authorised } = await endConsent(app, new URL(request.originalUrl, 'http://monsoon.example').searchParams, browser);
    if (authorised) await resumeLanes(app, system.id);
    // The console has the words: an address cannot put others into it.
    response.redirect(303, `${back}?${new URLSearchParams(authorised ? { authorised: system.slug } : { refused: system.slug })}`);
  });
  web.use('/sign-in', providerRouter(app));
  const api = express.Router();
  api.use(checkOrigin(app));
  // A lane's ETag names its version, not its numbers: a stored answer would be shown again while they move on.
  api.use((_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  // A document of another program is read in a thread; of all else, nothing that is asked for is longer.
  api.use(DOCUMENTS, express.text({ limit: '1mb', type: 'application/json' }));
  api.use(express.json({ limit: LARGEST_BODY }));
  api.use(checkContent);
  // One password tried with many addresses: guesses at one address are slowed down where passwords are checked.
  api.use(
    '/session',
    rateLimit({
      windowMs: 60_000,
      limit: 60,
      skip: (r) => r.method !== 'POST',
      skipSuccessfulRequests: true,
      handler: () => {
        throw new HttpProblem(429, 'Too many attempts', 'wait a minute before you try to sign in again');
      },
    }),
  );
  const routes = routesOf(app);
  mount(api, routes, app, (request) => identify(app, request));
  const document = openApi(routes);
  api.get('/openapi.json', (_request, response) => response.json(document));
  api.get('/changes', (request, response) => changes(app, request, response));
  api.get('/metrics', async (request, response) => {
    if ((await identify(app, request)) === null) throw new HttpProblem(401, 'Not signed in', 'give a token as a bearer token');
    const { type, text } = await metrics(app);
    response.type(type).send(text);
  });
  api.use((request: Request) => {
    throw new HttpProblem(404, 'No such call', `there is no ${request.method} ${request.originalUrl}; /api/v1/openapi.json lists what there is`);
  });
  web.use('/api/v1', api);

  const files = fileURLToPath(new URL('../../../console/dist', import.meta.url));
  if (existsSync(files)) {
    web.use(
      express.static(files, {
        index: false,
        maxAge: '1y',
        immutable: true,
        setHeaders: (r, path) => {
          if (path.endsWith('.html')) r.set('cache-control', 'no-cache');
        },
      }),
    );
    web.get('/{*path}', (_request, response) => response.set('cache-control', 'no-cache').sendFile('index.html', { root: files }));
  }
  web.use(problemHandler(app.log));
  return createServer(web);
}

/** The door of a process that only works: health and numbers, and nothing else. */
export function buildHealthServer(app: App): Server {
  const web = express();
  web.disable('x-powered-by');
  web.use(helmet());
  web.use(healthRouter(app));
  web.use(problemHandler(app.log));
  return createServer(web);
}
