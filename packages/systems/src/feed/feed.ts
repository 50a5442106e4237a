import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { failure } from '../http/answers.ts';
import type { Call } from '../http/call.ts';
import type { CalendarChanges, CalendarInfo, Calendars, ProbeStep, StoredEvent } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import { Turns } from '../turns.ts';
import { type Built, CALENDAR, type Copy, hrefOf, spool, textOf } from './copy.ts';

const LONGEST_REFRESH = 7 * 86_400;
/** Events that are listed at once. */
const PAGE = 5000;

interface Cursor {
  etag: string | null;
  modified: string | null;
  at: number;
  refresh: number | null;
  identity: 'uid' | 'content';
}

export interface FeedOptions {
  address: string;
  /** by what an event is known again from one download to the next */
  identity: 'auto' | 'uid' | 'content';
  /** bytes, after unpacking */
  limit: number;
}

/** A calendar feed (RFC 5545 over HTTP): read-only, and read only when it is due and has changed. */
export class Feed implements Calendars {
  readonly #call: Call;
  readonly #options: FeedOptions;
  readonly #folder = mkdtempSync(join(tmpdir(), 'monsoon-feed-'));
  #address: string;
  #identity: 'uid' | 'content' | null;
  #copy: Copy | null = null;
  #turn: Promise<unknown> = Promise.resolve();
  #files = 0;

  constructor(call: Call, options: FeedOptions) {
    this.#call = call;
    this.#options = options;
    // A webcal: address names a feed, not how it is fetched: with TLS where there is, without where there is not.
    this.#address = options.address.replace(/^webcals?:/i, 'https:');
    this.#identity = options.identity === 'auto' ? null : options.identity;
  }

  get #host(): string {
    return new URL(this.#address).host;
  }

  async *probe(signal: AbortSignal): AsyncIterable<ProbeStep> {
    try {
      const copy = await this.#inTurn(() => this.#fetchWhole(signal));
      yield { name: 'reachable', outcome: 'ok', detail: `${this.#host} sends a calendar` };
      yield {
        name: 'calendars',
        outcome: copy.events.size > 0 ? 'ok' : 'warning',
        detail: `${copy.head.name ?? this.#host}: ${copy.events.size} events${copy.skippedCount > 0 ? `; ${copy.skippedCount} left out: ${copy.skipped[0]}` : ''}`,
      };
      yield {
        name: 'identity',
        outcome: this.#identity === 'content' ? 'warning' : 'ok',
        detail:
          this.#identity === 'content'
            ? 'its UIDs are others at each download: events are known again by what they say, so an edited one is a new one'
            : 'its UIDs last from one download to the next',
      };
      const saving = copy.etag !== null || copy.modified !== null;
      const often =
        copy.head.refresh === null
          ? 'it does not say how often to look'
          : `it asks to be looked at every ${hoursOrMinutes(copy.head.refresh)} at most`;
      yield {
        name: 'changes',
        outcome: saving ? 'ok' : 'warning',
        detail: `${saving ? 'it says when it has not changed' : 'it is downloaded whole each time'}; ${often}`,
      };
      yield { name: 'writing', outcome: 'ok', detail: 'a feed is read only' };
    } catch (error) {
      yield failedStep(error);
    }
  }

