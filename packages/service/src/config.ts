import { resolve } from 'node:path';

export interface Config {
  dataFolder: string;
  /** undefined: a private PostgreSQL in the data folder */
  databaseUrl: string | undefined;
  host: string;
  port: number;
  /** one process can serve, work, or both */
  role: 'web' | 'worker' | 'both';
  key: string | undefined;
  /** private addresses that may be called: names, IPs, CIDR ranges */
  allowedAddresses: string[];
  admin: { email: string; password: string | undefined };
  logLevel: string;
}

/** Reads the configuration from the environment. @throws Error naming the variable and the way out */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const port = Number(env['MONSOON_PORT'] ?? 4700);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new Error(`MONSOON_PORT: "${env['MONSOON_PORT']}" is not a port; give a number from 1 to 65535`);
  const role = env['MONSOON_ROLE'] ?? 'both';
  if (role !== 'web' && role !== 'worker' && role !== 'both') throw new Error(`MONSOON_ROLE: "${role}" is not web, worker or both`);
  return {
    dataFolder: resolve(env['MONSOON_DATA'] ?? '.data'),
    databaseUrl: env['DATABASE_URL'] || undefined,
    host: env['MONSOON_HOST'] ?? '127.0.0.1',
    port,
    role,
    key: env['MONSOON_KEY'] || undefined,
    allowedAddresses: (env['MONSOON_ALLOW_ADDRESSES'] ?? '')
      .split(',')
      .map((a) => a.trim())
      .filter(Boolean),
    admin: { email: env['MONSOON_ADMIN_EMAIL'] ?? 'admin@monsoon.example', password: env['MONSOON_ADMIN_PASSWORD'] || undefined },
    logLevel: env['MONSOON_LOG'] ?? 'info',
  };
}
