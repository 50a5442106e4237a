import { createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto';
import express, { type NextFunction, type Request, type Response, type Router } from 'express';
import { ValidationError } from 'yup';
import type { Row, Store } from '../common/store.ts';
import { hmacWebhook, notify } from '../common/webhooks.ts';
import { blanks, type Kind, kinds, shapes, single } from './shapes.ts';

/** Projects, tasks and bench-time entries over JSON: an API key, pages by offset, ETags, wrapped bodies, webhooks for each kind of event. */
export function api(store: Store<Kind>, key: string): Router {
  const router = express.Router();
  router.use((request, response, next) => {
    const hash = (text: string) => createHash('sha256').update(text).digest();
    if (timingSafeEqual(hash(request.get('x-workbench-key') ?? ''), hash(key))) return next();
    response.status(401).json({ message: 'the header X-Workbench-Key holds no key that is known here' });
  });
  router.use(express.json({ limit: '200kb' }));
  router.post('/hooks', (request, response) => {
    const { url, events } = (request.body ?? {}) as { url?: unknown; events?: unknown };
    if (typeof url !== 'string' || !/^https?:\/\//.test(url) || !Array.isArray(events) || events.some((e) => typeof e !== 'string'))
      return response.status(422).json({ message: 'give url, and events such as task.moved' });
    const hook = { id: randomUUID(), url, secret: randomBytes(24).toString('hex'), events: events as string[] };
    store.hook(hook);
    response.status(201).json(hook);
  });
  for (const kind of kinds) serveKind(router, store, kind);
  router.use((error: Error, _request: Request, response: Response, next: NextFunction) => {
    if (error instanceof ValidationError) response.status(422).json({ message: error.errors.join('; ') });
    else if ('status' in error) response.status(Number(error.status)).json({ message: error.message });
    else next(error);
  });
  return router;
}

const etag = (row: Row) => `"${createHash('sha1').update(row.updated_at).digest('hex').slice(0, 12)}"`;

function serveKind(router: Router, store: Store<Kind>, kind: Kind): void {
  const one = single[kind];
  const live = (id: string) => {
    const row = store.get(kind, id);
    return row === undefined || row.deleted ? undefined : row;
  };
  const answer = (response: Response, row: Row, status = 200) =>
    response
      .status(status)
      .set('etag', etag(row))
      .json({ [one]: shown(store, kind, row) });
  const missing = (response: Response, id: string) => response.status(404).json({ message: `no ${one} ${id}` });
  const given = (body: unknown, partial: boolean) => {
    const fields = ((body ?? {}) as Record<string, unknown>)[one];
    const shape = partial ? shapes[kind].partial() : shapes[kind];
    return shape.required(`the body holds no "${one}"`).validateSync(fields, { strict: true, abortEarly: false }) as Record<string, unknown>;
  };
  const tell = (row: Row, event: string) =>
    notify(store, `${one}.${event}`, { event: `${one}.${event}`, [one]: { id: row.id } }, hmacWebhook('x-workbench-signature'));

  router.get(`/${kind}`, (request, response) => {
    const number = (name: string, otherwise: number) => Number(request.query[name] ?? otherwise);
    const [offset, limit, after] = [number('offset', 0), number('limit', 50), number('changed_after', 0)];
    if (![offset, limit, after].every((n) => Number.isFinite(n) && n >= 0) || limit < 1 || limit > 200)
      return response.status(422).json({ message: 'offset, limit (1 to 200) and changed_after (seconds) are numbers' });
    const rows = store
      .all(kind)
      .filter((r) => !r.deleted && Date.parse(r.updated_at) >= after * 1000)
      .sort((a, b) => Number(a.id.split('-')[1]) - Number(b.id.split('-')[1]));
    response.json({ total: rows.length, [kind]: rows.slice(offset, offset + limit).map((r) => shown(store, kind, r)) });
  });
  router.get(`/${kind}/:id`, (request, response) => {
    const row = live(request.params.id);
    return row === undefined ? missing(response, request.params.id) : answer(response, row);
  });
  router.post(`/${kind}`, (request, response) => {
    const { client_ref, ...fields } = given(request.body, false);
    const earlier = typeof client_ref === 'string' ? store.madeWith(kind, client_ref) : undefined;
    if (earlier !== undefined) return answer(response, earlier, 200);
    const now = store.now();
    const row: Row = { ...blanks[kind], ...fields, id: store.nextId(kind), created_at: now, updated_at: now, deleted: false };
    store.put(kind, row, typeof client_ref === 'string' ? client_ref : undefined);
    tell(row, 'made');
    answer(response, row, 201);
  });
  router.patch(`/${kind}/:id`, (request, response) => {
    const row = live(request.params.id);
    if (row === undefined) return missing(response, request.params.id);
    const match = request.get('if-match');
    if (match !== undefined && match !== etag(row)) return response.status(412).json({ message: `the ${one} was changed in the meantime` });
    const next: Row = { ...row, ...given(request.body, true), updated_at: store.now() };
    store.put(kind, next);
    tell(next, ['starts_on', 'due_on', 'begun'].some((f) => next[f] !== row[f]) ? 'moved' : 'changed');
    answer(response, next);
  });
  router.delete(`/${kind}/:id`, (request, response) => {
    const row = live(request.params.id);
    if (row === undefined) return missing(response, request.params.id);
    const match = request.get('if-match');
    if (match !== undefined && match !== etag(row)) return response.status(412).json({ message: `the ${one} was changed in the meantime` });
    store.put(kind, { ...row, deleted: true, updated_at: store.now() });
    tell(row, 'removed');
    response.status(204).end();
  });
}

/** A record as readers see it: times in seconds, references with their titles, nothing of what was removed. */
function shown(store: Store<Kind>, kind: Kind, row: Row): Record<string, unknown> {
  const { created_at, updated_at, deleted: _deleted, project_id, task_id, ...rest } = row;
  const seconds = (iso: string) => Math.floor(Date.parse(iso) / 1000);
  const named = (of: Kind, id: unknown) => {
    const found = typeof id === 'string' ? store.get(of, id) : undefined;
    return found === undefined ? null : { id: found.id, title: found['title'] };
  };
  return {
    ...rest,
    ...(kind === 'tasks' ? { project: named('projects', project_id) } : {}),
    ...(kind === 'entries' ? { task: named('tasks', task_id) } : {}),
    made: seconds(created_at),
    changed: seconds(updated_at),
  };
}
