import { createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto';
import express, { type NextFunction, type Request, type Response, type Router } from 'express';
import { ValidationError } from 'yup';
import type { Row, Store } from '../common/store.ts';
import { notify, standardWebhook } from '../common/webhooks.ts';
import { blanks, type Kind, kinds, shapes } from './shapes.ts';

/** Contacts, venues, visits, calls and contracts over JSON: paging, "updated since", tombstones, ETags, webhooks. */
export function api(store: Store<Kind>, token: string, known: (access: string) => Promise<boolean>): Router {
  const router = express.Router();
  router.use(async (request, response, next) => {
    const bearer = /^Bearer (.+)$/.exec(request.get('authorization') ?? '')?.[1] ?? '';
    const hash = (text: string) => createHash('sha256').update(text).digest();
    if (timingSafeEqual(hash(bearer), hash(token)) || (bearer !== '' && (await known(bearer)))) return next();
    response.status(401).set('www-authenticate', 'Bearer').json({ error: 'give an access token, or the API token, as a bearer token' });
  });
  router.use(express.json({ limit: '200kb' }));

  router.get('/webhooks', (_request, response) => response.json({ items: [...store.hooks.values()].map(({ id, url }) => ({ id, url })) }));
  router.post('/webhooks', (request, response) => {
    const { url } = (request.body ?? {}) as { url?: unknown };
    if (typeof url !== 'string' || !/^https?:\/\//.test(url))
      return response.status(422).json({ error: 'url: give the http or https address to notify' });
    const hook = { id: randomUUID(), url, secret: `whsec_${randomBytes(24).toString('base64')}` };
    store.hook(hook);
    response.status(201).json(hook);
  });
  router.delete('/webhooks/:id', (request, response) => {
    store.unhook(request.params.id);
    response.status(204).end();
  });

  for (const kind of kinds) {
    router.get(`/${kind}`, (request, response) => list(store, kind, request, response));
    router.get(`/${kind}/:id`, (request, response) => {
      const row = store.get(kind, request.params.id);
      if (row === undefined) return response.status(404).json({ error: `no such record: ${request.params.id}` });
      if (row.deleted) return response.status(410).json(shown(store, kind, row));
      response.set('etag', etag(row)).json(shown(store, kind, row));
    });
    router.post(`/${kind}`, (request, response) => {
      const key = request.get('idempotency-key');
      const earlier = key === undefined ? undefined : store.madeWith(kind, key);
      const row = earlier ?? create(store, kind, request.body, key);
      response
        .status(201)
        .set('etag', etag(row))
        .json(shown(store, kind, row));
    });
    router.patch(`/${kind}/:id`, (request, response) => {
      const row = store.get(kind, request.params.id);
      if (row === undefined || row.deleted) return response.status(404).json({ error: `no such record: ${request.params.id}` });
      const match = request.get('if-match');
      if (match !== undefined && match !== etag(row)) return response.status(412).json({ error: 'the record was changed in the meantime' });
      const next = change(store, kind, row, request.body);
      response.set('etag', etag(next)).json(shown(store, kind, next));
    });
    router.delete(`/${kind}/:id`, (request, response) => {
      const row = store.get(kind, request.params.id);
      if (row === undefined || row.deleted) return response.status(404).json({ error: `no such record: ${request.params.id}` });
      const match = request.get('if-match');
      if (match !== undefined && match !== etag(row)) return response.status(412).json({ error: 'the record was changed in the meantime' });
      remove(store, kind, row);
      response.status(204).end();
    });
  }
  router.use((error: Error, _request: Request, response: Response, next: NextFunction) => {
    if (error instanceof ValidationError) response.status(422).json({ error: error.errors.join('; ') });
    else if ('status' in error) response.status(Number(error.status)).json({ error: error.message });
    else next(error);
  });
  return router;
}

/** Every subscriber hears what happened, and to which record; no more. */
const tell = (store: Store<Kind>, kind: Kind, id: string, event: string) =>
  notify(store, `${kind}.${event}`, { type: `${kind}.${event}`, timestamp: new Date().toISOString(), data: { id } }, standardWebhook);

/** No two states of a record have the same time, so that is what they are called by. */
const etag = (row: Row) => `"${row.updated_at}"`;

/** @param key what a second attempt will be known by */
export function create(store: Store<Kind>, kind: Kind, body: unknown, key?: string): Row {
  const fields = shapes[kind].required().validateSync(body, { strict: true, abortEarly: false }) as Record<string, unknown>;
  const now = store.now();
  const row: Row = { ...blanks[kind], ...fields, id: store.nextId(kind), created_at: now, updated_at: now, deleted: false };
  store.put(kind, row, key);
  tell(store, kind, row.id, 'created');
  return row;
}

export function change(store: Store<Kind>, kind: Kind, row: Row, body: unknown): Row {
  const partial = shapes[kind].partial().required().validateSync(body, { strict: true, abortEarly: false }) as Record<string, unknown>;
  const next: Row = { ...row, ...partial, updated_at: store.now() };
  store.put(kind, next);
  tell(store, kind, row.id, 'updated');
  return next;
}

export function remove(store: Store<Kind>, kind: Kind, row: Row): void {
  store.put(kind, { ...row, deleted: true, updated_at: store.now() });
  tell(store, kind, row.id, 'deleted');
}

/** A record as readers see it: references with their names. */
export function shown(store: Store<Kind>, kind: Kind, row: Row): Record<string, unknown> {
  const { customer_id, venue_id, ...rest } = row;
  if (kind === 'contacts' || kind === 'venues') return rest;
  const customer = typeof customer_id === 'string' ? store.get('contacts', customer_id) : undefined;
  const venue = typeof venue_id === 'string' ? store.get('venues', venue_id) : undefined;
  return {
    ...rest,
    customer: customer === undefined ? null : { id: customer.id, name: customer['name'], email: customer['email'] },
    ...(kind === 'visits' ? { venue: venue === undefined ? null : { id: venue.id, name: venue['name'], address: venue['address'] } } : {}),
  };
}

function list(store: Store<Kind>, kind: Kind, request: Request, response: Response): void {
  const one = (name: string) => (typeof request.query[name] === 'string' ? (request.query[name] as string) : undefined);
  const since = one('updated_since');
  const limit = Number(one('limit') ?? 100);
  if (!Number.isInteger(limit) || limit < 1 || limit > 500) return void response.status(422).json({ error: 'limit: a whole number from 1 to 500' });
  if (since !== undefined && Number.isNaN(Date.parse(since)))
    return void response.status(422).json({ error: 'updated_since: a time such as 2026-12-15T12:00:00Z' });
  const position = (row: Row) => `${row.updated_at} ${row.id}`;
  const after = Buffer.from(one('cursor') ?? '', 'base64url').toString();
  const rows = store
    .all(kind)
    // Tombstones are for those who follow changes; a plain listing shows what there is.
    .filter((r) => (since === undefined ? !r.deleted : Date.parse(r.updated_at) >= Date.parse(since)))
    .sort((a, b) => (position(a) < position(b) ? -1 : 1))
    .filter((r) => position(r) > after);
  const page = rows.slice(0, limit);
  const next = rows.length > limit ? Buffer.from(position(page.at(-1)!)).toString('base64url') : null;
  response.json({ items: page.map((r) => shown(store, kind, r)), next });
}
