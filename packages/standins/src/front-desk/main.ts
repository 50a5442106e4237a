import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import express from 'express';
import { api } from './api.ts';
import { page } from './page.ts';
import { type Kind, type Row, Store } from './store.ts';

/**
 * The Front desk of Alder & Wren: a small CRM on loopback.
 * `--port N --data FILE --token TOKEN [--seed FILE]`: the seed is loaded when the data file is new.
 */
const { values } = parseArgs({
  options: { port: { type: 'string' }, data: { type: 'string' }, token: { type: 'string' }, seed: { type: 'string' } },
});
if (values.port === undefined || values.data === undefined || values.token === undefined) {
  console.error('usage: front-desk --port N --data FILE --token TOKEN [--seed FILE]');
  process.exit(2);
}
const store = new Store(values.data);
if (values.seed !== undefined && store.empty) store.load(JSON.parse(readFileSync(values.seed, 'utf8')) as { kind: Kind; row: Row }[]);

const app = express();
app.disable('x-powered-by');
app.use('/api/v1', api(store, values.token));
app.use('/', page(store));
const server = app.listen(Number(values.port), '127.0.0.1', () => {
  const address = server.address();
  console.log(`front desk at http://127.0.0.1:${typeof address === 'object' ? address?.port : values.port}/`);
});
server.on('error', (error) => {
  console.error(`front desk: ${error.message}`);
  process.exit(1);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    server.close(() => process.exit(0));
    server.closeAllConnections();
  });
}
