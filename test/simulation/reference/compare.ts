import type { LaneDefinition, Pair } from '@monsoon/core';
import { Broken } from '../checker.ts';
import type { MemoryStore } from '../memory-store.ts';
import type { MemoryCalendar, MemoryRecords } from '../memory-systems.ts';
import { OWN } from './judge.ts';
import { type Fields, fieldsOf } from './maps.ts';
import type { Ended, ModelPair, Sides } from './pairs.ts';
import { type EventSeen, readEvent, same, type Value, type Values } from './values.ts';

/** Something that the engine left behind is not what the model allows. */
export function wrong(rule: string, what: string): never {
  throw new Broken(rule, what);
}

/** A run that has ended, with what stood there before it, and what the model allows of it. */
export interface RunLook {
  lane: LaneDefinition;
  before: Sides;
  allowed: Ended;
  /** the events' texts before it */
  texts: ReadonlyMap<string, string>;
  /** how many entries the journal had before it */
  journalled: number;
  /** moments of records that were looked at twice: more may be said of them already */
  looked: ReadonlySet<string>;
  /** after a look at changes: what was said before; null: everything was looked at */
  saidBefore: ReadonlyMap<string, string> | null;
}

/** What stands on both sides, and what Monsoon remembers of it, beside what the model allows. */
export class Comparison {
  readonly calendar: MemoryCalendar;
  readonly records: MemoryRecords;
  readonly store: MemoryStore;

  constructor(calendar: MemoryCalendar, records: MemoryRecords, store: MemoryStore) {
    this.calendar = calendar;
    this.records = records;
    this.store = store;
  }

  sides(): Sides {
    return {
      records: new Map(
        this.records
          .live()
          .map((r) => [r.id, { fields: fieldsOf(r.fields), created: Date.parse(r.created!) / 1000, modified: Date.parse(r.modified!) / 1000 }]),
      ),
      events: new Map([...this.calendar.events].map(([href, e]) => [href, readEvent(e.text)])),
    };
  }

  storedPair(pair: ModelPair): Pair | undefined {
    const all = this.store.all;
    return (
      all.find((p) => pair.record !== null && p.recordId === pair.record && p.moment === pair.moment) ??
      all.find((p) => pair.record === null && p.recordId === null && p.href === pair.event)
    );
  }

  /** Everything that a run left behind. The pairs of the model then go by the names that items were given. @throws Broken */
  compareRun({ lane, before, allowed, texts, journalled, looked, saidBefore }: RunLook): void {
    const after = this.sides();
    // What was made has names by now.
    const nameOf = new Map<string, string>();
    for (const pair of allowed.pairs) {
      const stored = this.storedPair({ ...pair, record: pair.record?.startsWith('new ') ? null : pair.record });
      const made = pair.record?.startsWith('new ') ? this.store.all.find((p) => p.href === pair.event && p.recordId !== null)?.recordId : undefined;
      if (made != null) nameOf.set(pair.record!, made);
      if (pair.event?.startsWith('new ') && stored?.href != null) nameOf.set(pair.event, stored.href);
    }
    const named = (name: string) => nameOf.get(name) ?? name;
    const records = new Map([...allowed.records].map(([id, f]) => [named(id), f]));
    const events = new Map([...allowed.events].map(([href, e]) => [named(href), e]));
    this.#sameItems('record', records, new Map([...after.records].map(([id, r]) => [id, r.fields])));
    this.#sameItems('event', events, new Map([...after.events].map(([href, e]) => [href, e.values])));
    for (const [href, text] of texts) this.#sameRest(href, readEvent(text), after.events.get(href), text);
    for (const pair of allowed.pairs) {
      if (pair.record !== null) pair.record = named(pair.record);
      if (pair.event !== null) pair.event = named(pair.event);
    }
    this.#comparePairs(allowed);
    this.#compareReasons({ allowed, looked, saidBefore }, named);
    this.#compareJournal(before, after, journalled);
    for (const pair of allowed.pairs) {
      pair.uid = after.events.get(pair.event ?? '')?.uid ?? pair.uid;
      if (pair.base === null || pair.seen !== true) continue;
      pair.base.repeats = after.events.get(pair.event!)?.repeats;
      const marked = after.events.get(pair.event!)?.marked ?? null;
      pair.base.mark = marked === OWN ? null : marked;
      // What is still open was edited since: a later version of the lane shows nothing differently there.
      // What it shows differently itself stays its doing.
      if (pair.loose !== true) pair.base.lane = lane;
      else if (pair.redefined !== true) pair.base.lane = undefined;
      pair.base.fields = pair.merged ?? after.records.get(pair.record!)?.fields;
      pair.base.stamps = { record: after.records.get(pair.record!)?.modified ?? null, event: after.events.get(pair.event!)?.modified ?? null };
    }
  }

