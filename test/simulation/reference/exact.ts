import { type Audit, type LaneDefinition, plan } from '@monsoon/core';
import { OutsideError } from '@monsoon/systems';
import fc from 'fast-check';
import { auditSides } from '../../../packages/service/src/run/audit.ts';
import { type Executed, execute, type RunOptions } from '../../../packages/service/src/run/execute.ts';
import { forecast } from '../../../packages/service/src/run/forecast.ts';
import { executeStop } from '../../../packages/service/src/run/stop.ts';
import { MemoryStore } from '../memory-store.ts';
import { MemoryCalendar, MemoryRecords } from '../memory-systems.ts';
import type { Played } from '../transcript.ts';
import { makingsIn, type Planner } from '../world.ts';
import { type Act, actArbitrary, clashes, eventEdit, names, newEvent, newRecord, type Rare, rareActs, recordEdit } from './acts.ts';
import { Comparison, wrong } from './compare.ts';
import { OWN } from './judge.ts';
import { collection, fields, laneArbitrary, type laneParts, withPart, zones } from './lanes.ts';
import { linksOf } from './links.ts';
import { Model } from './model.ts';
import type { Ended, ModelPair, Sides } from './pairs.ts';
import { readEvent } from './values.ts';

export interface Exact {
  lane: LaneDefinition;
  acts: Act[];
  /** what the systems can tell; the same must come of it whatever they can */
  manners?: Manners;
  /** whose settings the lane is given, where it is edited */
  other?: LaneDefinition;
  rare?: { before: number; act: Rare }[];
}
interface Manners {
  /** changes of the calendar since a token; ETags of the content; versions of records; what was deleted */
  tokens: boolean;
  contentTags: boolean;
  versions: boolean;
  tombstones: boolean;
  /** does it know a record by the key under which it was asked for? */
  keys?: boolean;
  /** does the calendar say that another one stands at its address? */
  tellsReplaced?: boolean;
}
/** A guard that lets everything through. */
const NO_GUARD = { removals: 100_000, removedPercent: 100, rewrittenPercent: 100 };

const able = { tokens: true, contentTags: false, versions: true, tombstones: true };
export const exactArbitrary: fc.Arbitrary<Exact> = fc
  .record({
    lane: laneArbitrary,
    other: laneArbitrary,
    manners: fc.record({ tokens: fc.boolean(), contentTags: fc.boolean(), versions: fc.boolean(), tombstones: fc.boolean() }),
    acts: fc.array(actArbitrary, { minLength: 12, maxLength: 60, size: 'max' }),
    // Last, so that the numbers of older histories go on naming them.
    rare: rareActs,
    keys: fc.boolean(),
  })
  .map(({ keys, ...history }) => ({ ...history, manners: { ...history.manners, keys } }));

/** The exact history of a number. */
export const exactOf = (seed: number): Exact => fc.sample(exactArbitrary, { seed, numRuns: 1 })[0]!;

/** Plays the exact history of a number; one that fails is made as short as it gets. */
export async function tryExact(seed: number): Promise<{ history: Exact; error: Error } | null> {
  const property = fc.asyncProperty(exactArbitrary, async (history) => {
    await playExact(history);
  });
  const ended = await fc.check(property, { seed, numRuns: 1, interruptAfterTimeLimit: 60_000 });
  return ended.failed ? { history: ended.counterexample![0], error: ended.errorInstance as Error } : null;
}

/** The world of one exact history: no faults, so that every run has one right end. */
export class ExactWorld {
  lane: LaneDefinition;
  /** of the lane */
  version = 1;
  /** at the last look at everything */
  #swept = 0;
  readonly calendar: MemoryCalendar;
  readonly records: MemoryRecords;
  readonly store = new MemoryStore();
  readonly model: Model;
  now = Date.parse('2026-11-23T08:00:00Z') / 1000;
  /** tells each step, for people who follow a history */
  tell: ((line: string) => void) | null = null;
  /** what the lane is edited to, part by part */
  other: LaneDefinition | null = null;
  readonly audits: Audit[] = [];
  #made = 0;
  readonly #planner: Planner;
  readonly #compared: Comparison;
  /** records edited since the last run */
  readonly #touched = new Set<string>();
  readonly #manners: Manners;
  /** another calendar stands at the address, and no run was let through since */
  #replaced = false;
  /** the answer to the first record that the next run makes does not arrive */
  #losesAnswer = false;

