import { isIP } from 'node:net';
import { resolve } from 'node:path';
import { type Role, roles } from '@monsoon/contract';

export interface Config {
  dataFolder: string;
  /** undefined: a private PostgreSQL in the data folder */
  databaseUrl: string | undefined;
  host: string;
  port: number;
  /** one process can serve, work, or both */
  role: 'web' | 'worker' | 'both';
  key: string | undefined;
  /** drop stored secrets that the key does not open */
  dropSecrets?: boolean;
  /** private addresses that may be called: names, IPs, CIDR ranges */
  allowedAddresses: string[];
  /** folders, besides the data folder's `files`, below which files of systems may lie */
  folders: string[];
  /** where people reach the service, when that is not where it listens: behind a proxy */
  publicAddress: string | undefined;
  /** proxies whose word about a caller's address is taken: IPs, CIDR ranges, `loopback` */
  trustProxy: string[];
  /** hours without use after which a browser must sign in again */
  sessionIdleHours: number;
  /** where a process that only works reports its health; undefined: nowhere */
  healthPort: number | undefined;
  /** another service that people sign in with; undefined: none */
  provider: Provider | undefined;
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
  const publicAddress = env['MONSOON_ADDRESS'] || undefined;
  if (publicAddress !== undefined && !/^https?:\/\/[^\s/]+\/?$/.test(publicAddress))
    throw new Error(`MONSOON_ADDRESS: "${publicAddress}" is not an address such as https://monsoon.alder-wren.example`);
  return {
    dataFolder: resolve(env['MONSOON_DATA'] ?? '.data'),
    databaseUrl: env['DATABASE_URL'] || undefined,
    host: env['MONSOON_HOST'] ?? '127.0.0.1',
    port,
    role,
    key: env['MONSOON_KEY'] || undefined,
    dropSecrets: env['MONSOON_DROP_SECRETS'] === 'yes',
    allowedAddresses: listOf(env['MONSOON_ALLOW_ADDRESSES']),
    folders: listOf(env['MONSOON_ALLOW_FOLDERS']).map((f) => resolve(f)),
    healthPort: portOf(env['MONSOON_HEALTH_PORT']),
    trustProxy: proxiesOf(env['MONSOON_TRUST_PROXY']),
    sessionIdleHours: hoursOf(env['MONSOON_SESSION_IDLE_HOURS']),
    publicAddress: publicAddress?.replace(/\/$/, ''),
    provider: providerOf(env),
    admin: { email: env['MONSOON_ADMIN_EMAIL'] ?? 'admin@monsoon.example', password: env['MONSOON_ADMIN_PASSWORD'] || undefined },
    logLevel: env['MONSOON_LOG'] ?? 'info',
  };
}

function providerOf(env: NodeJS.ProcessEnv): Provider | undefined {
  const issuer = env['MONSOON_OIDC_ISSUER'];
  if (issuer === undefined || issuer === '') return undefined;
  if (!/^https?:\/\/[^\s/]+/.test(issuer))
    throw new Error(`MONSOON_OIDC_ISSUER: "${issuer}" is not an address such as https://accounts.alder-wren.example`);
  const client = env['MONSOON_OIDC_CLIENT'];
  if (client === undefined || client === '') throw new Error('MONSOON_OIDC_CLIENT: give the name under which the provider knows Monsoon');
  const role = env['MONSOON_OIDC_ROLE'] || undefined;
  if (role !== undefined && !(roles as readonly string[]).includes(role))
    throw new Error(`MONSOON_OIDC_ROLE: "${role}" is not a role; roles are ${roles.join(', ')}`);
  return {
    issuer,
    client,
    secret: env['MONSOON_OIDC_SECRET'] || undefined,
    name: env['MONSOON_OIDC_NAME'] || new URL(issuer).hostname,
    role: role as Role | undefined,
  };
}

const portOf = (text: string | undefined): number | undefined => {
  if (text === undefined || text === '') return undefined;
  const port = Number(text);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new Error(`MONSOON_HEALTH_PORT: "${text}" is not a port; give a number from 1 to 65535`);
  return port;
};

const proxiesOf = (text: string | undefined): string[] => {
  const proxies = listOf(text);
  for (const proxy of proxies) {
    const [ip = '', bits] = proxy.split('/');
    const most = isIP(ip) === 6 ? 128 : 32;
    if (proxy !== 'loopback' && (isIP(ip) === 0 || (bits !== undefined && !(/^\d{1,3}$/.test(bits) && Number(bits) <= most))))
      throw new Error(`MONSOON_TRUST_PROXY: "${proxy}" is no IP address, CIDR range or "loopback"; name the proxies that stand before Monsoon`);
  }
  return proxies;
};

const hoursOf = (text: string | undefined): number => {
  const hours = Number(text || 12);
  if (!(hours > 0 && hours <= 336)) throw new Error(`MONSOON_SESSION_IDLE_HOURS: "${text}" is not a number of hours from 1 to 336`);
  return hours;
};

const listOf = (text: string | undefined): string[] =>
  (text ?? '')
    .split(',')
    .map((a) => a.trim())
    .filter(Boolean);

/** Another service that people sign in with (OpenID Connect Core 1.0), as the operator configured it. */
export interface Provider {
  issuer: string;
  client: string;
  secret: string | undefined;
  /** what the button says */
  name: string;
  /** what somebody is who is not known yet; undefined: only those who were let in may come */
  role: Role | undefined;
}
