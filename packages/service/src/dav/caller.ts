import { createHash, randomInt } from 'node:crypto';
import type { Role } from '@monsoon/contract';
import type { Request } from 'express';
import type pg from 'pg';
import { DavProblem } from './problem.ts';

/** Who a program at the door acts for. */
export interface DavCaller {
  person: string;
  email: string;
  name: string;
  role: Role;
}

/** Letters and digits that are not easily confused. */
const ALPHABET = 'abcdefghjkmnpqrstuvwxyz23456789';

/** A password for one device: made up, so that a hash without salt is enough (4 times 5 of 31 characters: 99 bits). */
export const newDevicePassword = (): string =>
  Array.from({ length: 4 }, () => Array.from({ length: 5 }, () => ALPHABET[randomInt(ALPHABET.length)]).join('')).join('-');

export const deviceHash = (password: string): string => createHash('sha256').update(`device ${password}`).digest('hex');

/** Milliseconds for which a device is known without a look: a program asks several times a second. */
const KNOWN_FOR = 10_000;
const MOST_KNOWN = 10_000;

/** Devices that came a moment ago. It forgets everything when something changes for people or devices, in any process. */
export class KnownDevices {
  readonly #known = new Map<string, { caller: DavCaller; until: number }>();
  /** another look may have started before the change that made this one forget */
  #forgotten = 0;

  get(key: string): DavCaller | undefined {
    const found = this.#known.get(key);
    return found !== undefined && found.until > Date.now() ? found.caller : undefined;
  }

  set(key: string, caller: DavCaller): void {
    if (this.#known.size >= MOST_KNOWN || Date.now() - this.#forgotten < 1000) this.#known.clear();
    else this.#known.set(key, { caller, until: Date.now() + KNOWN_FOR });
  }

  forget(): void {
    this.#forgotten = Date.now();
    this.#known.clear();
  }
}

const CHALLENGE = { 'www-authenticate': 'Basic realm="Monsoon calendars", charset="UTF-8"' };

/** The device's person, and when it was last used as far as a minute. */
const FIND = `select p.id as person, p.email, p.name, p.role, d.id as device, d.last_used_at is null or d.last_used_at < now() - interval '1 minute' as stale
  from device_passwords d join people p on p.id = d.person where d.hash = $1 and lower(p.email) = $2 and p.disabled_at is null`;

/**
 * Finds out for whom a program acts: by the person's e-mail address and a password made for the device (RFC 7617).
 * @throws DavProblem 401
 */
export async function identifyDevice(pool: pg.Pool, known: KnownDevices, request: Request): Promise<DavCaller> {
  const given = /^Basic ([A-Za-z0-9+/=]+)$/i.exec(request.get('authorization') ?? '')?.[1];
  const [user, ...rest] = given === undefined ? [] : Buffer.from(given, 'base64').toString('utf8').split(':');
  const refused = (reason: string) => new DavProblem(401, reason, null, CHALLENGE);
  if (user === undefined || rest.length === 0 || user.includes('\0'))
    throw refused('sign in with your e-mail address and a password that you made for this device in Monsoon');
  const hash = deviceHash(rest.join(':').trim());
  const key = `${hash} ${user.trim().toLowerCase()}`;
  const recent = known.get(key);
  if (recent !== undefined) return recent;
  const { rows } = await pool.query<DavCaller & { device: string; stale: boolean }>({
    name: 'device',
    text: FIND,
    values: [hash, user.trim().toLowerCase()],
  });
  const [found] = rows;
  if (found === undefined)
    throw refused('this e-mail address and password are not accepted: make a password for this device in Monsoon, under your own name');
  const { device, stale, ...caller } = found;
  if (stale)
    await pool.query('update device_passwords set last_used_at = now(), agent = $2 where id = $1', [
      device,
      (request.get('user-agent') ?? '').slice(0, 200),
    ]);
  known.set(key, caller);
  return caller;
}
