import { appendFileSync, closeSync, existsSync, fsyncSync, mkdirSync, openSync, readFileSync, renameSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';

export interface Row {
  id: string;
  created_at: string;
  updated_at: string;
  deleted: boolean;
  [field: string]: unknown;
}

export interface Hook {
  id: string;
  url: string;
  secret: string;
  /** the kinds of events it wants; all of them unless said */
  events?: string[] | undefined;
}

type Entry = { kind: string; row: Row; key?: string | undefined } | { hook: Hook } | { unhook: string };

/** A stand-in's records in one file: a line of JSON for each change, the last one of an id counts. */
export class Store<Kind extends string> {
  readonly hooks = new Map<string, Hook>();
  /** with the letters that the ids of each kind begin with */
  readonly #kinds: Record<Kind, string>;
  readonly #file: string;
  readonly #rows = new Map<string, Map<string, Row>>();
  readonly #keys = new Map<string, string>();
  #last = 0;

  constructor(file: string, kinds: Record<Kind, string>) {
    this.#file = file;
    this.#kinds = kinds;
    for (const kind of Object.keys(kinds)) this.#rows.set(kind, new Map());
    mkdirSync(dirname(file), { recursive: true });
    if (!existsSync(file)) return;
    for (const line of readFileSync(file, 'utf8').split('\n')) {
      // A line cut off by a crash was never acknowledged to anybody.
      if (line.endsWith('}')) this.#take(JSON.parse(line) as Entry);
    }
    this.#compact();
  }

  get empty(): boolean {
    return [...this.#rows.values()].every((rows) => rows.size === 0);
  }

  get(kind: Kind, id: string): Row | undefined {
    return this.#rows.get(kind)!.get(id);
  }

  all(kind: Kind): Row[] {
    return [...this.#rows.get(kind)!.values()];
  }

  /** Strictly growing, so that "changed since" never skips one. */
  now(): string {
    this.#last = Math.max(this.#last + 1, Date.now());
    return new Date(this.#last).toISOString();
  }

  nextId(kind: Kind): string {
    const prefix = this.#kinds[kind];
    const numbers = this.all(kind).map((r) => Number(r.id.split('-')[1]) || 0);
    return `${prefix}-${numbers.reduce((a, b) => Math.max(a, b), 1000) + 1}`;
  }

  put(kind: Kind, row: Row, key?: string): void {
    this.#write({ kind, row, key });
  }

  /** The record that an earlier request with this idempotency key made. */
  madeWith(kind: Kind, key: string): Row | undefined {
    const id = this.#keys.get(`${kind} ${key}`);
    return id === undefined ? undefined : this.get(kind, id);
  }

  load(rows: { kind: string; row: Row }[]): void {
    for (const entry of rows) this.#take(entry);
    this.#compact();
  }

  hook(hook: Hook): void {
    this.#write({ hook });
  }

  unhook(id: string): void {
    this.#write({ unhook: id });
  }

  #write(entry: Entry): void {
    appendFileSync(this.#file, `${JSON.stringify(entry)}\n`);
    this.#take(entry);
  }

  #take(entry: Entry): void {
    if ('hook' in entry) this.hooks.set(entry.hook.id, entry.hook);
    else if ('unhook' in entry) this.hooks.delete(entry.unhook);
    else {
      this.#rows.get(entry.kind)?.set(entry.row.id, entry.row);
      if (entry.key !== undefined) this.#keys.set(`${entry.kind} ${entry.key}`, entry.row.id);
      this.#last = Math.max(this.#last, Date.parse(entry.row.updated_at));
    }
  }

  #compact(): void {
    const keyOf = new Map([...this.#keys].map(([key, id]) => [`${key.split(' ')[0]} ${id}`, key.slice(key.indexOf(' ') + 1)]));
    const entries: Entry[] = [
      ...(Object.keys(this.#kinds) as Kind[]).flatMap((kind) => this.all(kind).map((row) => ({ kind, row, key: keyOf.get(`${kind} ${row.id}`) }))),
      ...[...this.hooks.values()].map((hook) => ({ hook })),
    ];
    const fresh = `${this.#file}.new`;
    const handle = openSync(fresh, 'w', 0o600);
    writeSync(handle, entries.map((e) => `${JSON.stringify(e)}\n`).join(''));
    fsyncSync(handle);
    closeSync(handle);
    renameSync(fresh, this.#file);
  }
}
