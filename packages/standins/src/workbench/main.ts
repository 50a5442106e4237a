import { readFileSync } from 'node:fs';
import express from 'express';
import { misbehave, parseFaults, throttle } from '../common/faults.ts';
import { html, render } from '../common/html.ts';
import { fail, options, serve } from '../common/serve.ts';
import { type Row, Store } from '../common/store.ts';
import { api } from './api.ts';
import { prefixes } from './shapes.ts';

/** The Workbench of Alder & Wren: a small project tool on loopback. The seed is loaded when the data file is new. */
const given = options('workbench --port N --data FILE --key KEY [--seed FILE] [--rate N] [--faults slow=0.1,...]', ['key', 'seed', 'rate', 'faults']);
if (given.key === undefined) fail('workbench: give --key');
const store = new Store(given.data, prefixes);
if (given.seed !== undefined && store.empty) store.load(JSON.parse(readFileSync(given.seed, 'utf8')) as { kind: string; row: Row }[]);

const app = express();
app.disable('x-powered-by');
if (given.rate !== undefined) app.use('/api', throttle(Number(given.rate)));
try {
  app.use('/api', misbehave(parseFaults(given.faults)));
} catch (error) {
  fail(`workbench: ${(error as Error).message}`);
}
app.use('/api', api(store, given.key));
app.get('/', (_request, response) => {
  const state = ['open', 'in hand', 'done'];
  const rows = store
    .all('tasks')
    .filter((t) => !t.deleted)
    .sort((a, b) => (String(a['due_on'] ?? '~') < String(b['due_on'] ?? '~') ? -1 : 1))
    .map((t) => {
      const labels = (t['labels'] as { text: string }[]).map((l) => l.text).join(', ');
      const assignee = (t['assignee'] as { name?: string } | null)?.name;
      return `<tr>${[t.id, t['title'], t['starts_on'], t['due_on'], assignee, labels, state[Number(t['state'])]].map((v) => `<td>${html(v)}</td>`).join('')}</tr>`;
    });
  response
    .set('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'")
    .send(
      render(
        'Workbench',
        'Tasks',
        `<table><thead><tr><th>Task<th>Title<th>From<th>Due<th>Assignee<th>Labels<th>State</thead><tbody>${rows.join('')}</tbody></table>`,
      ),
    );
});
serve('workbench', app, given.port);
