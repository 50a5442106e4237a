import { createHash } from 'node:crypto';
import { eq, lt, sql } from 'drizzle-orm';
import type { Request, Response, Router } from 'express';
import { type AnyObject, type ISchema, type ObjectSchema, ValidationError } from 'yup';
import { enter } from '../access/activity.ts';
import type { Caller } from '../access/callers.ts';
import { forPerson } from '../access/for-person.ts';
import { type Ability, permit } from '../access/permissions.ts';
import type { App } from '../app.ts';
import { idempotency } from '../storage/schema.ts';
import { withinLimits } from './limits.ts';
import { HttpProblem, invalid } from './problem.ts';
import { oversized } from './size-of-json.ts';

/** The names in a path: `/lanes/:lane/file` has `lane`. */
type ParamsOf<P extends string> = P extends `${string}:${infer Name}/${infer Rest}`
  ? Record<Name, string> & ParamsOf<`/${Rest}`>
  : P extends `${string}:${infer Name}`
    ? Record<Name, string>
    : unknown;

export interface RouteSpec<P extends string, Q, B> {
  method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** below /api/v1, with `:name` for parameters */
  path: P;
  summary: string;
  /** who may call it */
  may: 'anybody' | Ability;
  /** open to somebody who has to choose a password first */
  beforePassword?: boolean;
  /** its body is a document of another program: it is handed over as the text that came, to be read in a thread */
  document?: boolean;
  /** reads whole systems, or computes for long: one person makes only so many such calls */
  expensive?: boolean;
  /** the lane that it changes, where its path does not name it */
  laneOf?: (body: B, params: ParamsOf<P>) => string | null;
  /** what the activity log says of it besides; never a value that may be secret. null: it is not entered, as what only reads is not */
  entry?: ((body: B) => string) | null;
  query?: ISchema<Q>;
  body?: ISchema<B>;
  /** undefined: no content */
  answer?: ISchema<unknown>;
  status?: number;
}

export interface Call<P extends string, Q, B> {
  params: ParamsOf<P>;
  query: Q;
  body: B;
  /** present on every route but those for anybody */
  caller: Caller;
  request: Request;
  response: Response;
}

export type AnyRoute = RouteSpec<string, unknown, unknown> & { handle: (call: Call<string, never, never>) => Promise<unknown> };

/** Declares a route: everything about it in one place, for the router and for the OpenAPI document. */
export function route<const P extends string, Q, B>(spec: RouteSpec<P, Q, B>, handle: (call: Call<P, Q, B>) => Promise<unknown>): AnyRoute {
  return { ...spec, handle } as unknown as AnyRoute;
}

type Identify = (request: Request) => Promise<Caller | null>;

/** Hangs declared routes into a router. A route that forgets to say who may call it does not compile. */
export function mount(router: Router, routes: readonly AnyRoute[], app: App, identify: Identify): void {
  for (const spec of routes) {
    router[spec.method](spec.path, async (request, response) => {
      const caller = spec.may === 'anybody' ? null : await identify(request);
      if (caller === null && spec.may !== 'anybody') throw new HttpProblem(401, 'Not signed in', 'sign in, or give a token as a bearer token');
      const log = activityLogger(app, spec, request, caller);
      if (caller?.mustChangePassword === true && spec.beforePassword !== true)
        throw new HttpProblem(
          403,
          'Choose a password first',
          'somebody else chose your password: choose one of your own (PUT /session/password), then go on',
        );
      if (caller !== null) await admit(app, spec, request, caller, log);
      const query = spec.query === undefined ? {} : check(spec.query, given(request.query), 'query', false);
      const body = spec.body === undefined ? {} : checkBody(spec, request.body);
      const call = { params: request.params, query, body, caller, request, response } as unknown as Call<string, never, never>;
      const work = async () => {
        const respond = () => forPerson(caller, () => answer(spec, call, response));
        const done = await (spec.expensive === true && caller !== null ? withinLimits(caller, respond) : respond());
        await log('done', typeof spec.entry === 'function' ? spec.entry(body as never) : '');
        return done;
      };
      const key = request.get('idempotency-key');
      if (key !== undefined && spec.method === 'post' && caller !== null) return once(app, key, caller, request, response, work);
      const { status, json } = await work();
      if (!response.headersSent) deliver(response, status, json);
    });
  }
}

async function admit(app: App, spec: AnyRoute, request: Request, caller: Caller, log: (outcome: 'refused') => Promise<void>): Promise<void> {
  const params = request.params as Record<string, string>;
  const named = (spec.laneOf as ((body: unknown, params: Record<string, string>) => string | null) | undefined)?.(request.body ?? {}, params);
  const lane = named === undefined ? (params['lane'] ?? null) : named;
  try {
    await permit(app.db, caller, spec.may as Ability, typeof lane === 'string' ? lane : null);
    if (caller.scope === 'read' && changes(spec)) throw new HttpProblem(403, 'Not permitted', 'this token may only look; use one that may more');
  } catch (error) {
    if (error instanceof HttpProblem) await log('refused');
    throw error;
  }
}

