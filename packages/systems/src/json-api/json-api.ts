import { type Collection, canonical, type FieldValues, type RecordItem, type ZoneTable } from '@monsoon/core';
import { failure } from '../http/answers.ts';
import type { Answer, Call } from '../http/call.ts';
import type { ProbeStep, RecordPage, Records } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import { failedStep } from '../probe-steps.ts';
import type { CollectionDescriptor, Descriptor, WriteDescriptor } from './descriptor.ts';
import { nextPage, type PageRequest } from './paging.ts';
import { at, readRecord } from './read-record.ts';
import { put, writeRecord } from './write-record.ts';

const MAX_PAGES = 100_000;

/** Most bytes of one page: JSON is parsed in one go, and must not hold up everything else. Pages have a few hundred records. */
const LARGEST_PAGE = 8 * 1024 * 1024;

/** Records behind any JSON API that a descriptor can describe. */
export class JsonApi implements Records {
  readonly #call: Call;
  readonly #base: string;
  readonly #descriptor: Descriptor;
  readonly #zones: ZoneTable;

  constructor(call: Call, base: string, descriptor: Descriptor, zones: ZoneTable) {
    this.#zones = zones;
    this.#call = call;
    this.#base = base.replace(/\/$/, '');
    this.#descriptor = descriptor;
  }

