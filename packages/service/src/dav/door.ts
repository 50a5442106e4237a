import { TookTooLong, TooMuchWork, Turns } from '@monsoon/systems';
import express, { type NextFunction, type Request, type Response, type Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { App } from '../app.ts';
import { isDatabaseDown, isUnfitValue } from '../errors.ts';
import { Disguise } from '../hosted/disguise.ts';
import { identifyDevice, KnownDevices } from './caller.ts';
import { allowed, copyOrMove, put, read, remove, tooLarge } from './objects.ts';
import { DavProblem } from './problem.ts';
import { propfind } from './propfind.ts';
import { mkcalendar, proppatch } from './proppatch.ts';
import { report } from './reports.ts';
import { canonicalPath, type DavCall, type Door, ROOT, resourceAt } from './resources.ts';
import { HEAD, InvalidXml, readXml } from './xml.ts';

/** What the door can do: class 1 and 3 of WebDAV (RFC 4918, 18), who may what (RFC 3744), and calendars (RFC 4791). */
const ABILITIES = '1, 3, access-control, calendar-access';
/** Octets of a body; an object has fewer. */
const LARGEST = 2_000_000;
/** Milliseconds that one request may compute. */
const LONGEST = 1000;
/** Attempts with wrong credentials from one address in a minute. */
const MOST_REFUSED = 60;

/**
 * The CalDAV door to hosted calendars, at /dav/. A bare address leads there: programs ask the well-known path (RFC 6764, 5)
 * or the outermost one.
 */
export function davRouter(app: App): Router {
  const door: Door = { pool: app.pool, zones: app.zones, disguise: new Disguise(app.vault) };
  const router = express.Router();
  router.use('/.well-known/caldav', (_request, response) => response.redirect(301, ROOT));
  const guard = rateLimit({
    windowMs: 60_000,
    limit: MOST_REFUSED,
    standardHeaders: true,
    legacyHeaders: false,
  });
  const body = express.raw({ type: () => true, limit: LARGEST });
  const known = new KnownDevices();
  app.announcer.listen((nouns) => {
    if (nouns.includes('people') || nouns.includes('calendars')) known.forget();
  });
  const answer = (request: Request, response: Response, next: NextFunction) =>
    void serve(door, known, request, response).catch((error: unknown) => {
      // Wrong credentials alone count: programs ask often.
      if (error instanceof DavProblem && error.status === 401) guard(request, response, () => next(error));
      else next(error);
    });
  router.use('/dav', body, answer);
  router.all('/', (request, response, next) => {
    if (!['PROPFIND', 'OPTIONS'].includes(request.method)) return next();
    return body(request, response, (error?: unknown) => (error === undefined ? answer(request, response, next) : next(error)));
  });
  router.use(problems(app));
  return router;
}

async function serve(door: Door, known: KnownDevices, request: Request, response: Response): Promise<void> {
  response.set({ dav: ABILITIES, 'x-content-type-options': 'nosniff', 'content-security-policy': "default-src 'none'" });
  // Programs ask what there is before they sign in.
  if (request.method === 'OPTIONS') {
    response
      .set('allow', `${allowed({ kind: 'object' })}, PROPPATCH, MKCALENDAR, MKCOL`)
      .status(200)
      .end();
    return;
  }
  const caller = await identifyDevice(door.pool, known, request);
  const path = canonicalPath(request.originalUrl);
  const given = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0);
  const gone = new AbortController();
  response.once('close', () => gone.abort(new ReaderLeft()));
  await act({ door, caller, path, body: given, turns: new Turns({ most: LONGEST, signal: gone.signal }), request, response });
}

/** The program closed its connection before it had its answer. */
class ReaderLeft extends Error {
  override name = 'ReaderLeft';
}

async function act(call: DavCall): Promise<void> {
  const { door, caller, path, request } = call;
  const xml = () => readXml(call.body, call.turns);
  const resource = () => resourceAt(door, caller, path);
  switch (request.method) {
    case 'GET':
    case 'HEAD':
      return read(call, await resource());
    case 'PUT':
      return put(call);
    case 'DELETE':
      return remove(call);
    case 'PROPFIND':
      return propfind(call, await resource(), await xml());
    case 'PROPPATCH':
      return proppatch(call, await resource(), await xml());
    case 'REPORT':
      return report(call, await resource(), await xml());
    case 'MKCALENDAR':
    case 'MKCOL':
      return mkcalendar(call, await xml());
    case 'COPY':
    case 'MOVE':
      return copyOrMove(call);
    default:
      throw new DavProblem(405, `${request.method} is not known here`, null, { allow: allowed(await resource()) });
  }
}

/** Errors as WebDAV says them. */
function problems(app: App) {
  return (error: unknown, request: Request, response: Response, next: NextFunction): unknown => {
    // A multistatus that breaks off must not look whole.
    if (response.headersSent || error instanceof ReaderLeft) return response.destroy();
    const problem = problemOf(error);
    if (problem === null) {
      if (!request.originalUrl.startsWith('/dav')) return next(error);
      app.log.error({ error, path: request.path, method: request.method }, 'a request at the calendar door failed inside Monsoon');
      if (isUnfitValue(error)) return send(response, new DavProblem(400, 'a value of the request is too large, or of a form that cannot be stored'));
      const down = isDatabaseDown(error);
      return send(
        response,
        new DavProblem(
          down ? 503 : 500,
          down ? 'the database is not available' : 'this is a fault in Monsoon; its log has the details',
          null,
          down ? { 'retry-after': '5' } : {},
        ),
      );
    }
    return send(response, problem);
  };
}

function problemOf(error: unknown): DavProblem | null {
  if (error instanceof DavProblem) return error;
  if (error instanceof TookTooLong || error instanceof TooMuchWork)
    return new DavProblem(507, `${error.message}: ask for less at once`, '<D:number-of-matches-within-limits/>');
  if (error instanceof InvalidXml) return new DavProblem(400, error.message);
  const status = Number((error as { status?: unknown }).status);
  if (status === 413) return tooLarge();
  return status >= 400 && status < 500 ? new DavProblem(status, (error as Error).message) : null;
}

const send = (response: Response, problem: DavProblem): void => {
  response
    .status(problem.status)
    .set({ ...problem.headers, 'content-type': 'application/xml; charset=utf-8' })
    .send(`${HEAD}${problem.body.replace('<D:error>', '<D:error xmlns:D="DAV:" xmlns:C="urn:ietf:params:xml:ns:caldav">')}`);
};
