import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Role } from '@monsoon/contract';
import { MonsoonClient } from '@monsoon/contract/client';
import { type App, type Config, deviceHash, startService } from '@monsoon/service';
import { getToken, serviceConfig } from './office.ts';
import { freshDatabase } from './servers.ts';

export interface HostedService {
  app: App;
  address: string;
  databaseUrl: string;
  client: MonsoonClient;
  /** lets a person in, with a device */
  person(role: Role): Promise<Device>;
  stop(): Promise<void>;
}

/** A person with a calendar program. */
export interface Device {
  id: string;
  email: string;
  password: string;
  dav(method: string, path: string, headers?: Record<string, string>, body?: string | Buffer): Promise<DavAnswer>;
}

export interface DavAnswer {
  status: number;
  text: string;
  headers: Headers;
}

/** A service with hosted calendars and no outside system at all. */
export async function openHosted(config: Partial<Config> = {}): Promise<HostedService> {
  const database = await freshDatabase();
  const dataFolder = mkdtempSync(join(tmpdir(), 'monsoon-'));
  const service = await startService({ ...serviceConfig(dataFolder, database.url), ...config });
  const { app, address } = service;
  const client = new MonsoonClient({ address: address!, token: await getToken(address!) });
  return {
    app,
    address: address!,
    databaseUrl: database.url,
    client,
    async person(role) {
      const email = `${randomUUID().slice(0, 8)}@alder-wren.example`;
      const password = randomUUID();
      const { rows } = await app.pool.query<{ id: string }>('insert into people (email, name, role) values ($1, $2, $3) returning id', [
        email,
        `Somebody ${role}`,
        role,
      ]);
      const id = rows[0]!.id;
      await app.pool.query('insert into device_passwords (person, name, hash) values ($1, $2, $3)', [id, 'phone', deviceHash(password)]);
      return deviceOf(address!, id, email, password);
    },
    async stop() {
      await service.stop();
      await database.drop();
      rmSync(dataFolder, { recursive: true, force: true });
    },
  };
}

export function deviceOf(address: string, id: string, email: string, password: string): Device {
  const authorization = `Basic ${Buffer.from(`${email}:${password}`).toString('base64')}`;
  return {
    id,
    email,
    password,
    async dav(method, path, headers = {}, body) {
      const answer = await fetch(new URL(path, address), {
        method,
        headers: { authorization, ...headers },
        redirect: 'manual',
        ...(body === undefined ? {} : { body: body as BodyInit }),
      });
      return { status: answer.status, text: await answer.text(), headers: answer.headers };
    },
  };
}