  async *probe(signal: AbortSignal): AsyncIterable<ProbeStep> {
    try {
      let first = true;
      for (const [name, collection] of Object.entries(this.#descriptor.collections)) {
        const page = await this.#page(collection, { parameters: {} }, {}, signal);
        if (first) {
          yield { name: 'reachable', outcome: 'ok', detail: `${this.#host} answers in JSON` };
          yield { name: 'credentials', outcome: 'ok', detail: 'accepted' };
          first = false;
        }
        yield {
          name: `collection ${name}`,
          ...describeSample(
            page.items,
            nextPage(collection.list.next, {
              ...page,
              pages: 1,
              records: page.items.length,
              count: page.items.length,
              size: collection.list.size?.value ?? null,
            }) !== null,
            collection,
          ),
        };
      }
    } catch (error) {
      yield failedStep(error);
    }
  }

  async describe(): Promise<Collection[]> {
    return Object.entries(this.#descriptor.collections).map(([name, c]) => ({
      name,
      label: c.label,
      fields: c.fields.map((f) => ({
        name: f.name,
        label: f.label ?? f.name,
        type: f.type,
        choices: f.choices,
        unit: f.unit,
        readOnly: f.readOnly === true || (c.create === undefined && c.change === undefined) ? true : undefined,
        limit: f.limit,
      })),
      may: { create: c.create !== undefined, change: c.change !== undefined, remove: c.remove !== undefined },
      retries: c.create?.key === undefined && c.create?.keyAt === undefined ? ('none' as const) : ('key' as const),
      stamps: { created: c.created !== undefined, modified: c.modified !== undefined },
    }));
  }

  async *pull(name: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    const collection = this.#collection(name);
    const { since, next, size } = collection.list;
    // Without tombstones only a whole listing shows what is no longer there.
    const telling = since !== undefined && (collection.deleted !== undefined || collection.list.deletions === 'daily') ? since : undefined;
    const base: Record<string, string> = cursor !== null && telling !== undefined ? { [telling.parameter]: lookBack(cursor, telling) } : {};
    let request: PageRequest = { parameters: {} };
    let newest = cursor;
    // Records changed while the pages were read may lie before the newest one seen: go no further than the clock at the start.
    let started: string | null = null;
    let records = 0;
    let before: string | null = null;
    for (let page = 0; page < MAX_PAGES; page++) {
      const { items, json, answer } = await this.#page(collection, request, base, signal);
      const date = Date.parse(answer.headers['date'] ?? '');
      if (page === 0 && !Number.isNaN(date)) started = new Date(date).toISOString();
      const result: RecordPage = { items: [], gone: [] };
      for (const raw of items) {
        const item = readRecord(raw, collection);
        if (item === undefined) throw new OutsideError('nonsense', `${this.#host} lists a record of ${name} without an id at ${collection.id}`);
        if (item.modified !== undefined && (newest === null || Date.parse(item.modified) > Date.parse(newest))) newest = item.modified;
        if (collection.deleted !== undefined && at(raw, collection.deleted) === true) result.gone.push(item.id);
        else result.items.push(item);
      }
      const first = [...result.items.map((i) => i.id), ...result.gone].join(' ');
      if (page > 0 && items.length > 0 && first === before)
        throw new OutsideError(
          'nonsense',
          `${this.#host} gives the same page of ${name} again: it does not know the parameter of the descriptor that asks for the next`,
        );
      before = first;
      records += items.length;
      const following = nextPage(next, { json, answer, pages: page + 1, records, count: items.length, size: size?.value ?? null });
      if (following === null) {
        const reached = newest !== null && started !== null && Date.parse(started) < Date.parse(newest) ? started : newest;
        yield { ...result, cursor: telling === undefined ? null : reached };
        return;
      }
      yield result;
      request = following;
    }
    throw new OutsideError('nonsense', `${this.#host} never comes to the last page of ${name}`);
  }

  async read(name: string, id: string, signal: AbortSignal): Promise<RecordItem | null> {
    return (await this.#readRaw(name, id, signal))?.item ?? null;
  }

  async #readRaw(name: string, id: string, signal: AbortSignal): Promise<{ item: RecordItem; raw: unknown } | null> {
    const collection = this.#collection(name);
    const answer = await this.#get(this.#address(withId(collection.read.path, id)), signal);
    if (answer.status === 404 || answer.status === 410) return null;
    if (answer.status !== 200) throw failure(answer, `reading ${name} ${id}`);
    const raw = at(this.#json(answer), collection.read.at ?? '');
    if (collection.deleted !== undefined && at(raw, collection.deleted) === true) return null;
    const item = readRecord(raw, collection, answer.headers['etag']);
    if (item === undefined) throw new OutsideError('nonsense', `${this.#host} sent ${name} ${id} without an id at ${collection.id}`);
    return { item, raw };
  }

  async create(name: string, fields: FieldValues, key: string, signal: AbortSignal): Promise<RecordItem> {
    const collection = this.#collection(name);
    if (collection.create === undefined) throw new OutsideError('refused', `${collection.label}: records cannot be made here`);
    const { method, path, key: header, keyAt } = collection.create;
    const body = this.#body(writeRecord(fields, null, collection, this.#zones), collection.create);
    if (keyAt !== undefined) put(body, keyAt, key);
    const answer = await this.#send(method, path, body, header === undefined ? {} : { [header]: key }, signal);
    if (answer.status < 200 || answer.status > 299) throw failure(answer, `making a record of ${collection.label}`);
    const made = this.#item(answer, collection, collection.create) ?? (await this.#located(name, answer, signal));
    if (made !== null) return made;
    throw new OutsideError('nonsense', `${this.#host} made a record of ${name} and did not say which`);
  }

  /** Some systems answer with nothing but the address of what was made (RFC 9110, 10.2.2). */
  async #located(name: string, answer: Answer, signal: AbortSignal): Promise<RecordItem | null> {
    const location = answer.headers['location'];
    if (location === undefined) return null;
    const id = new URL(location, answer.url).pathname
      .split('/')
      .filter((p) => p !== '')
      .at(-1);
    return id === undefined ? null : this.read(name, decodeURIComponent(id), signal);
  }

  async change(name: string, from: RecordItem, fields: FieldValues, signal: AbortSignal): Promise<RecordItem> {
    const collection = this.#collection(name);
    if (collection.change === undefined) throw new OutsideError('refused', `${collection.label}: records cannot be changed here`);
    const { method, path, ifMatch, whole } = collection.change;
    const ready = await this.#precondition(name, from, ifMatch, whole === true, signal);
    if (ready === null) throw new OutsideError('gone', `the record ${from.id} is gone`);
    const edits = writeRecord(fields, from, collection, this.#zones);
    const body = this.#body(whole === true ? over(ready.raw, edits) : edits, collection.change);
    const answer = await this.#send(method, withId(path, from.id), body, ready.headers, signal);
    if (answer.status < 200 || answer.status > 299) throw failure(answer, `changing ${name} ${from.id}`);
    const changed = this.#item(answer, collection, collection.change) ?? (await this.read(name, from.id, signal));
    if (changed === null) throw new OutsideError('gone', `the record ${from.id} is gone`);
    return changed;
  }

  /** The body of a write as the descriptor wraps it. */
  #body(fields: Record<string, unknown>, how: WriteDescriptor): Record<string, unknown> {
    const body = structuredClone(how.fixed ?? {});
    if (how.within === undefined || how.within === '') return { ...body, ...fields };
    put(body, how.within, fields);
    return body;
  }

  async remove(name: string, from: RecordItem, signal: AbortSignal): Promise<void> {
    const collection = this.#collection(name);
    if (collection.remove === undefined) throw new OutsideError('refused', `${collection.label}: records cannot be removed here`);
    const { method, path, ifMatch } = collection.remove;
    const ready = await this.#precondition(name, from, ifMatch, false, signal);
    if (ready === null) return;
    const answer = await this.#send(method, withId(path, from.id), undefined, ready.headers, signal);
    if (answer.status === 404 || answer.status === 410) return;
    if (answer.status < 200 || answer.status > 299) throw failure(answer, `removing ${name} ${from.id}`);
  }

  /**
   * The headers that make a write conditional. Where the system has no such thing, or the listing named no version, the
   * record is read and compared first; null when it is gone.
   *
   * @param whole the record as it is, is wanted too
   */
  async #precondition(name: string, from: RecordItem, ifMatch: boolean, whole: boolean, signal: AbortSignal) {
    const { etag } = this.#collection(name);
    const match = (version: string) => ({ 'if-match': etag === true ? version : `"${version}"` });
    if (ifMatch && from.version !== undefined && !whole) return { headers: match(from.version), raw: null };
    const now = await this.#readRaw(name, from.id, signal);
    if (now === null) return null;
    const same = from.version !== undefined ? now.item.version === from.version : canonical(now.item.fields) === canonical(from.fields);
    if (!same) throw new OutsideError('changed meanwhile', `the record ${from.id} was changed in the meantime`);
    const headers: Record<string, string> = ifMatch && now.item.version !== undefined ? match(now.item.version) : {};
    return { headers, raw: now.raw };
  }

  get #host(): string {
    return new URL(this.#base).host;
  }

  /** The record in an answer; undefined when there is none that can be read. */
  #item(answer: Answer, collection: CollectionDescriptor, how: WriteDescriptor): RecordItem | undefined {
    try {
      return readRecord(at(JSON.parse(answer.body.toString('utf8')), how.answerAt ?? ''), collection, answer.headers['etag']);
    } catch {
      return undefined;
    }
  }

  #send(method: string, path: string, body: unknown, headers: Record<string, string>, signal: AbortSignal): Promise<Answer> {
    return this.#call({
      method,
      url: this.#base + path,
      headers: { accept: 'application/json', ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      body: body === undefined ? undefined : JSON.stringify(body),
      signal,
    });
  }

  #collection(name: string): CollectionDescriptor {
    const found = Object.hasOwn(this.#descriptor.collections, name) ? this.#descriptor.collections[name] : undefined;
    if (found === undefined)
      throw new OutsideError('refused', `there is no collection "${name}"; there are ${Object.keys(this.#descriptor.collections).join(', ')}`);
    return found;
  }

  async #page(collection: CollectionDescriptor, request: PageRequest, base: Record<string, string>, signal: AbortSignal) {
    const { size, path, items, query: fixed } = collection.list;
    const answer = await this.#get(
      'url' in request ? this.#within(request.url) : this.#address(path, { ...fixed, ...sizeOf(size), ...base, ...request.parameters }),
      signal,
    );
    if (answer.status !== 200) throw failure(answer, `listing ${collection.label}`);
    const json = this.#json(answer);
    const found = at(json, items);
    // An answer without the list is not an empty list: taking it for one would look like a deletion of everything.
    if (!Array.isArray(found)) throw new OutsideError('nonsense', `${this.#host} sent no list at ${items || '/'} while listing ${collection.label}`);
    return { items: found as unknown[], json, answer };
  }

  #address(path: string, query: Record<string, string> = {}): string {
    const parameters = new URLSearchParams(query);
    return `${this.#base}${path}${parameters.size > 0 ? `?${parameters}` : ''}`;
  }

  /** The next page that an answer names, if it is of this system: credentials go nowhere else. */
  #within(url: string): string {
    if (new URL(url).origin !== new URL(this.#base).origin)
      throw new OutsideError('refused', `${this.#host} names a next page at ${new URL(url).origin}, which is another origin; it is not asked for`);
    return url;
  }

  #get(url: string, signal: AbortSignal): Promise<Answer> {
    return this.#call({ method: 'GET', url, headers: { accept: 'application/json' }, signal, limit: LARGEST_PAGE });
  }

  #json(answer: Answer): unknown {
    try {
      return JSON.parse(answer.body.toString('utf8'));
    } catch {
      throw new OutsideError('nonsense', `${this.#host} did not answer in JSON`);
    }
  }
}

