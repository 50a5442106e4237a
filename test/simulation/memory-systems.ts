import type { Collection, FieldValues, RecordItem } from '@monsoon/core';
import {
  type CalendarChanges,
  type CalendarInfo,
  type Calendars,
  OutsideError,
  type RecordPage,
  type Records,
  type StoredEvent,
} from '@monsoon/systems';

/** What may go wrong, or happen, at a call: before it took effect, or after. */
export type Mischief = (call: string, moment: 'before' | 'after') => void;

/** Every write of ours that took effect, for whoever checks. */
export interface Write {
  side: 'event' | 'record';
  call: 'create' | 'change' | 'remove';
  id: string;
  /** the UID of a made event, the key of a made record */
  key: string;
  before: string | null;
  after: string | null;
}

export interface CalendarManners {
  /** what it does to a text that is stored */
  normalise(text: string): string;
  /** does it know changes since a token, or only whole listings? */
  tokens: boolean;
  /** is a token that it has forgotten answered with everything, as if all of it had changed? */
  forgets: boolean;
  /** is an ETag made of the content, so that an event that is changed and changed back has its old one? */
  contentTags: boolean;
  /** does it say that another calendar stands at the address than a token came from? */
  tellsReplaced: boolean;
}

/** FNV-1a, 32 bits. */
function hash(text: string): string {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return (h >>> 0).toString(16);
}

/** A calendar in memory, with ETags of its content and a list of changes, like the real ones. */
export class MemoryCalendar implements Calendars {
  readonly events = new Map<string, { text: string; changed: number }>();
  readonly writes: Write[] = [];
  mischief: Mischief = () => undefined;
  /** what a listing that calls itself whole lacks all the same */
  lacks: (href: string) => boolean = () => false;
  readonly #gone = new Map<string, number>();
  readonly #calendars = new Map<string, CalendarInfo>([['/c/', { href: '/c/', name: 'Calendar', colour: null, writable: true }]]);
  readonly #manners: CalendarManners;
  #clock = 0;
  /** tokens older than this are refused */
  #expired = 0;
  /** since when the calendar stands at its address */
  #stands = 0;

  constructor(manners: Partial<CalendarManners> = {}) {
    this.#manners = { normalise: (text) => text, tokens: true, forgets: false, contentTags: false, tellsReplaced: true, ...manners };
  }

  etag = (href: string) => {
    const { text, changed } = this.events.get(href)!;
    return `"${this.#manners.contentTags ? hash(text) : changed}"`;
  };
  hrefFor = (calendar: string, uid: string) => `${calendar}${uid}.ics`;
  expireTokens(): void {
    this.#expired = this.#clock + 1;
  }

  /** Somebody deletes the calendar, and makes one at the same address that holds what is given. */
  replace(events: ReadonlyMap<string, { text: string }>): void {
    this.#stands = ++this.#clock;
    this.#gone.clear();
    this.events.clear();
    for (const [href, { text }] of events) this.put(href, text);
  }