/** What everybody may, and changes something, has an entry in the log; what has none only reads. */
const changes = (spec: AnyRoute): boolean => spec.method !== 'get' && (spec.may !== 'read' || spec.entry != null);

/** How a route's calls are entered into the activity log: those that change something, and those that were refused. */
function activityLogger(app: App, spec: AnyRoute, request: Request, caller: Caller | null) {
  const params = Object.entries(request.params as Record<string, string>);
  return async (outcome: 'done' | 'refused', detail = ''): Promise<void> => {
    if (caller === null || (outcome === 'done' && (!changes(spec) || spec.entry === null))) return;
    await enter(app, {
      by: caller.email,
      via: caller.via,
      // The first words of a summary say it; what follows is for those who read the documentation.
      what: spec.summary.replace(/[:;,].*/s, ''),
      of: params.map(([noun, of]) => `${noun} ${of.slice(0, 100)}`).join(', '),
      detail: detail.slice(0, 300),
      outcome,
      lane: (request.params as Record<string, string>)['lane'] ?? null,
    });
  };
}

/** Of a query, what is given: a form sends empty what was left out. */
const given = (query: Request['query']): object => Object.fromEntries(Object.entries(query).filter(([, value]) => value !== ''));

function checkBody(spec: AnyRoute, body: unknown): unknown {
  if (spec.document === true) return { text: typeof body === 'string' ? body : '' };
  const wrong = oversized(body);
  if (wrong !== null) throw new HttpProblem(422, 'The body does not fit', `${wrong.pointer || 'the body'}: ${wrong.reason}`, [wrong]);
  return check(spec.body as ISchema<unknown>, body, 'body', true);
}

function check(asked: ISchema<unknown>, value: unknown, where: string, strict: boolean): unknown {
  const schema = asked as unknown as ObjectSchema<AnyObject>;
  try {
    // Strictly first: 5 is not "5", and what is not known is refused, not dropped. Then the defaults.
    if (strict) schema.validateSync(value, { strict: true, abortEarly: false });
    return strict ? schema.cast(value, { assert: false }) : schema.noUnknown().validateSync(value, { abortEarly: false });
  } catch (error) {
    if (error instanceof ValidationError) throw invalid(error, where, schema);
    throw error;
  }
}

/** No content is nothing at all; null is an answer. */
const deliver = (response: Response, status: number, json: unknown) =>
  json === undefined ? response.status(status).end() : response.status(status).json(json);

async function answer(spec: AnyRoute, call: Call<string, never, never>, response: Response): Promise<{ status: number; json: unknown }> {
  const json = await spec.handle(call);
  if (response.headersSent) return { status: response.statusCode, json: undefined };
  return {
    status: spec.status ?? (spec.answer === undefined ? 204 : spec.method === 'post' ? 201 : 200),
    json: spec.answer === undefined ? undefined : json,
  };
}

/**
 * A POST repeated with the same Idempotency-Key gets the first answer again; nothing is done twice. The answer may hold a
 * secret that is shown once: it is kept sealed, and given only to the token or browser that asked first.
 */
async function once(
  app: App,
  key: string,
  caller: Caller,
  request: Request,
  response: Response,
  work: () => Promise<{ status: number; json: unknown }>,
): Promise<void> {
  if (key.length > 200) throw new HttpProblem(422, 'The idempotency key does not fit', 'an Idempotency-Key has at most 200 characters');
  const id = createHash('sha256').update(`${caller.person}\n${caller.via}\n${caller.scope}\n${key}`).digest('hex');
  const print = createHash('sha256')
    .update(`${request.path}\n${JSON.stringify(request.body ?? null)}`)
    .digest('hex');
  await app.db.delete(idempotency).where(lt(idempotency.createdAt, sql`now() - interval '1 day'`));
  const [first] = await app.db.insert(idempotency).values({ key: id, request: print, status: '', answer: '' }).onConflictDoNothing().returning();
  if (first === undefined) {
    const [earlier] = await app.db.select().from(idempotency).where(eq(idempotency.key, id));
    if (earlier?.request !== print)
      throw new HttpProblem(422, 'The idempotency key was used already', 'this Idempotency-Key came with another request before; use a new one');
    if (earlier.status === '') throw new HttpProblem(409, 'Still at work', 'the first request with this Idempotency-Key has not ended yet');
    deliver(response, Number(earlier.status), (app.vault.open(earlier.answer) as { json: unknown }).json);
    return;
  }
  try {
    const { status, json } = await work();
    await app.db
      .update(idempotency)
      .set({ status: String(status), answer: app.vault.seal({ json }) })
      .where(eq(idempotency.key, id));
    deliver(response, status, json);
  } catch (error) {
    // What failed may be tried again with the same key.
    await app.db.delete(idempotency).where(eq(idempotency.key, id));
    throw error;
  }
}