  async calendars(signal: AbortSignal): Promise<CalendarInfo[]> {
    const { head } = this.#copy ?? (await this.#inTurn(() => this.#fetchWhole(signal)));
    return [{ href: CALENDAR, name: head.name ?? this.#host, colour: head.colour, writable: false }];
  }

  async *changes(_calendar: string, cursor: string | null, signal: AbortSignal): AsyncIterable<CalendarChanges> {
    const known = cursor === null ? null : (JSON.parse(cursor) as Cursor);
    if (known !== null) {
      this.#identity ??= known.identity;
      const due = known.at + Math.min(known.refresh ?? 0, LONGEST_REFRESH) * 1000;
      if (Date.now() < due) {
        yield { changed: [], removed: [], cursor, complete: false };
        return;
      }
    }
    const copy = await this.#inTurn(async () => {
      if (known === null) return this.#fetchWhole(signal);
      return this.#fetch(signal, known);
    });
    if (copy === null) {
      yield { changed: [], removed: [], cursor: JSON.stringify({ ...known, at: Date.now() }), complete: false };
      return;
    }
    const next: Cursor = { etag: copy.etag, modified: copy.modified, at: copy.at, refresh: copy.head.refresh, identity: this.#identity ?? 'uid' };
    const turns = new Turns({ signal });
    let changed: CalendarChanges['changed'] = [];
    for (const [href, { hash }] of copy.events) {
      await turns.step(() => changed.push({ href, etag: `"${hash}"` }));
      if (changed.length < PAGE) continue;
      yield { changed, removed: [], complete: true };
      changed = [];
    }
    yield { changed, removed: [], cursor: JSON.stringify(next), complete: true };
  }

  isSame = async (): Promise<boolean> => true;

  async withUid(calendar: string, uid: string, signal: AbortSignal): Promise<StoredEvent[]> {
    return [...(await this.read(calendar, [hrefOf(uid)], signal)).values()].filter((e) => e !== null);
  }

  /** A feed is read-only: no run looks for an event before it creates one. */
  between = async (): Promise<StoredEvent[]> => [];

  async read(_calendar: string, hrefs: string[], signal: AbortSignal): Promise<Map<string, StoredEvent | null>> {
    return this.#inTurn(async () => {
      const copy = this.#copy ?? (await this.#fetchWhole(signal));
      const found = new Map<string, StoredEvent | null>();
      for (const href of hrefs) {
        const entry = copy.events.get(href);
        found.set(href, entry === undefined ? null : { href, etag: `"${entry.hash}"`, text: await textOf(copy, entry) });
      }
      return found;
    });
  }

  hrefFor(_calendar: string, uid: string): string {
    return hrefOf(uid);
  }
  make = (): Promise<never> => this.#readOnly();
  rename = (): Promise<never> => this.#readOnly();
  create = (): Promise<never> => this.#readOnly();
  change = (): Promise<never> => this.#readOnly();
  remove = (): Promise<never> => this.#readOnly();
  #readOnly(): Promise<never> {
    return Promise.reject(new OutsideError('refused', `${this.#host} is a feed, which is read only`));
  }

  /** One download at a time: what is read stands in the copy that it was listed from. */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const next = this.#turn.then(work, work);
    this.#turn = next.catch(() => undefined);
    return next;
  }

  async #fetchWhole(signal: AbortSignal): Promise<Copy> {
    const first = (await this.#fetch(signal, null))!;
    if (this.#identity !== null) return first;
    // Some feeds make new UIDs at each download: only a second look shows it.
    this.#identity = 'uid';
    const { uids, contents } = first;
    if (contents.size === 0) return first;
    const again = (await this.#fetch(signal, null))!;
    const shared = (a: Set<string>, b: Set<string>) => [...a].filter((x) => b.has(x)).length / Math.max(1, a.size);
    if (!uids.has('') && (shared(uids, again.uids) >= 0.5 || shared(contents, again.contents) < 0.5)) return again;
    this.#identity = 'content';
    return (await this.#fetch(signal, null))!;
  }

  /** Null when the feed has not changed since. */
  async #fetch(signal: AbortSignal, since: { etag: string | null; modified: string | null } | null): Promise<Copy | null> {
    const headers: Record<string, string> = { accept: 'text/calendar, text/plain;q=0.5, */*;q=0.1', 'accept-encoding': 'gzip' };
    if (since?.etag != null) headers['if-none-match'] = since.etag;
    else if (since?.modified != null) headers['if-modified-since'] = since.modified;
    let building: Built | null = null;
    const get = (url: string) =>
      this.#call({
        method: 'GET',
        url,
        headers,
        limit: this.#options.limit,
        signal,
        consume: async (body, answered) => {
          await building?.copy.file.close();
          building = await spool(body, answered, join(this.#folder, String(this.#files++)), {
            byContent: this.#identity === 'content',
            limit: this.#options.limit,
            host: this.#host,
          });
        },
      });
    let answer: Awaited<ReturnType<typeof get>>;
    try {
      answer = await get(this.#address);
    } catch (error) {
      const plain = this.#options.address.replace(/^webcal:/i, 'http:');
      if (!(error instanceof OutsideError) || error.trouble !== 'unreachable' || !/^webcal:/i.test(this.#options.address) || this.#address === plain)
        throw error;
      answer = await get(plain);
      this.#address = plain;
    }
    if (answer.status === 304) return null;
    if (answer.status !== 200) throw failure(answer, 'reading the feed');
    const { copy, began, ended } = building as unknown as Built;
    if (!began || !ended) {
      await copy.file.close();
      throw new OutsideError(
        'nonsense',
        began ? `${this.#host} broke off in the middle of the feed` : `${this.#host} did not send a calendar: it begins with no BEGIN:VCALENDAR`,
      );
    }
    copy.etag = answer.headers['etag'] ?? null;
    copy.modified = answer.headers['last-modified'] ?? null;
    const old = this.#copy;
    this.#copy = copy;
    await old?.file.close();
    return copy;
  }

  async close(): Promise<void> {
    await this.#turn.catch(() => undefined);
    await this.#copy?.file.close();
    this.#copy = null;
    rmSync(this.#folder, { recursive: true, force: true });
  }
}

const hoursOrMinutes = (seconds: number): string => (seconds >= 7200 ? `${Math.round(seconds / 3600)} hours` : `${Math.ceil(seconds / 60)} minutes`);
