import { readFileSync } from 'node:fs';
import express from 'express';
import { misbehave, parseFaults, throttle } from '../common/faults.ts';
import { fail, options, serve } from '../common/serve.ts';
import { type Row, Store } from '../common/store.ts';
import { api } from './api.ts';
import { oauth } from './oauth.ts';
import { page } from './page.ts';
import { prefixes } from './shapes.ts';

/**
 * The Front desk of Alder & Wren: a small CRM on loopback. The seed is loaded when the data file is new. With a client
 * it gives OAuth tokens, too: `--client ID:SECRET --redirect URL`, lasting `--access` and `--refresh` seconds.
 */
const given = options(
  'front-desk --port N --data FILE --token TOKEN [--seed FILE] [--client ID:SECRET --redirect URL] [--access SECONDS] [--refresh SECONDS] [--rate N] [--faults slow=0.1,...]',
  ['token', 'seed', 'client', 'redirect', 'access', 'refresh', 'rate', 'faults'],
);
if (given.token === undefined) fail('front-desk: give --token');
const store = new Store(given.data, prefixes);
if (given.seed !== undefined && store.empty) store.load(JSON.parse(readFileSync(given.seed, 'utf8')) as { kind: string; row: Row }[]);

const app = express();
app.disable('x-powered-by');
let known: (access: string) => Promise<boolean> = async () => false;
if (given.client !== undefined) {
  const [id = '', secret = ''] = given.client.split(':');
  const server = oauth({
    issuer: `http://127.0.0.1:${given.port}/oauth`,
    client: { id, secret, redirects: (given.redirect ?? '').split(' ').filter((r) => r !== '') },
    access: Number(given.access ?? 120),
    refresh: Number(given.refresh ?? 600),
    file: `${given.data}.tokens`,
  });
  known = server.known;
  app.use(server.router);
}
if (given.rate !== undefined) app.use('/api/v1', throttle(Number(given.rate)));
try {
  app.use('/api/v1', misbehave(parseFaults(given.faults)));
} catch (error) {
  fail(`front-desk: ${(error as Error).message}`);
}
app.use(
  '/api/v1',
  api(store, given.token, (access) => known(access)),
);
app.use('/', page(store));
serve('front desk', app, given.port);