  constructor(lane: LaneDefinition, planner: Planner = plan, manners: Manners = able) {
    this.lane = lane;
    this.calendar = new MemoryCalendar(manners);
    this.#planner = planner;
    this.model = new Model(lane, manners.versions);
    this.#manners = manners;
    this.records = new MemoryRecords(fields, { ...manners, retries: this.#retries, now: () => new Date(this.now * 1000).toISOString() });
    this.#compared = new Comparison(this.calendar, this.records, this.store);
  }

  get #retries() {
    return this.#manners.keys === false ? ('none' as const) : ('key' as const);
  }

  /** The end state, for the transcript. */
  get played(): Played {
    const texts = new Map([...this.calendar.events].map(([href, e]) => [href, e.text]));
    return { context: this.#context, systems: { records: this.records, calendars: this.calendar }, store: this.store, texts, audits: this.audits };
  }

  get #context() {
    return {
      lane: OWN,
      definition: this.lane,
      version: this.version,
      collection: collection(this.#retries),
      zone: zones.find('Europe/London')!,
      zones,
      now: new Date(this.now * 1000).toISOString(),
    };
  }

  get #work() {
    const sides = { records: this.records, calendars: this.calendar };
    return { context: this.#context, sides, store: this.store, signal: new AbortController().signal };
  }

  async take(act: Act): Promise<void> {
    this.now += 300;
    if (act.do === 'run') return this.#run(act.sweep || this.#swept !== this.version);
    if (act.do === 'wait') {
      this.now += act.hours * 3600;
      this.tell?.(`${act.hours} hours pass`);
    } else if (act.do === 'settle') {
      const open = this.store.questions.filter((q) => q.state === 'open');
      const question = open[act.at % Math.max(1, open.length)];
      const choice = question?.choices[act.choice % Math.max(1, question.choices.length)];
      if (question !== undefined && choice !== undefined) this.store.settle(question, choice);
      this.tell?.(`a person answers: ${choice ?? 'nothing is asked'}`);
    } else if (act.do === 'edit lane') this.#editLane(act.part);
    else if (act.do === 'clash' || act.do === 'part ways') this.#onPair(act);
    else if (act.do === 'copy with UID' || act.do === 'rename event') this.#rename(act);
    else if (act.do === 'replace calendar') await this.#replaceCalendar(act.full);
    else if (act.do === 'stop and start') await this.#stopAndStart(act.how);
    else if (act.do === 'lose answer') this.#losesAnswer = true;
    else this.#edit(act);
  }

  #rename(act: Extract<Act, { do: 'copy with UID' | 'rename event' }>): void {
    const all = [...this.calendar.events];
    const followed = all.filter(([href]) => this.model.pairs.some((p) => p.event === href && p.record !== null && p.state === 'in sync'));
    const found = followed[act.at % Math.max(1, followed.length)];
    if (found === undefined) return;
    const [href, { text }] = found;
    // Of three with one UID it is not known which goes on.
    const { uid } = readEvent(text);
    if (all.some(([other, e]) => other !== href && readEvent(e.text).uid === uid)) return;
    if (this.model.pairs.some((p) => p.uid === uid && p.event !== href)) return;
    // What is listed by name is listed after its original.
    const to = `/c/z${++this.#made}.ics`;
    if (act.do === 'rename event') this.calendar.drop(href);
    this.calendar.put(to, text);
    this.tell?.(`${act.do}: ${href}, ${to}`);
  }

  async #replaceCalendar(full: boolean): Promise<void> {
    this.calendar.replace(full ? new Map(this.calendar.events) : new Map());
    // Where its server lists no changes since a token, this cannot be known.
    this.#replaced ||= (await this.store.cursors()).calendar !== null;
    this.tell?.(`the calendar is deleted and made again, ${full ? 'with all events' : 'empty'}`);
  }

  /** Only what the lane made and no person edited goes; started again, the lane begins with what is there. */
  async #stopAndStart(how: 'remove' | 'unlink'): Promise<void> {
    const before = this.#compared.sides();
    const makings = makingsIn(
      this.store,
      this.store.all.map((p) => p.id),
    );
    const made = this.store.all.flatMap((p) => (makings.get(p.id) === 'create' ? [p.href] : makings.has(p.id) ? [p.recordId] : []));
    const ended = await executeStop(this.#work, async (ids) => makingsIn(this.store, ids), how);
    if (ended.state !== 'done') wrong('everything explained', `stopping the lane ended as ${ended.state}: ${ended.reason}`);
    const after = this.#compared.sides();
    for (const name of [...before.events.keys(), ...before.records.keys()])
      if (!after.events.has(name) && !after.records.has(name) && (how === 'unlink' || !made.includes(name)))
        wrong('no removal without leave', `stopping the lane (${how}) removed ${name}`);
    this.model.pairs = this.model.pairs.flatMap((pair): ModelPair[] => {
      if (pair.state === 'removed' || pair.state === 'unlinked') return [pair];
      const state = this.#compared.storedPair(pair)?.state;
      if (state === 'unlinked') return [{ ...pair, state, question: null }];
      return pair.record !== null && after.records.has(pair.record) ? [{ ...pair, state: 'removed', event: null, base: null, question: null }] : [];
    });
    this.#swept = 0;
    this.tell?.(`the lane is stopped (${how}), and started again`);
  }

