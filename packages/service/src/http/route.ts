import { createHash } from 'node:crypto';
import { eq, lt, sql } from 'drizzle-orm';
import type { Request, Response, Router } from 'express';
import { type AnyObject, type ISchema, type ObjectSchema, ValidationError } from 'yup';
import type { Caller } from '../access/callers.ts';
import type { App } from '../app.ts';
import { idempotency } from '../storage/schema.ts';
import { HttpProblem, invalid } from './problem.ts';

export interface RouteSpec<Q, B> {
  method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** below /api/v1, with `:name` for parameters */
  path: string;
  summary: string;
  /** who may call it: anybody, readers and writers, writers */
  may: 'anybody' | 'read' | 'write';
  query?: ISchema<Q>;
  body?: ISchema<B>;
  /** undefined: no content */
  answer?: ISchema<unknown>;
  status?: number;
}

export interface Call<Q, B> {
  params: Record<string, string>;
  query: Q;
  body: B;
  /** present on every route but those for anybody */
  caller: Caller;
  request: Request;
  response: Response;
}

export type AnyRoute = RouteSpec<unknown, unknown> & { handle: (call: Call<never, never>) => Promise<unknown> };

/** Declares a route: everything about it in one place, for the router and for the OpenAPI document. */
export function route<Q, B>(spec: RouteSpec<Q, B>, handle: (call: Call<Q, B>) => Promise<unknown>): AnyRoute {
  return { ...spec, handle } as unknown as AnyRoute;
}

type Identify = (request: Request) => Promise<Caller | null>;

/** Hangs declared routes into a router. A route that forgets to say who may call it does not compile. */
export function mount(router: Router, routes: readonly AnyRoute[], app: App, identify: Identify): void {
  for (const spec of routes) {
    router[spec.method](spec.path, async (request, response) => {
      const caller = spec.may === 'anybody' ? null : await permit(spec, request, identify);
      const query = spec.query === undefined ? {} : check(spec.query, request.query, 'query', false);
      const body = spec.body === undefined ? {} : check(spec.body, request.body, 'body', true);
      const call = { params: request.params, query, body, caller, request, response } as unknown as Call<never, never>;
      const key = request.get('idempotency-key');
      if (key !== undefined && spec.method === 'post' && caller !== null)
        return once(app, key, caller, request, response, () => answer(spec, call, response));
      const { status, json } = await answer(spec, call, response);
      if (!response.headersSent) response.status(status).send(json === undefined ? undefined : json);
    });
  }
}

async function permit(spec: AnyRoute, request: Request, identify: Identify): Promise<Caller> {
  const caller = await identify(request);
  if (caller === null) throw new HttpProblem(401, 'Not signed in', 'sign in, or give a token as a bearer token');
  if (spec.may === 'write' && caller.may !== 'write') throw new HttpProblem(403, 'Not permitted', 'this token may only read; use one that may write');
  return caller;
}

function check(given: ISchema<unknown>, value: unknown, where: string, strict: boolean): unknown {
  const schema = given as unknown as ObjectSchema<AnyObject>;
  try {
    // Strictly first: 5 is not "5", and what is not known is refused, not dropped. Then the defaults.
    if (strict) schema.validateSync(value, { strict: true, abortEarly: false });
    return strict ? schema.cast(value, { assert: false }) : schema.noUnknown().validateSync(value, { abortEarly: false });
  } catch (error) {
    if (error instanceof ValidationError) throw invalid(error, where);
    throw error;
  }
}

async function answer(spec: AnyRoute, call: Call<never, never>, response: Response): Promise<{ status: number; json: unknown }> {
  const json = await spec.handle(call);
  if (response.headersSent) return { status: response.statusCode, json: undefined };
  return {
    status: spec.status ?? (spec.answer === undefined ? 204 : spec.method === 'post' ? 201 : 200),
    json: spec.answer === undefined ? undefined : json,
  };
}

/** A POST repeated with the same Idempotency-Key gets the first answer again; nothing is done twice. */
async function once(
  app: App,
  key: string,
  caller: Caller,
  request: Request,
  response: Response,
  work: () => Promise<{ status: number; json: unknown }>,
): Promise<void> {
  if (key.length > 200) throw new HttpProblem(422, 'The idempotency key does not fit', 'an Idempotency-Key has at most 200 characters');
  const id = createHash('sha256').update(`${caller.person}\n${key}`).digest('hex');
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
    response.status(Number(earlier.status)).type('json').send(earlier.answer);
    return;
  }
  try {
    const { status, json } = await work();
    await app.db
      .update(idempotency)
      .set({ status: String(status), answer: JSON.stringify(json ?? null) })
      .where(eq(idempotency.key, id));
    response.status(status).send(json);
  } catch (error) {
    // What failed may be tried again with the same key.
    await app.db.delete(idempotency).where(eq(idempotency.key, id));
    throw error;
  }
}