  #sameItems(side: 'record' | 'event', allowed: ReadonlyMap<string, Values | Fields>, actual: ReadonlyMap<string, Values | Fields>): void {
    for (const [name, values] of allowed) {
      const there = actual.get(name);
      if (there === undefined) wrong('agreement', `the ${side} ${name} should be there: ${JSON.stringify(values)}`);
      for (const property of new Set([...Object.keys(values), ...Object.keys(there)])) {
        if (same(values[property] as Value, there[property] as Value) || property === 'conference' || property === 'colour') continue;
        wrong(
          property === 'when' ? 'time is exact' : 'agreement',
          `${side} ${name}: ${property} should be ${JSON.stringify(values[property])}, and is ${JSON.stringify(there[property])}`,
        );
      }
    }
    for (const name of actual.keys()) if (!allowed.has(name)) wrong('no removal without leave', `the ${side} ${name} should not be there`);
  }

  /** Lines that cannot be mapped, and guests who stay, are unchanged. */
  #sameRest(href: string, was: EventSeen, is: EventSeen | undefined, text: string): void {
    if (is === undefined) return;
    if (JSON.stringify(was.rest) !== JSON.stringify(is.rest))
      wrong('nothing else touched', `${href}: ${was.rest.join(' | ')} became ${is.rest.join(' | ')}`);
    const now = this.calendar.events.get(href)!.text;
    for (const [line, email] of text.matchAll(/^ATTENDEE.*:mailto:(.*?)\r?$/gm))
      if ((is.values['attendees'] as string[] | null)?.includes(email!.toLowerCase()) && !now.includes(line.trim()))
        wrong('nothing else touched', `${href}: the guest ${email} is not as they were`);
  }

  #comparePairs(allowed: Ended): void {
    for (const pair of allowed.pairs) {
      const stored = this.storedPair(pair);
      const state = stored?.state ?? 'removed';
      if (state !== pair.state && !(pair.state === 'removed' && stored === undefined))
        wrong('everything explained', `the pair of ${pair.record ?? pair.event} (${pair.moment}) should be ${pair.state}, and is ${state}`);
      const open = this.store.questions.find((q) => q.pair === stored?.id && (q.state === 'open' || q.state === 'settled'))?.question ?? null;
      if (open !== (pair.question?.asks ?? null))
        wrong(
          'everything explained',
          `of ${pair.record ?? pair.event} (${pair.moment}) it should be asked: ${pair.question?.asks ?? 'nothing'}; it is asked: ${open ?? 'nothing'}`,
        );
    }
    const known = new Set(allowed.pairs.map((p) => this.storedPair(p)?.id));
    for (const stored of this.store.all)
      if (!known.has(stored.id) && stored.state !== 'removed')
        wrong('everything explained', `a pair of ${stored.recordId ?? stored.href} stands as ${stored.state}, and none should`);
  }

  /** Why items do not cross, as the engine has said it so far. */
  reasons(): ReadonlyMap<string, string> {
    return new Map(this.store.verdicts.map((v) => [v.recordId === null ? v.href! : `${v.recordId} ${v.moment}`, v.verdict!.reason]));
  }

  #compareReasons(
    { allowed, looked, saidBefore: before }: Pick<RunLook, 'allowed' | 'looked' | 'saidBefore'>,
    named: (name: string) => string,
  ): void {
    // An unchanged item that did not cross gets a reason that depends on the clock alone, or on another item, with the next sweep.
    const waits = (key: string) =>
      before !== null && before.get(key) === is.get(key) && /out of the window|duplicate UID/.test(should.get(key) ?? '');
    const nameOf = (key: string) => (key.startsWith('/c/') ? named(key) : key.replace(/.*(?= )/, named));
    const should = new Map([...allowed.reasons].map(([key, reason]) => [nameOf(key), reason]));
    const is = this.reasons();
    for (const key of new Set([...should.keys(), ...is.keys()]))
      if (
        !looked.has(key) &&
        should.get(key) !== is.get(key) &&
        !(is.get(key) === undefined && allowed.quiet.has(key)) &&
        is.get(key) !== allowed.maybe.get(key) &&
        !waits(key)
      )
        wrong('everything explained', `of ${key} it should be said: ${should.get(key) ?? 'nothing'}; it is said: ${is.get(key) ?? 'nothing'}`);
  }

  /** Each value that changed is in the journal with what it was, and nothing else is said to have been written. */
  #compareJournal(before: Sides, after: Sides, journalled: number): void {
    const entries = this.store.journal.slice(journalled);
    for (const [href, e] of after.events) {
      const old = before.events.get(href);
      if (old === undefined || same(old.values, e.values)) continue;
      const noted = entries
        .filter((x) => x.pair.href === href)
        .flatMap((x) => x.changes.filter((c) => c.side === 'event' && c.seen !== true).map((c) => c.property));
      for (const property of Object.keys(e.values))
        if (!same(old.values[property], e.values[property]) && !noted.includes(property))
          wrong('everything explained', `${href}: ${property} changed, and the journal does not say so`);
    }
    for (const [id, r] of after.records) {
      const old = before.records.get(id);
      if (old === undefined) continue;
      const noted = entries.filter((x) => x.pair.recordId === id).flatMap((x) => x.changes.filter((c) => c.side === 'record' && c.seen !== true));
      for (const field of Object.keys(r.fields)) {
        const differs = !same(old.fields[field] as Value, r.fields[field] as Value);
        const steps = noted.filter((c) => c.property === field);
        if (differs && steps.length === 0) wrong('everything explained', `${id}: ${field} changed, and the journal does not say so`);
        // What one moment of the record writes, another may write back in the same run.
        if (!differs && steps.length === 1) wrong('everything explained', `${id}: the journal says that ${field} changed, and it did not`);
      }
    }
    for (const href of before.events.keys())
      if (!after.events.has(href) && !entries.some((e) => e.removed?.includes('BEGIN:VEVENT')))
        wrong('everything explained', `${href} was removed, and the journal does not keep it`);
  }

  /** A run does what was foreseen, operation by operation. */
  compareForecast(operations: { kind: string; pair: Pair; changes: unknown[] }[], journalled: number): void {
    const say = (kind: string, pair: Pair, changes: unknown[]) =>
      JSON.stringify([kind, kind === 'create record' ? pair.uid : (pair.recordId ?? pair.uid), pair.moment, changes]);
    const foreseen = operations.map((o) => say(o.kind, o.pair, o.changes)).sort();
    const done = this.store.journal
      .slice(journalled)
      .map((e) => say(e.kind, e.pair, e.changes))
      .sort();
    const missing = foreseen.filter((line) => !done.includes(line));
    const more = done.filter((line) => !foreseen.includes(line));
    if (missing.length + more.length > 0)
      wrong('everything explained', `a forecast said ${missing.join(', ') || 'nothing more'}; the run did ${more.join(', ') || 'nothing more'}`);
  }
}