  /** A part of the settings becomes another lane's; the sides, their direction and the moments stay. */
  #editLane(part: (typeof laneParts)[number]): void {
    const changed = this.other === null ? null : withPart(this.lane, this.other, part);
    this.tell?.(`the lane is edited: ${changed === null ? 'it would not be valid' : `${part}: ${JSON.stringify(changed[part])}`}`);
    if (changed === null) return;
    this.lane = changed;
    this.version++;
    this.model.lane = changed;
  }

  #isClocked(): boolean {
    const conditions = JSON.stringify([this.lane.filter, this.lane.events.filter, this.lane.moments.map((m) => m.filter)]);
    return /"test":"(before|after|within)"/.test(conditions);
  }

  /** What two people do to the two sides of the same thing, neither knowing of the other. */
  #onPair(act: Extract<Act, { do: 'clash' | 'part ways' }>): void {
    const pairs = this.store.all.filter(
      (p) => p.recordId !== null && this.records.rows.get(p.recordId)?.item != null && this.calendar.events.has(p.href ?? ''),
    );
    const pair = pairs[act.at % Math.max(1, pairs.length)];
    if (pair === undefined) return;
    const text = this.calendar.events.get(pair.href!)!.text;
    if (act.do === 'clash') {
      const [here, there] = clashes[act.what % clashes.length]!;
      this.#put(pair.recordId!, recordEdit(here, act.v));
      if (act.stamps) this.now += 200;
      this.calendar.put(pair.href!, eventEdit(text, there, act.v + 1, act.stamps ? this.now : null));
    } else if (act.record) {
      this.records.drop(pair.recordId!);
      if (act.v % 3 > 0) this.calendar.put(pair.href!, eventEdit(text, 0, act.v, this.now));
    } else {
      this.calendar.drop(pair.href!);
      if (act.v % 3 > 0) this.#put(pair.recordId!, recordEdit(0, act.v));
    }
    this.tell?.(`${JSON.stringify(act)} (${pair.recordId}, ${pair.href})`);
  }

  #edit(act: Exclude<Act, Rare | { do: 'run' | 'wait' | 'settle' | 'clash' | 'part ways' | 'edit lane' }>): void {
    const { v } = act;
    // What is entered on one side alone is not meant as something that the other side has already.
    const title = `T${act.do === 'new event' ? v + 1000 : v} ${names[v % 4]}`;
    const n = ++this.#made;
    if (act.do === 'new record' || act.do === 'twins') this.#put(`R${n}`, newRecord(v, title));
    if (act.do === 'new event' || act.do === 'twins')
      this.calendar.put(`/c/E${n}.ics`, newEvent(n, v, title, act.do === 'twins' ? 1 : act.form, this.now));
    if (act.do === 'twins' && v % 3 === 0) this.calendar.put(`/c/D${n}.ics`, newEvent(n, v, title, 1, this.now).replace(/^UID:.*$/m, `UID:D${n}`));
    if (act.do === 'set record' || act.do === 'drop record') {
      const rows = this.records.live();
      const row = rows[act.at % Math.max(1, rows.length)];
      if (row === undefined) return;
      if (act.do === 'drop record') this.records.drop(row.id);
      else this.#put(row.id, recordEdit(act.what, v));
    }
    if (act.do === 'set event' || act.do === 'drop event' || act.do === 'copy event') {
      const all = [...this.calendar.events];
      const found = all[act.at % Math.max(1, all.length)];
      if (found === undefined) return;
      const [href, { text }] = found;
      if (act.do === 'drop event') this.calendar.drop(href);
      else if (act.do === 'copy event') this.calendar.put(`/c/C${n}.ics`, text.replace(/^UID:.*$/m, `UID:C${n}`));
      else this.calendar.put(href, eventEdit(text, act.what, v, act.stamps ? this.now : null));
    }
    this.tell?.(JSON.stringify(act));
  }

  #put(...[id, fields]: Parameters<MemoryRecords['put']>): void {
    this.records.put(id, fields);
    this.#touched.add(id);
  }

  /** While there is still something to find: it must add up. */
  async auditNow(): Promise<void> {
    const audit = await auditSides(this.#work);
    this.audits.push(audit);
    if (!audit.addsUp) wrong('everything explained', `an audit does not add up: ${JSON.stringify(audit.counts)}`);
  }

  /** In peace an audit finds what the model says: pairs in sync agree, and both sides are the sums of their parts. */
  async audit(): Promise<void> {
    const { counts, addsUp, differences } = await auditSides(this.#work);
    const sides = this.#compared.sides();
    if (!addsUp || counts.events !== sides.events.size || counts.moments !== sides.records.size * this.lane.moments.length)
      wrong('everything explained', `an audit does not add up: ${JSON.stringify(counts)}`);
    const says = (of: { record: string | null; moment: string; event: string | null }) => `${of.record ?? of.event} (${of.moment})`;
    const listed = new Set(differences.map((d) => says({ record: d.recordId, moment: d.moment, event: d.href })));
    for (const pair of this.model.pairs)
      if (pair.state === 'in sync' && listed.has(says(pair)) && !this.#compared.reasons().has(`${pair.record} ${pair.moment}`))
        wrong('everything explained', `an audit finds that ${says(pair)} differs, and it is in sync`);
      else if (pair.state === 'held' && pair.record !== null && sides.records.has(pair.record) && !listed.has(says(pair)))
        wrong('everything explained', `an audit says nothing of ${says(pair)}, which waits for a person`);
  }

  async #run(sweep: boolean): Promise<void> {
    this.now += 1200;
    const before = this.#compared.sides();
    const texts = new Map([...this.calendar.events].map(([href, e]) => [href, e.text]));
    const journalled = this.store.journal.length;
    const choices = new Map(this.store.questions.filter((q) => q.state === 'settled').map((q) => [q.pair, q.choice]));
    const asks = this.store.questions.some((q) => q.question === 'several candidates' && (q.state === 'open' || q.state === 'settled'));
    // What changed says nothing of items that stood there before, nor which of several is meant: the whole calendar does.
    // Nor what the clock alone takes out of a filter.
    const whole = sweep || this.#isClocked() || this.model.mayPair(before, this.#touched) || asks;
    const saidBefore = this.#compared.reasons();
    this.#touched.clear();
    const allowed = this.model.run(before, this.now, (pair) => choices.get(this.#compared.storedPair(pair)?.id ?? '') ?? null);
    const tooMuch = !asks && allowed.removals > this.lane.guard.removals;
    const work = { ...this.#work, planner: this.#planner };
    // A run that is held and let through looks twice, and would go on with events about which it let a question go at first.
    if (asks) work.context = { ...work.context, definition: { ...this.lane, guard: NO_GUARD } };
    const foreseen = whole && this.#planner === plan ? await forecast(this.#work, 'sweep') : null;
    const scope = whole ? 'sweep' : 'changes';
    // A lost answer takes a second run as well.
    const lost = this.#losesAnswer && !asks && isTellable(before, this.lane) ? this.#loseAnAnswer() : () => false;
    let ended = await execute({ ...work, scope });
    const looked = new Set<string>();
    // What was made without an answer is found by the next run, which ends as if nothing had happened.
    const again = lost();
    if (again) ended = await execute({ ...work, scope: 'sweep' });
    if (this.#replaced) {
      if (ended.state !== 'held') wrong('no removal without leave', `another calendar stands at the address, and the run ended as ${ended.state}`);
      ended = await this.#letThrough(work, scope, ended, texts);
      this.#replaced = false;
    } else if (again) {
      if (ended.state === 'held') ended = await execute({ ...work, scope: 'sweep', allowed: ended.damage });
    } else if (ended.state === 'held' && this.store.all.length >= 5 && /gone at once/.test(ended.reason ?? '')) {
      ended = await execute({ ...work, scope: 'sweep', allowed: ended.damage });
    } else if (tooMuch !== (ended.state === 'held'))
      wrong(
        'no removal without leave',
        `the run ended as ${ended.state}, with ${allowed.removals} removals due and a guard of ${this.lane.guard.removals}`,
      );
    if (ended.state === 'held') ended = await this.#letThrough(work, scope, ended, texts);
    if (whole) this.#swept = this.version;
    if (ended.state !== 'done') wrong('agreement', `a run without faults ended as ${ended.state}: ${ended.reason}`);
    if (this.tell !== null) this.#explain(allowed);
    this.tell?.(
      `a run (${scope}): ${
        this.store.journal
          .slice(journalled)
          .map((e) => `${e.kind} ${e.pair.recordId ?? e.pair.href} (${e.cause})`)
          .join('; ') || 'nothing'
      }`,
    );
    // A run that was held and let through has looked twice: of what it made it may say more already.
    const twice = tooMuch || again;
    if (twice)
      for (const pair of this.store.all)
        if (pair.recordId?.startsWith('made-')) for (const m of this.lane.moments) looked.add(`${pair.recordId} ${m.name}`);
    // And of events about which nothing is asked any more.
    if (twice) for (const [href, reason] of allowed.reasons) if (reason === 'several candidates') looked.add(href);
    this.#compared.compareRun({ lane: this.lane, before, allowed, texts, journalled, looked, saidBefore: whole ? null : saidBefore });
    this.model.pairs = allowed.pairs;
    if (foreseen !== null && !twice) this.#compared.compareForecast(foreseen.operations, journalled);
  }

  /** A held run has written nothing; a person who saw what it would do lets it through. */
  async #letThrough(
    work: Omit<RunOptions, 'scope'>,
    scope: 'sweep' | 'changes',
    held: Executed,
    texts: ReadonlyMap<string, string>,
  ): Promise<Executed> {
    for (const [href, text] of texts)
      if (this.calendar.events.get(href)?.text !== text) wrong('no removal without leave', `a held run changed ${href}`);
    return execute({ ...work, scope, allowed: held.damage });
  }

  /** @returns for afterwards: was there an answer to lose? */
  #loseAnAnswer(): () => boolean {
    this.#losesAnswer = false;
    let lost = false;
    this.records.mischief = (call, moment) => {
      if (lost || call !== 'create record' || moment !== 'after') return;
      lost = true;
      throw new OutsideError('timed out', 'no answer in time');
    };
    return () => {
      this.records.mischief = () => undefined;
      if (lost) this.tell?.('the answer to the making of a record is lost, and a second run finds it');
      return lost;
    };
  }

  /** What the model allows of this run, in one line each. */
  #explain(allowed: Ended): void {
    for (const p of allowed.pairs)
      this.tell?.(
        `    allowed: ${p.record ?? 'no record'} (${p.moment}) and ${p.event ?? 'no event'}: ${p.state}${p.question === null ? '' : `, asks ${p.question.asks}`}`,
      );
    for (const [key, reason] of allowed.reasons) this.tell?.(`    allowed: ${key} is left out: ${reason}`);
  }
}

/** Does everything here differ, so that a record that is found says which event it was made for? */
function isTellable({ records, events }: Sides, lane: LaneDefinition): boolean {
  const crosses = (property: string, map: unknown) =>
    map !== undefined && linksOf(lane, lane.moments[0]!).some((l) => l.key === property && l.toRecord);
  if (lane.link === null && !crosses('title', lane.fields.title)) return false;
  const titles = [...[...events.values()].map((e) => e.values['title']), ...[...records.values()].map((r) => r.fields['title'])];
  return new Set(titles).size === titles.length && events.size === new Set([...events.values()].map((e) => e.uid)).size;
}

/** Plays a history; each run in it is compared with the model. @throws Broken */
export async function playExact(
  { lane, acts, manners, other, rare = [] }: Exact,
  planner?: Planner,
  tell?: (line: string) => void,
): Promise<ExactWorld> {
  const world = new ExactWorld(lane, planner, manners);
  if (tell !== undefined) world.tell = tell;
  world.other = other ?? null;
  for (const [i, act] of acts.entries()) {
    for (const one of rare) if (one.before % acts.length === i) await world.take(one.act);
    await world.take(act);
  }
  await world.auditNow();
  // From a morning on, so that no window moves meanwhile.
  world.now = Math.ceil(world.now / 86_400) * 86_400 + 8 * 3600;
  // In peace everything settles: two runs, and then one that has nothing to do.
  for (const sweep of [true, false, true]) await world.take({ do: 'run', sweep });
  await world.audit();
  const journal = world.store.journal.length;
  await world.take({ do: 'run', sweep: true });
  if (world.store.journal.length > journal)
    wrong(
      'agreement',
      `a run in peace still does ${world.store.journal
        .slice(journal)
        .map((e) => `${e.kind} ${e.pair.recordId} (${e.cause})`)
        .join('; ')}`,
    );
  return world;
}