  async #call<T>(name: string, work: () => T): Promise<T> {
    this.mischief(name, 'before');
    const result = work();
    this.mischief(name, 'after');
    return result;
  }

  /** What somebody else does. */
  put(href: string, text: string): void {
    this.events.set(href, { text, changed: ++this.#clock });
    this.#gone.delete(href);
  }
  drop(href: string): void {
    if (this.events.delete(href)) this.#gone.set(href, ++this.#clock);
  }

  #write(call: Write['call'], href: string, key: string, text: string | null): void {
    const before = this.events.get(href)?.text ?? null;
    if (text === null) this.drop(href);
    else this.put(href, this.#manners.normalise(text));
    this.writes.push({ side: 'event', call, id: href, key, before, after: this.events.get(href)?.text ?? null });
  }

  async *probe() {
    yield { name: 'reachable', outcome: 'ok' as const, detail: 'in memory' };
  }
  calendars = async () => [...this.#calendars.values()];
  async make(name: string, colour: string | null): Promise<CalendarInfo> {
    const made = { href: `/c${this.#calendars.size}/`, name, colour, writable: true };
    this.#calendars.set(made.href, made);
    return made;
  }
  async rename(calendar: string, to: { name?: string | undefined; colour?: string | undefined }): Promise<CalendarInfo> {
    const found = this.#there(calendar);
    const renamed = { ...found, name: to.name ?? found.name, colour: to.colour ?? found.colour };
    this.#calendars.set(calendar, renamed);
    return renamed;
  }
  #there(calendar: string): CalendarInfo {
    const found = this.#calendars.get(calendar);
    if (found === undefined) throw new OutsideError('gone', `there is no calendar ${calendar}`);
    return found;
  }
  #in = (calendar: string) => [...this.events].filter(([href]) => href.startsWith(calendar));

  async *changes(calendar: string, cursor: string | null): AsyncIterable<CalendarChanges> {
    this.#there(calendar);
    const found = await this.#call('changes', () => {
      const replaced = cursor !== null && Number(cursor) < this.#stands;
      const usable = cursor !== null && this.#manners.tokens && /^\d+$/.test(cursor) && Number(cursor) >= this.#expired && !replaced;
      const since = usable ? Number(cursor) : 0;
      const changed = this.#in(calendar)
        .filter(([href, e]) => e.changed > since && (usable || !this.lacks(href)))
        .map(([href]) => ({ href, etag: this.etag(href) }));
      const removed = usable ? [...this.#gone].filter(([href, at]) => at > since && href.startsWith(calendar)).map(([href]) => href) : [];
      return {
        changed,
        removed,
        cursor: this.#manners.tokens ? String(this.#clock) : null,
        complete: !usable && !(this.#manners.forgets && cursor !== null),
        ...(replaced && this.#manners.tellsReplaced ? { replaced } : {}),
      };
    });
    const half = Math.ceil(found.changed.length / 2);
    const { cursor: _last, ...page } = found;
    yield { ...page, changed: found.changed.slice(0, half), removed: [] };
    this.mischief('more changes', 'before');
    yield { ...found, changed: found.changed.slice(half) };
  }
  isSame = async (_calendar: string, cursor: string) => !this.#manners.tellsReplaced || Number(cursor) >= this.#stands;
  withUid = async (calendar: string, uid: string): Promise<StoredEvent[]> =>
    this.#in(calendar)
      .filter(([, e]) => e.text.includes(`UID:${uid}\r\n`))
      .map(([href]) => this.#stored(href)!);
  /** Roughly: an event counts for the month around its first day, one that repeats always. */
  between = async (calendar: string, from: number, until: number): Promise<StoredEvent[]> =>
    this.#in(calendar)
      .filter(([, { text }]) => {
        const day = /^DTSTART[^:]*:(\d{4})(\d\d)(\d\d)/m.exec(text);
        if (day === null || /^(RRULE|RDATE)/m.test(text)) return true;
        const at = Date.UTC(Number(day[1]), Number(day[2]) - 1, Number(day[3])) / 1000;
        return at < until + 15 * 86_400 && at > from - 15 * 86_400;
      })
      .map(([href]) => this.#stored(href)!);
  read(_calendar: string, hrefs: string[]): Promise<Map<string, StoredEvent | null>> {
    if (hrefs.length === 0) return Promise.resolve(new Map());
    return this.#call('read', () => new Map(hrefs.map((href) => [href, this.#stored(href)])));
  }
  #stored(href: string): StoredEvent | null {
    const event = this.events.get(href);
    return event === undefined ? null : { href, etag: this.etag(href), text: event.text };
  }
  create(calendar: string, uid: string, text: string): Promise<{ href: string }> {
    if (!this.#calendars.has(calendar)) return Promise.reject(new OutsideError('gone', `there is no calendar ${calendar}`));
    const href = this.hrefFor(calendar, uid);
    return this.#call('create', () => {
      const twin = this.#in(calendar).find(([, e]) => e.text.includes(`UID:${uid}\r\n`))?.[0];
      if (this.events.has(href) || twin !== undefined) throw new OutsideError('exists', 'it exists', { href: twin ?? href });
      this.#write('create', href, uid, text);
      return { href };
    });
  }
  change(href: string, etag: string, text: string): Promise<void> {
    return this.#call('change', () => {
      this.#match(href, etag);
      this.#write('change', href, '', text);
    });
  }
  remove(href: string, etag: string): Promise<void> {
    return this.#call('remove', () => {
      if (!this.events.has(href)) return;
      this.#match(href, etag);
      this.#write('remove', href, '', null);
    });
  }
  #match(href: string, etag: string): void {
    if (!this.events.has(href)) throw new OutsideError('gone', 'it is gone');
    if (this.etag(href) !== etag) throw new OutsideError('changed meanwhile', 'it was changed');
  }
}

export interface RecordManners {
  /** does it call each state of a record by a version? */
  versions: boolean;
  /** does it know a second attempt by its key? */
  retries: 'key' | 'none';
  /** does it tell what was deleted? */
  tombstones: boolean;
  normalise(fields: FieldValues): FieldValues;
  /** RFC 3339, on its own clock */
  now(): string;
  /** how listed records are ordered */
  order(ids: string[]): string[];
}

/** How records in memory are described. */
export const collectionOf = (fields: Collection['fields'], retries: 'key' | 'none'): Collection => ({
  name: 'items',
  label: 'Items',
  fields,
  may: { create: true, change: true, remove: true },
  retries,
  stamps: { created: true, modified: true },
});

interface Row {
  item: RecordItem | null;
  changed: number;
  key: string | null;
}

/** Records in memory, with a cursor. */
export class MemoryRecords implements Records {
  readonly rows = new Map<string, Row>();
  readonly writes: Write[] = [];
  mischief: Mischief = () => undefined;
  /** what a listing that calls itself whole lacks all the same */
  lacks: (id: string) => boolean = () => false;
  readonly #manners: RecordManners;
  readonly #fields: Collection['fields'];
  #clock = 0;
  #made = 0;

