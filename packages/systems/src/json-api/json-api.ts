import { type Collection, canonical, type FieldValues, type RecordItem, type ZoneTable } from '@monsoon/core';
import { failure } from '../http/answers.ts';
import type { Answer, Call } from '../http/call.ts';
import type { ProbeStep, RecordPage, Records } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import type { CollectionDescriptor, Descriptor } from './descriptor.ts';
import { at, readRecord } from './read-record.ts';
import { writeRecord } from './write-record.ts';

const MAX_PAGES = 100_000;

/** Records behind any JSON API that a descriptor can tell. */
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
        const page = await this.#page(collection, {}, signal);
        if (first) {
          yield { name: 'reachable', outcome: 'ok', detail: `${new URL(this.#base).host} answers in JSON` };
          yield { name: 'credentials', outcome: 'ok', detail: 'accepted' };
          first = false;
        }
        yield { name: `collection ${name}`, ...describeSample(page.items, page.json, collection) };
      }
    } catch (error) {
      if (!(error instanceof OutsideError)) throw error;
      yield { name: error.trouble === 'not authorised' ? 'credentials' : 'reachable', outcome: 'failed', detail: error.message };
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
      retries: c.create?.key === undefined ? ('none' as const) : ('key' as const),
    }));
  }

  async *pull(name: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    const collection = this.#collection(name);
    const { since, next } = collection.list;
    const base: Record<string, string> = cursor !== null && since !== undefined ? { [since.parameter]: lookBack(cursor, since.overlap) } : {};
    let parameters = base;
    let newest = cursor;
    // Records changed while the pages were read may lie before the newest one seen: go no further than the clock at the start.
    let started: string | null = null;
    for (let page = 0; page < MAX_PAGES; page++) {
      const { items, json, answer } = await this.#page(collection, parameters, signal);
      const date = Date.parse(answer.headers['date'] ?? '');
      if (page === 0 && !Number.isNaN(date)) started = new Date(date).toISOString();
      const result: RecordPage = { items: [], gone: [] };
      for (const raw of items) {
        const item = readRecord(raw, collection);
        if (item === undefined)
          throw new OutsideError('nonsense', `${new URL(this.#base).host} lists a record of ${name} without an id at ${collection.id}`);
        if (item.modified !== undefined && (newest === null || Date.parse(item.modified) > Date.parse(newest))) newest = item.modified;
        if (collection.deleted !== undefined && at(raw, collection.deleted) === true) result.gone.push(item.id);
        else result.items.push(item);
      }
      const following = next === undefined ? undefined : at(json, next.at);
      if (following === undefined || following === null || following === '') {
        const reached = newest !== null && started !== null && Date.parse(started) < Date.parse(newest) ? started : newest;
        yield { ...result, cursor: since === undefined ? null : reached };
        return;
      }
      yield result;
      parameters = { ...base, [next!.parameter]: String(following) };
    }
    throw new OutsideError('nonsense', `${new URL(this.#base).host} never comes to the last page of ${name}`);
  }

  async read(name: string, id: string, signal: AbortSignal): Promise<RecordItem | null> {
    const collection = this.#collection(name);
    const answer = await this.#get(withId(collection.read.path, id), signal);
    if (answer.status === 404 || answer.status === 410) return null;
    if (answer.status !== 200) throw failure(answer, `reading ${name} ${id}`);
    const raw = this.#json(answer);
    if (collection.deleted !== undefined && at(raw, collection.deleted) === true) return null;
    const item = readRecord(raw, collection);
    if (item === undefined) throw new OutsideError('nonsense', `${new URL(this.#base).host} sent ${name} ${id} without an id at ${collection.id}`);
    return item;
  }

  async create(name: string, fields: FieldValues, key: string, signal: AbortSignal): Promise<RecordItem> {
    const collection = this.#collection(name);
    if (collection.create === undefined) throw new OutsideError('refused', `${collection.label}: records cannot be made here`);
    const { method, path, key: header } = collection.create;
    const answer = await this.#send(
      method,
      path,
      writeRecord(fields, null, collection, this.#zones),
      header === undefined ? {} : { [header]: key },
      signal,
    );
    if (answer.status < 200 || answer.status > 299) throw failure(answer, `making a record of ${collection.label}`);
    const made = this.#item(answer, collection) ?? null;
    if (made !== null) return made;
    throw new OutsideError('nonsense', `${this.#host} made a record of ${name} and did not say which`);
  }

  async change(name: string, from: RecordItem, fields: FieldValues, signal: AbortSignal): Promise<RecordItem> {
    const collection = this.#collection(name);
    if (collection.change === undefined) throw new OutsideError('refused', `${collection.label}: records cannot be changed here`);
    const { method, path, ifMatch } = collection.change;
    const headers = await this.#precondition(name, from, ifMatch, signal);
    if (headers === null) throw new OutsideError('gone', `the record ${from.id} is gone`);
    const answer = await this.#send(method, withId(path, from.id), writeRecord(fields, from, collection, this.#zones), headers, signal);
    if (answer.status < 200 || answer.status > 299) throw failure(answer, `changing ${name} ${from.id}`);
    const changed = this.#item(answer, collection) ?? (await this.read(name, from.id, signal));
    if (changed === null) throw new OutsideError('gone', `the record ${from.id} is gone`);
    return changed;
  }

  async remove(name: string, from: RecordItem, signal: AbortSignal): Promise<void> {
    const collection = this.#collection(name);
    if (collection.remove === undefined) throw new OutsideError('refused', `${collection.label}: records cannot be removed here`);
    const { method, path, ifMatch } = collection.remove;
    const headers = await this.#precondition(name, from, ifMatch, signal);
    if (headers === null) return;
    const answer = await this.#send(method, withId(path, from.id), undefined, headers, signal);
    if (answer.status === 404 || answer.status === 410) return;
    if (answer.status < 200 || answer.status > 299) throw failure(answer, `removing ${name} ${from.id}`);
  }

  /**
   * The headers that make a write conditional. Where the system has no such thing, the record is read and compared
   * first; null when it is gone.
   */
  async #precondition(name: string, from: RecordItem, ifMatch: boolean, signal: AbortSignal): Promise<Record<string, string> | null> {
    if (ifMatch && from.version !== undefined) return { 'if-match': `"${from.version}"` };
    const now = await this.read(name, from.id, signal);
    if (now === null) return null;
    const same = from.version !== undefined ? now.version === from.version : canonical(now.fields) === canonical(from.fields);
    if (!same) throw new OutsideError('changed meanwhile', `the record ${from.id} was changed in the meantime`);
    return {};
  }

  get #host(): string {
    return new URL(this.#base).host;
  }

  /** The record in an answer; undefined when there is none that can be read. */
  #item(answer: Answer, collection: CollectionDescriptor): RecordItem | undefined {
    try {
      return readRecord(JSON.parse(answer.body.toString('utf8')), collection);
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

  async #page(collection: CollectionDescriptor, parameters: Record<string, string>, signal: AbortSignal) {
    const { size, path, items } = collection.list;
    const query = new URLSearchParams({ ...(size === undefined ? {} : { [size.parameter]: String(size.value) }), ...parameters });
    const answer = await this.#get(query.size > 0 ? `${path}?${query}` : path, signal);
    if (answer.status !== 200) throw failure(answer, `listing ${collection.label}`);
    const json = this.#json(answer);
    const found = at(json, items);
    // An answer without the list is not an empty list: taking it for one would look like a deletion of everything.
    if (!Array.isArray(found))
      throw new OutsideError('nonsense', `${new URL(this.#base).host} sent no list at ${items || '/'} while listing ${collection.label}`);
    return { items: found as unknown[], json, answer };
  }

  #get(path: string, signal: AbortSignal): Promise<Answer> {
    return this.#call({ method: 'GET', url: this.#base + path, headers: { accept: 'application/json' }, signal });
  }

  #json(answer: Answer): unknown {
    try {
      return JSON.parse(answer.body.toString('utf8'));
    } catch {
      throw new OutsideError('nonsense', `${new URL(this.#base).host} did not answer in JSON`);
    }
  }
}

const withId = (path: string, id: string) => path.replace('{id}', encodeURIComponent(id));

const lookBack = (cursor: string, seconds: number) => new Date(Date.parse(cursor) - seconds * 1000).toISOString();

function describeSample(items: unknown[], json: unknown, collection: CollectionDescriptor): Pick<ProbeStep, 'outcome' | 'detail'> {
  if (items.length === 0) return { outcome: 'warning', detail: `${collection.label}: no records to try the fields on` };
  const records = items.map((raw) => readRecord(raw, collection));
  if (records.includes(undefined)) return { outcome: 'failed', detail: `${collection.label}: no id at ${collection.id}` };
  const never = collection.fields.filter((f) => records.every((r) => r!.fields[f.name] === null)).map((f) => f.name);
  const more = collection.list.next !== undefined && at(json, collection.list.next.at) ? ' and more' : '';
  const found = `${collection.label}: ${items.length} records${more}, ${collection.fields.length} fields`;
  return never.length === 0
    ? { outcome: 'ok', detail: found }
    : { outcome: 'warning', detail: `${found}; always empty on this page: ${never.join(', ')}` };
}
