import { caldav } from './caldav/kind.ts';
import { csv } from './csv/kind.ts';
import { feed } from './feed/kind.ts';
import { jsonApi } from './json-api/kind.ts';
import type { Kind } from './kind.ts';
import { mail } from './mail/kind.ts';
import { postgresql } from './postgresql/kind.ts';

/** Every kind of system, by the name it has in settings. */
export const kinds: Record<string, Kind> = { caldav, feed, postgresql, 'json-api': jsonApi, csv, mail };