  constructor(fields: Collection['fields'], manners: Partial<RecordManners> = {}) {
    this.#fields = fields;
    this.#manners = {
      versions: true,
      retries: 'key',
      tombstones: true,
      normalise: (f) => f,
      now: () => new Date(0).toISOString(),
      order: (ids) => ids,
      ...manners,
    };
  }

  /** What somebody else does. */
  put(id: string, fields: FieldValues): void {
    const old = this.rows.get(id);
    const now = this.#manners.now();
    this.#clock++;
    const blank = Object.fromEntries(this.#fields.map((f) => [f.name, null]));
    const item: RecordItem = {
      id,
      fields: this.#manners.normalise({ ...blank, ...old?.item?.fields, ...fields }),
      created: old?.item?.created ?? now,
      modified: now,
      ...(this.#manners.versions ? { version: String(this.#clock) } : {}),
    };
    this.rows.set(id, { item, changed: this.#clock, key: old?.key ?? null });
  }
  drop(id: string): void {
    const row = this.rows.get(id);
    if (row !== undefined) this.rows.set(id, { ...row, item: null, changed: ++this.#clock });
  }
  live = (): RecordItem[] => [...this.rows.values()].flatMap((r) => r.item ?? []);

  async *probe() {
    yield { name: 'reachable', outcome: 'ok' as const, detail: 'in memory' };
  }
  describe = async (): Promise<Collection[]> => [collectionOf(this.#fields, this.#manners.retries)];
  async *pull(_collection: string, cursor: string | null): AsyncIterable<RecordPage> {
    this.mischief('pull', 'before');
    const since = this.#manners.tombstones ? Number(cursor ?? 0) : 0;
    const whole = cursor === null || !this.#manners.tombstones;
    const found = this.#manners.order([...this.rows].filter(([id, r]) => r.changed > since && !(whole && this.lacks(id))).map(([id]) => id));
    const end = this.#manners.tombstones ? String(this.#clock) : null;
    const half = Math.ceil(found.length / 2);
    const page = (ids: string[]) => ({
      items: ids.flatMap((id) => structuredClone(this.rows.get(id)!.item) ?? []),
      gone: this.#manners.tombstones && cursor !== null ? ids.filter((id) => this.rows.get(id)!.item === null) : [],
    });
    yield page(found.slice(0, half));
    this.mischief('pull', 'after');
    yield { ...page(found.slice(half)), cursor: end };
  }
  async read(_collection: string, id: string): Promise<RecordItem | null> {
    this.mischief('read record', 'before');
    return structuredClone(this.rows.get(id)?.item ?? null);
  }
  async create(_collection: string, fields: FieldValues, key: string): Promise<RecordItem> {
    this.mischief('create record', 'before');
    const known = this.#manners.retries === 'key' ? [...this.rows].find(([, r]) => r.key === key && r.item !== null)?.[0] : undefined;
    const id = known ?? `made-${++this.#made}`;
    if (known === undefined) {
      this.put(id, fields);
      this.rows.get(id)!.key = key;
      this.writes.push({ side: 'record', call: 'create', id, key, before: null, after: JSON.stringify(this.rows.get(id)!.item!.fields) });
    }
    const made = structuredClone(this.rows.get(id)!.item!);
    this.mischief('create record', 'after');
    return made;
  }
  async change(_collection: string, from: RecordItem, fields: FieldValues): Promise<RecordItem> {
    this.mischief('change record', 'before');
    const now = this.rows.get(from.id)?.item ?? null;
    this.#match(from, now);
    const before = JSON.stringify(now!.fields);
    this.put(from.id, fields);
    this.writes.push({ side: 'record', call: 'change', id: from.id, key: '', before, after: JSON.stringify(this.rows.get(from.id)!.item!.fields) });
    const changed = structuredClone(this.rows.get(from.id)!.item!);
    this.mischief('change record', 'after');
    return changed;
  }
  async remove(_collection: string, from: RecordItem): Promise<void> {
    this.mischief('remove record', 'before');
    const now = this.rows.get(from.id)?.item ?? null;
    if (now !== null) {
      this.#match(from, now);
      this.drop(from.id);
      this.writes.push({ side: 'record', call: 'remove', id: from.id, key: '', before: JSON.stringify(now.fields), after: null });
    }
    this.mischief('remove record', 'after');
  }
  #match(from: RecordItem, now: RecordItem | null): void {
    if (now === null) throw new OutsideError('gone', 'it is gone');
    const same = this.#manners.versions
      ? now.version === from.version
      : JSON.stringify(Object.entries(now.fields).sort()) === JSON.stringify(Object.entries(from.fields).sort());
    if (!same) throw new OutsideError('changed meanwhile', 'it was changed');
  }
}
