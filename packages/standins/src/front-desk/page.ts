import express, { type Router } from 'express';
import { ValidationError } from 'yup';
import type { Row, Store } from '../common/store.ts';
import { change, create, remove } from './api.ts';
import { type Kind, visitKinds, visitStatuses } from './shapes.ts';

const html = (value: unknown) => String(value ?? '').replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** A plain page to see and edit visits, for people at the desk. */
export function page(store: Store<Kind>): Router {
  const router = express.Router();
  router.use((_request, response, next) => {
    response.set('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'");
    next();
  });
  router.use(express.urlencoded({ extended: false, limit: '50kb' }));
  // Forms of other sites may not post here.
  router.use((request, response, next) => {
    const origin = request.get('origin');
    if (request.method !== 'POST' || origin === undefined || origin === `http://${request.get('host')}`) return next();
    response.status(403).send('This form belongs to another site.');
  });
  router.get('/', (_request, response) => response.send(render('Visits', visitTable(store))));
  router.get('/visits/:id', (request, response) => {
    const row = store.get('visits', request.params.id);
    if (row === undefined || row.deleted) return response.status(404).send(render('No such visit', '<p><a href="/">All visits</a></p>'));
    response.send(render(`Visit ${row.id}`, visitForm(store, row, '')));
  });
  router.post('/visits/:id', (request, response) => {
    const row = store.get('visits', request.params.id);
    if (row === undefined || row.deleted) return response.status(404).send(render('No such visit', '<p><a href="/">All visits</a></p>'));
    const form = request.body as Record<string, string>;
    try {
      if (form['do'] === 'delete') remove(store, 'visits', row);
      else change(store, 'visits', row, fromForm(form));
      response.redirect(303, '/');
    } catch (error) {
      if (!(error instanceof ValidationError)) throw error;
      response.status(422).send(render(`Visit ${row.id}`, visitForm(store, row, error.errors.join('; '))));
    }
  });
  router.post('/visits', (_request, response) => {
    const row = create(store, 'visits', {});
    response.redirect(303, `/visits/${row.id}`);
  });
  return router;
}

const fromForm = (form: Record<string, string>) => ({
  start: form['start'] ? (form['start'].length === 16 ? `${form['start']}:00` : form['start']) : null,
  length_minutes: form['length_minutes'] ? Number(form['length_minutes']) : null,
  instrument: form['instrument'] ?? null,
  kind: form['kind'] ?? 'tuning',
  status: form['status'] ?? 'booked',
  private: form['private'] === 'on',
  notes: form['notes'] ?? null,
});

const customerName = (store: Store<Kind>, row: Row) =>
  (typeof row['customer_id'] === 'string' ? store.get('contacts', row['customer_id'])?.['name'] : '') ?? '';

function visitTable(store: Store<Kind>): string {
  const rows = store
    .all('visits')
    .filter((r) => !r.deleted)
    .sort((a, b) => (String(a['start'] ?? '') < String(b['start'] ?? '') ? -1 : 1));
  const body = rows.map(
    (r) =>
      `<tr><td><a href="/visits/${html(r.id)}">${html(r.id)}</a></td><td>${html(
        String(r['start'] ?? '')
          .replace('T', ' ')
          .slice(0, 16),
      )}</td><td>${html(r['time_zone'])}</td><td>${html(r['length_minutes'])}</td><td>${html(customerName(store, r))}</td><td>${html(r['instrument'])}</td><td>${html(r['kind'])}</td><td>${html(r['status'])}</td></tr>`,
  );
  return `<form method="post" action="/visits"><button>New visit</button></form><table><thead><tr><th>Visit<th>Start<th>Zone<th>Minutes<th>Customer<th>Instrument<th>Kind<th>Status</thead><tbody>${body.join('')}</tbody></table>`;
}

function visitForm(store: Store<Kind>, row: Row, wrong: string): string {
  const select = (name: string, values: string[]) =>
    `<select name="${name}" id="${name}">${values.map((v) => `<option${row[name] === v ? ' selected' : ''}>${html(v)}</option>`).join('')}</select>`;
  const line = (name: string, label: string, input: string) => `<p><label for="${name}">${label}</label>${input}</p>`;
  return `<p><a href="/">All visits</a> ${html(customerName(store, row))} ${wrong === '' ? '' : `<strong role="alert">${html(wrong)}</strong>`}</p><form method="post">
${line('start', `Start (${html(row['time_zone'])})`, `<input type="datetime-local" id="start" name="start" value="${html(String(row['start'] ?? '').slice(0, 16))}">`)}
${line('length_minutes', 'Minutes', `<input type="number" id="length_minutes" name="length_minutes" value="${html(row['length_minutes'])}">`)}
${line('instrument', 'Instrument', `<input id="instrument" name="instrument" value="${html(row['instrument'])}">`)}
${line('kind', 'Kind', select('kind', visitKinds))}${line('status', 'Status', select('status', visitStatuses))}
${line('private', 'Private', `<input type="checkbox" id="private" name="private"${row['private'] === true ? ' checked' : ''}>`)}
${line('notes', 'Notes', `<textarea id="notes" name="notes" rows="4">${html(row['notes'])}</textarea>`)}
<p><button name="do" value="save">Save</button> <button name="do" value="delete">Delete this visit</button></p></form>`;
}

const render = (title: string, body: string) => `<!doctype html><html lang="en"><meta charset="utf-8"><title>${html(title)} - Front desk</title>
<style>body{font:15px/1.5 sans-serif;max-width:70rem;margin:1.5rem auto;padding:0 1rem;color:#222}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.25rem .6rem;border-bottom:1px solid #ddd}label{display:inline-block;min-width:14rem}textarea{width:30rem}</style>
<h1>Front desk: ${html(title)}</h1>${body}</html>`;