const withId = (path: string, id: string) => path.replace('{id}', encodeURIComponent(id));

const sizeOf = (size: CollectionDescriptor['list']['size']): Record<string, string> =>
  size === undefined ? {} : { [size.parameter]: String(size.value) };

function lookBack(cursor: string, { overlap, as }: NonNullable<CollectionDescriptor['list']['since']>): string {
  const time = Date.parse(cursor) - overlap * 1000;
  if (as === 'seconds') return String(Math.floor(time / 1000));
  return as === 'milliseconds' ? String(time) : new Date(time).toISOString();
}

/** Edits laid over a record as it is. */
function over(raw: unknown, edits: Record<string, unknown>): Record<string, unknown> {
  if (raw === null || typeof raw !== 'object' || Array.isArray(raw)) return edits;
  const result: Record<string, unknown> = { ...raw };
  for (const [name, value] of Object.entries(edits)) {
    const nested = value !== null && typeof value === 'object' && !Array.isArray(value) && name in result;
    result[name] = nested ? over(result[name], value as Record<string, unknown>) : value;
  }
  return result;
}

function describeSample(items: unknown[], following: boolean, collection: CollectionDescriptor): Pick<ProbeStep, 'outcome' | 'detail'> {
  if (items.length === 0) return { outcome: 'warning', detail: `${collection.label}: no records to try the fields on` };
  const records = items.map((raw) => readRecord(raw, collection));
  if (records.includes(undefined)) return { outcome: 'failed', detail: `${collection.label}: no id at ${collection.id}` };
  const never = collection.fields.filter((f) => records.every((r) => r!.fields[f.name] === null)).map((f) => f.name);
  const more = following ? ' and more' : '';
  const { since, deletions } = collection.list;
  const reported =
    since === undefined
      ? 'found by listing everything'
      : `asked for by ${since.parameter}${collection.deleted !== undefined || deletions === 'daily' ? '' : ', and deletions found by listing everything'}`;
  const found = `${collection.label}: ${items.length} records${more}, ${collection.fields.length} fields; changes are ${reported}`;
  return never.length === 0
    ? { outcome: 'ok', detail: found }
    : { outcome: 'warning', detail: `${found}; always empty on this page: ${never.join(', ')}` };
}
