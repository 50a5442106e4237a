import { parseArgs } from 'node:util';
import type { Express } from 'express';

/** The options of a stand-in's command line. @param more its own, beside `--port` and `--data` */
export function options<const More extends string>(
  usage: string,
  more: readonly More[],
): Record<'port' | 'data', string> & Partial<Record<More, string>> {
  const names = ['port', 'data', ...more];
  const { values } = parseArgs({ options: Object.fromEntries(names.map((n) => [n, { type: 'string' as const }])) });
  if (values['port'] === undefined || values['data'] === undefined) fail(`usage: ${usage}`);
  return values as never;
}

export function fail(message: string): never {
  console.error(message);
  process.exit(2);
}

/** Listens on loopback, says where, and ends in order. */
export function serve(name: string, app: Express, port: string, also: () => Promise<void> = async () => undefined): void {
  const server = app.listen(Number(port), '127.0.0.1', () => {
    const address = server.address();
    console.log(`${name} at http://127.0.0.1:${typeof address === 'object' ? address?.port : port}/`);
  });
  server.on('error', (error) => fail(`${name}: ${error.message}`));
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    process.on(signal, () => {
      void also().finally(() => server.close(() => process.exit(0)));
      server.closeAllConnections();
    });
  }
}
