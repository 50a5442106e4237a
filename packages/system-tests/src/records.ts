import assert from 'node:assert/strict';
import { randomUUID } from 'node:crypto';
import type { RecordItem } from '@monsoon/core';
import { OutsideError, type Records } from '@monsoon/systems';
import { collect } from './collect.ts';

/** What a kind of record system brings to be tested: one collection of its real counterpart, and a back door to it. */
export interface RecordHarness {
  records: Records;
  /** the same with credentials that are not accepted; null where there are none */
  stranger: Records | null;
  collection: string;
  /** a text field that the back door can write */
  field: string;
  make(text: string): Promise<string>;
  change(id: string, text: string): Promise<void>;
  remove(id: string): Promise<void>;
  close(): Promise<void>;
}

/**
 * The definition of a record system: a kind that passes may be connected. Each test opens its own instance. Needs mocha's
 * `describe` and `it`.
 */
export function recordAcceptance(name: string, open: () => Promise<RecordHarness>): void {
  describe(`${name} as a record system`, () => {
    let harness: RecordHarness;
    const signal = new AbortController().signal;
    const pull = async (cursor: string | null) => {
      const items = new Map<string, RecordItem>();
      const listed: string[] = [];
      const gone = new Set<string>();
      let next: string | null | undefined;
      let complete = cursor === null;
      for await (const page of harness.records.pull(harness.collection, cursor, signal)) {
        for (const item of page.items) {
          items.set(item.id, item);
          listed.push(item.id);
        }
        for (const id of page.gone) gone.add(id);
        next = page.cursor;
        complete ||= page.complete === true;
      }
      assert.notEqual(next, undefined, 'the last page says where to go on');
      return { items, listed, gone, complete, cursor: next ?? null };
    };
    const may = async () => (await harness.records.describe()).find((c) => c.name === harness.collection)!;
    beforeEach(async () => {
      harness = await open();
    });
    afterEach(() => harness?.close());

    it('describes its collections with typed fields', async () => {
      const described = (await harness.records.describe()).find((c) => c.name === harness.collection);
      assert.ok(described?.fields.some((f) => f.name === harness.field));
      assert.equal(new Set(described?.fields.map((f) => f.name)).size, described?.fields.length);
    });

    it('shows step by step what it found', async () => {
      await harness.make('to be seen');
      const steps = await collect(harness.records.probe(signal));
      assert.ok(steps.length > 0 && steps.every((s) => s.outcome !== 'failed'));
    });

    it('tells a stranger at which step it failed', async function () {
      if (harness.stranger === null) return this.skip();
      const refused = await collect(harness.stranger.probe(signal));
      assert.equal(refused.at(-1)?.outcome, 'failed');
    });

    it('lists every record once, over as many pages as it takes', async () => {
      const made = [];
      for (let i = 0; i < 7; i++) made.push(await harness.make(`record ${i}`));
      const { items, listed } = await pull(null);
      assert.equal(listed.length, new Set(listed).size, 'a listing at rest names each record once');
      for (const [i, id] of made.entries()) assert.equal(items.get(id)?.fields[harness.field], `record ${i}`);
    });

    it('reads one record as it is now, and null for one that is not', async () => {
      const id = await harness.make('one, two; "three" ü 🎹');
      assert.equal((await harness.records.read(harness.collection, id, signal))?.fields[harness.field], 'one, two; "three" ü 🎹');
      assert.equal(await harness.records.read(harness.collection, 'no-such-record', signal), null);
    });

    it('reports what changed since: made, changed and deleted', async () => {
      const changed = await harness.make('before');
      const removed = await harness.make('short-lived');
      const { cursor } = await pull(null);
      const made = await harness.make('new');
      await harness.change(changed, 'after');
      await harness.remove(removed);
      const news = await pull(cursor);
      assert.equal(news.items.get(changed)?.fields[harness.field], 'after');
      assert.equal(news.items.get(made)?.fields[harness.field], 'new');
      assert.ok(!news.items.has(removed));
      assert.ok(news.complete || news.gone.has(removed), 'a deletion is told, or everything is listed');
      assert.equal(await harness.records.read(harness.collection, removed, signal), null);
    });

    it('tells nothing else when nothing changed, and tells a change that came right after', async function () {
      const quiet = await harness.make('at rest');
      const { cursor, items } = await pull(null);
      if (cursor === null) return this.skip();
      const again = await pull(cursor);
      assert.ok(again.cursor !== null);
      // A look may repeat what was listed just before; it says the same of it.
      for (const [id, item] of again.items) assert.deepEqual(item.fields, items.get(id)?.fields);
      assert.equal(again.gone.size, 0);
      await harness.change(quiet, 'changed at once');
      const news = await pull(again.cursor);
      assert.equal(news.items.get(quiet)?.fields[harness.field], 'changed at once');
    });

    it('loses nothing that is written while it is being listed', async () => {
      for (let i = 0; i < 7; i++) await harness.make(`record ${i}`);
      const during: string[] = [];
      const listed = new Map<string, RecordItem>();
      let cursor: string | null | undefined = null;
      for await (const page of harness.records.pull(harness.collection, null, signal)) {
        for (const item of page.items) listed.set(item.id, item);
        during.push(await harness.make('in between'));
        cursor = page.cursor ?? cursor;
      }
      for (const [id, item] of (await pull(cursor)).items) listed.set(id, item);
      assert.ok(during.length > 0);
      for (const id of during) assert.equal(listed.get(id)?.fields[harness.field], 'in between');
    });

    it('makes a record as it was asked', async function () {
      if (!(await may()).may.create) return this.skip();
      const made = await harness.records.create(harness.collection, { [harness.field]: 'made here' }, randomUUID(), signal);
      assert.equal(made.fields[harness.field], 'made here');
      assert.deepEqual((await harness.records.read(harness.collection, made.id, signal))?.fields, made.fields);
    });

    it('makes a record once, however often it is asked under the same key', async function () {
      const described = await may();
      if (!described.may.create || described.retries !== 'key') return this.skip();
      const key = randomUUID();
      const made = await harness.records.create(harness.collection, { [harness.field]: 'made here' }, key, signal);
      const again = await harness.records.create(harness.collection, { [harness.field]: 'made here' }, key, signal);
      assert.equal(again.id, made.id);
      const { items } = await pull(null);
      assert.equal([...items.values()].filter((item) => item.fields[harness.field] === 'made here').length, 1);
    });

    it('changes and removes only what is as it was read, and nothing else in it', async function () {
      const described = await may();
      if (!described.may.change || !described.may.remove) return this.skip();
      const id = await harness.make('first');
      const read = (await harness.records.read(harness.collection, id, signal))!;
      const changed = await harness.records.change(harness.collection, read, { [harness.field]: 'second' }, signal);
      // What the system writes by itself, such as the time of the change, may move.
      const own = new Set(described.fields.filter((f) => f.readOnly === true).map((f) => f.name));
      const ours = (fields: RecordItem['fields']) => Object.fromEntries(Object.entries(fields).filter(([name]) => !own.has(name)));
      assert.deepEqual(ours(changed.fields), ours({ ...read.fields, [harness.field]: 'second' }));
      const stale = (e: unknown) => e instanceof OutsideError && e.trouble === 'changed meanwhile';
      await assert.rejects(() => harness.records.change(harness.collection, read, { [harness.field]: 'late' }, signal), stale);
      await harness.change(id, 'by somebody else');
      await assert.rejects(() => harness.records.remove(harness.collection, changed, signal), stale);
      const now = (await harness.records.read(harness.collection, id, signal))!;
      assert.equal(now.fields[harness.field], 'by somebody else');
      await harness.records.remove(harness.collection, now, signal);
      assert.equal(await harness.records.read(harness.collection, id, signal), null);
      await harness.records.remove(harness.collection, now, signal);
      await assert.rejects(
        () => harness.records.change(harness.collection, now, { [harness.field]: 'gone' }, signal),
        (e: unknown) => e instanceof OutsideError && e.trouble === 'gone',
      );
    });

    it('fails plainly for a stranger', async function () {
      const { stranger } = harness;
      if (stranger === null) return this.skip();
      await assert.rejects(
        async () => {
          for await (const _ of stranger.pull(harness.collection, null, signal)) assert.fail('a stranger sees records');
        },
        (e: unknown) => e instanceof OutsideError && e.trouble === 'not authorised',
      );
    });
  });
}
