import {
  type Collection,
  editTask,
  type Field,
  type FieldValues,
  makeTask,
  type RecordItem,
  readTask,
  taskStatuses,
  UnreadableEvent,
  type ZoneTable,
} from '@monsoon/core';
import type { CalendarInfo, ProbeStep, RecordPage, Records, StoredEvent } from '../interfaces.ts';
import { OutsideError } from '../outside-error.ts';
import type { CalDav } from './caldav.ts';

const fields: Field[] = [
  { name: 'title', label: 'Title', type: 'text' },
  { name: 'description', label: 'Description', type: 'long text' },
  { name: 'start', label: 'Start', type: 'date-time' },
  { name: 'start day', label: 'Start day', type: 'date' },
  { name: 'due', label: 'Due', type: 'date-time' },
  { name: 'due day', label: 'Due day', type: 'date' },
  { name: 'status', label: 'Status', type: 'choice', choices: Object.values(taskStatuses) },
  { name: 'done', label: 'Done', type: 'yes/no' },
  { name: 'percent', label: 'Percent done', type: 'number' },
  { name: 'priority', label: 'Priority', type: 'number' },
  { name: 'location', label: 'Location', type: 'text' },
  { name: 'categories', label: 'Categories', type: 'choices' },
  { name: 'link', label: 'Link', type: 'web address' },
  { name: 'completed', label: 'Completed', type: 'date-time', readOnly: true },
];
/** Tasks read together. */
const PAGE = 200;

/** The task lists of a calendar server as collections: each task (VTODO) is a record, named by its file. */
export class Tasks implements Records {
  readonly #server: CalDav;
  readonly #zones: ZoneTable;
  #lists: { at: number; found: CalendarInfo[] } | null = null;

  constructor(server: CalDav, zones: ZoneTable) {
    this.#server = server;
    this.#zones = zones;
  }

  async #found(signal: AbortSignal, fresh = false): Promise<CalendarInfo[]> {
    if (fresh || this.#lists === null || Date.now() - this.#lists.at > 30_000)
      this.#lists = { at: Date.now(), found: await this.#server.taskLists(signal) };
    return this.#lists.found;
  }

  async #href(name: string, signal: AbortSignal): Promise<string> {
    const list = (await this.#found(signal)).find((l) => nameOf(l) === name) ?? (await this.#found(signal, true)).find((l) => nameOf(l) === name);
    if (list === undefined) throw new OutsideError('nonsense', `the calendar server has no task list "${name}" any more`);
    return list.href;
  }

  async *probe(signal: AbortSignal): AsyncIterable<ProbeStep> {
    try {
      const lists = await this.#found(signal, true);
      yield {
        name: 'task lists',
        outcome: 'ok',
        detail:
          lists.length === 0 ? 'none, which is fine where tasks are kept elsewhere' : `${lists.length} found: ${lists.map((l) => l.name).join(', ')}`,
      };
    } catch (error) {
      if (!(error instanceof OutsideError)) throw error;
      yield { name: 'task lists', outcome: 'failed', detail: error.message };
    }
  }

  async describe(): Promise<Collection[]> {
    return (await this.#found(AbortSignal.timeout(60_000), true)).map((l) => ({
      name: nameOf(l),
      label: l.name,
      fields: l.writable ? fields : fields.map((f) => ({ ...f, readOnly: true })),
      may: { create: l.writable, change: l.writable, remove: l.writable },
      retries: 'key',
      stamps: { created: true, modified: true },
    }));
  }

  async *pull(name: string, cursor: string | null, signal: AbortSignal): AsyncIterable<RecordPage> {
    const list = await this.#href(name, signal);
    for await (const page of this.#server.changes(list, cursor, signal)) {
      for (let at = 0; at < page.changed.length; at += PAGE) {
        const hrefs = page.changed.slice(at, at + PAGE).map((c) => c.href);
        const read = await this.#server.read(list, hrefs, signal);
        const items = [...read.values()].flatMap((stored) => (stored === null ? [] : (this.#item(stored) ?? [])));
        yield { items, gone: cursor === null ? [] : [...read].filter(([, stored]) => stored === null).map(([href]) => idOf(href)) };
      }
      const complete = page.complete && cursor !== null ? { complete: true as const } : {};
      yield {
        items: [],
        gone: cursor === null ? [] : page.removed.map(idOf),
        ...(page.cursor === undefined ? {} : { cursor: page.cursor, ...complete }),
      };
    }
  }

  /** Null for what is no task, and for what nobody can read. */
  #item(stored: StoredEvent): RecordItem | null {
    try {
      const task = readTask(stored.text, this.#zones);
      if (task === null) return null;
      return {
        id: idOf(stored.href),
        fields: task.fields,
        ...(stored.etag === null ? {} : { version: stored.etag }),
        ...(task.created === null ? {} : { created: task.created }),
        ...(task.modified === null ? {} : { modified: task.modified }),
        ...(task.repeats === null ? {} : { repeats: task.repeats }),
      };
    } catch (error) {
      if (error instanceof UnreadableEvent) return null;
      throw error;
    }
  }

  async #stored(list: string, id: string, signal: AbortSignal): Promise<StoredEvent | null> {
    const href = `${list}${id}`;
    return (await this.#server.read(list, [href], signal)).get(href) ?? null;
  }

  async read(name: string, id: string, signal: AbortSignal): Promise<RecordItem | null> {
    const stored = await this.#stored(await this.#href(name, signal), id, signal);
    return stored === null ? null : this.#item(stored);
  }

  async create(name: string, values: FieldValues, key: string, signal: AbortSignal): Promise<RecordItem> {
    const list = await this.#href(name, signal);
    const href = await this.#server
      .create(list, key, makeTask(key, values, { zones: this.#zones, now: new Date().toISOString() }), signal)
      .then((made) => made.href)
      .catch((error: unknown) => {
        // An earlier attempt under this key made it.
        if (error instanceof OutsideError && error.trouble === 'exists') return error.href ?? this.#server.hrefFor(list, key);
        throw error;
      });
    const made = await this.read(name, idOf(href), signal);
    if (made === null) throw new OutsideError('nonsense', `the calendar server made a task and does not show it`);
    return made;
  }

  async change(name: string, from: RecordItem, values: FieldValues, signal: AbortSignal): Promise<RecordItem> {
    const list = await this.#href(name, signal);
    const stored = await this.#stored(list, from.id, signal);
    if (stored === null) throw new OutsideError('gone', `the task ${from.id} is gone`);
    if (stored.etag !== (from.version ?? null) || stored.etag === null)
      throw new OutsideError('changed meanwhile', `the task ${from.id} was changed in the meantime`);
    await this.#server.change(stored.href, stored.etag, editTask(stored.text, values, { zones: this.#zones, now: new Date().toISOString() }), signal);
    const changed = await this.read(name, from.id, signal);
    if (changed === null) throw new OutsideError('gone', `the task ${from.id} is gone`);
    return changed;
  }

  async remove(name: string, from: RecordItem, signal: AbortSignal): Promise<void> {
    await this.#server.remove(`${await this.#href(name, signal)}${from.id}`, from.version ?? '', signal);
  }
}

const nameOf = (list: CalendarInfo): string => decodeURIComponent(list.href.split('/').at(-2) ?? list.href);
const idOf = (href: string): string => href.slice(href.lastIndexOf('/') + 1);
