import type { CalendarChanges } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { type Dav, NAMESPACES } from './dav.ts';
import { DAV, type DavResponse, escapeXml } from './multistatus.ts';

/** What is kept between two pulls. A token's age counts: some servers forget deletions silently after a week. */
interface Cursor {
  token: string;
  /** RFC 3339 */
  since: string;
  /** what tells this calendar from one that was made again at its address */
  identity?: string | null;
}

const LONGEST_TOKEN_AGE = 6 * 86_400_000;
/** Milliseconds for which a calendar is taken for the one that it was: a cursor that is older than its making finds out then. */
const SAME_FOR = 60_000;
const identities = new WeakMap<Dav, Map<string, { at: number; identity: string | null }>>();

/** Troubles with a token: the standard's (RFC 6578, 3.2), and what servers answer in its place. */
const tokenTrouble = (error: unknown): boolean =>
  error instanceof OutsideError &&
  (['refused', 'broken', 'changed meanwhile', 'gone'].includes(error.trouble) || (error.trouble === 'unreachable' && error.status === null));

/**
 * What changed in a calendar (RFC 6578). Without a usable token, everything is listed: with an empty token where the
 * server has sync-collection, else by PROPFIND.
 */
export async function pullChanges(
  dav: Dav,
  calendar: string,
  cursor: string | null,
  signal: AbortSignal,
  now: () => number = Date.now,
): Promise<CalendarChanges> {
  const known = cursor === null ? null : (JSON.parse(cursor) as Cursor);
  const since = new Date(now()).toISOString();
  const usable = known !== null && now() - Date.parse(known.since) < LONGEST_TOKEN_AGE;
  // A calendar that was deleted and made again may take the old token, and tell of no deletion.
  const [identity, news] = await Promise.all([
    knownIdentity(dav, calendar, now(), signal),
    usable ? newsSince(dav, calendar, known.token, signal) : null,
  ]);
  const mark = (token: string) => JSON.stringify({ token, since, identity } satisfies Cursor);
  const replaced = isOther(known, identity);
  const sure = replaced && isSure(identity) && isSure(known?.identity ?? null);
  if (news !== null && !replaced) return { ...news, cursor: mark(news.token), complete: false };
  try {
    const found = await syncCollection(dav, calendar, '', signal);
    if (found !== null) return { ...found, removed: [], cursor: mark(found.token), complete: true, ...(sure ? { replaced } : {}) };
  } catch (error) {
    if (!(error instanceof OutsideError) || !['refused', 'broken'].includes(error.trouble)) throw error;
  }
  const listing = await dav.propfind(calendar, 1, '<D:getetag/><D:resourcetype/>', signal);
  if (!listing.intact) throw new OutsideError('nonsense', `${dav.host} broke off while listing ${calendar}`);
  if (listing.responses.some((r) => r.status === 507))
    throw new OutsideError('nonsense', `${dav.host} lists only a part of ${calendar}, and has no way to the rest`);
  return { changed: members(listing.responses, calendar), removed: [], cursor: null, complete: true };
}

/** Both have an identity, and not the same. */
const isOther = (known: Cursor | null, identity: string | null): boolean =>
  known?.identity != null && identity !== null && known.identity !== identity;

/**
 * A resource-id is permanent (RFC 5842, 3.1). A creation date is not: Cyrus changes it when it rewrites its index. A changed
 * date only causes a full listing.
 */
const isSure = (identity: string | null): boolean => identity !== null && !/^\d{4}-\d\d-\d\dT/.test(identity);

/** Is the calendar the one that the cursor came from, as far as its server says so for sure? */
export async function isSameCalendar(dav: Dav, calendar: string, cursor: string, signal: AbortSignal): Promise<boolean> {
  const known = JSON.parse(cursor) as Cursor;
  const identity = await knownIdentity(dav, calendar, Date.now(), signal);
  return !isOther(known, identity) || !isSure(identity) || !isSure(known.identity ?? null);
}

/** Null where the token is good for nothing. */
async function newsSince(dav: Dav, calendar: string, token: string, signal: AbortSignal) {
  try {
    return await syncCollection(dav, calendar, token, signal);
  } catch (error) {
    if (tokenTrouble(error)) return null;
    throw error;
  }
}

async function knownIdentity(dav: Dav, calendar: string, now: number, signal: AbortSignal): Promise<string | null> {
  const known = identities.get(dav) ?? new Map<string, { at: number; identity: string | null }>();
  identities.set(dav, known);
  const recent = known.get(calendar);
  if (recent !== undefined && now - recent.at < SAME_FOR) return recent.identity;
  const identity = await identityOf(dav, calendar, signal);
  known.set(calendar, { at: now, identity });
  return identity;
}

/** Its resource-id (RFC 5842, 3.1), or when it was made; null where the server tells neither. */
async function identityOf(dav: Dav, calendar: string, signal: AbortSignal): Promise<string | null> {
  try {
    const [own] = (await dav.propfind(calendar, 0, '<D:resource-id/><D:creationdate/>', signal)).responses;
    const id = own?.properties.get(`${DAV}resource-id`);
    return id?.children[0]?.text.trim() || id?.text.trim() || own?.properties.get(`${DAV}creationdate`)?.text.trim() || null;
  } catch (error) {
    if (error instanceof OutsideError && ['refused', 'broken'].includes(error.trouble)) return null;
    throw error;
  }
}

/** Null when the server does not answer with a token, which means that it does not know the report. */
async function syncCollection(dav: Dav, calendar: string, token: string, signal: AbortSignal) {
  const changed = new Map<string, string | null>();
  const removed = new Set<string>();
  for (let current = token, page = 0; page < 10_000; page++) {
    const body = `<D:sync-collection ${NAMESPACES}><D:sync-token>${escapeXml(current)}</D:sync-token><D:sync-level>1</D:sync-level><D:prop><D:getetag/><D:resourcetype/></D:prop></D:sync-collection>`;
    const answer = await dav.report(calendar, 0, body, signal);
    if (!answer.intact) throw new OutsideError('nonsense', `${dav.host} broke off while listing the changes of ${calendar}`);
    if (answer.syncToken === null) return null;
    for (const response of answer.responses.filter((r) => r.status === 404)) {
      removed.add(response.href);
      changed.delete(response.href);
    }
    for (const member of members(answer.responses, calendar)) {
      changed.set(member.href, member.etag);
      removed.delete(member.href);
    }
    const more = answer.responses.some((r) => r.status === 507);
    if (!more || answer.syncToken === current)
      return { changed: [...changed].map(([href, etag]) => ({ href, etag })), removed: [...removed], token: answer.syncToken };
    current = answer.syncToken;
  }
  throw new OutsideError('nonsense', `${dav.host} never comes to the end of the changes of ${calendar}`);
}

const members = (responses: DavResponse[], calendar: string) =>
  responses
    .filter((r) => r.status !== 404 && r.status !== 507 && r.href !== calendar && `${r.href}/` !== calendar)
    .filter((r) => !r.properties.get(`${DAV}resourcetype`)?.children.some((c) => c.name === `${DAV}collection`))
    .map((r) => ({ href: r.href, etag: r.properties.get(`${DAV}getetag`)?.text.trim() || null }));
