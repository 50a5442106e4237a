import type { LastEdit } from './people.ts';
import { instantOf, pointOf, samePoint, sameTitle, see } from './seeing.ts';
import type { Sides, World } from './world.ts';
import { foreignEvent } from './world.ts';

/**
 * Judges a world by the nine invariants. It shares nothing with the engine: it reads iCalendar lines by itself, knows
 * London's clock by rule, and compares what people wrote with what both systems hold, what the journal says, and what
 * was asked of people.
 */
export class Broken extends Error {
  readonly invariant: string;
  constructor(invariant: string, what: string) {
    super(`${invariant}: ${what}`);
    this.invariant = invariant;
  }
}

type Entry = World['store']['journal'][number];

/** What must hold after every step, whatever went wrong. */
/** @param undoing something was taken back in this step */
export function checkStep(world: World, before: { events: number; records: number; journal: number }, clean: boolean, undoing = false): void {
  const { calendar, records, store } = world;
  if (calendar.events.get('/c/foreign.ics')?.text !== foreignEvent)
    throw new Broken('nothing else touched', 'an event of another lane was changed or removed');
  const fault = store.verdicts.find((v) => v.verdict?.reason === 'unexpected error');
  if (fault !== undefined) throw new Broken('everything explained', `Monsoon failed at ${fault.label}: ${fault.verdict!.value}`);
  // 3: one live event for each pair that Monsoon made, one live record for each event it asked one for.
  const marks = new Map<string, string>();
  for (const [href, text] of world.ours()) {
    const { pair } = see(text);
    if (pair === null || world.copies.has(href) || !calendar.writes.some((w) => w.call === 'create' && w.id === href)) continue;
    if (marks.has(pair)) throw new Broken('no duplicate', `the events ${marks.get(pair)} and ${href} stand for the same pair`);
    marks.set(pair, href);
  }
  const made = records.writes.filter((w) => w.call === 'create');
  const live = made.filter((w) => records.rows.get(w.id)?.item != null);
  // Of records that people changed before they were known again, nobody could tell whose they are.
  const sure = live.filter((w) => !edited(world, w.id)).map((w) => w.id);
  const asked = store.all.filter((p) => p.recordId === null || p.recordId.startsWith('made-')).length;
  // A person who says that none of them is it has the last word.
  const told = world.settled.some((s) => s.choice === 'create new');
  if (sure.length > asked && !told) throw new Broken('no duplicate', `${asked} events became records, and ${sure.join(', ')} are there`);
  if (world.setting.retries === 'key') {
    const twin = live.find((w, i) => live.findIndex((o) => o.key === w.key) !== i);
    if (twin !== undefined) throw new Broken('no duplicate', `the record ${twin.id} was made a second time`);
  }
  if (world.takenBack !== null) checkTakenBack(world);
  if (world.audited !== null) checkAudit(world, before);
  // 5: what was taken away had leave; of what is taken back, only what we had made.
  for (const write of [...calendar.writes.slice(before.events), ...records.writes.slice(before.records)])
    if (write.call === 'remove') {
      if (world.takenBack === null && !undoing) checkLeave(world, write.side, write.id);
      else if (![...calendar.writes, ...records.writes].some((w) => w.call === 'create' && w.id === write.id))
        throw new Broken('no removal without leave', `an undo removed the ${write.side} ${write.id}, which was there before us`);
    }
  const removed = [...calendar.writes.slice(before.events), ...records.writes.slice(before.records)].filter((w) => w.call === 'remove').length;
  if (removed > world.definition.guard.removals && world.takenBack === null && !undoing && world.definition.guard.removals < 100)
    throw new Broken('no removal without leave', `${removed} removals past a guard of ${world.definition.guard.removals}`);
  // 6: what no map speaks of.
  for (const write of calendar.writes.slice(before.events)) if (write.call === 'remove') world.kept.delete(write.id);
  for (const [href, line] of world.kept) {
    const text = calendar.events.get(href)?.text;
    if (text !== undefined && !text.includes(line)) throw new Broken('nothing else touched', `${line} is gone from ${href}`);
  }
  for (const [id, memo] of world.memos) {
    const item = records.rows.get(id)?.item;
    if (item != null && item.fields['memo'] !== memo)
      throw new Broken('nothing else touched', `the memo of ${id} is ${String(item.fields['memo'])} instead of ${memo}`);
  }
  // 7: each write that was not cut off by a fault has its entry.
  if (!clean) return;
  const entries = store.journal.slice(before.journal);
  for (const write of [...calendar.writes.slice(before.events), ...records.writes.slice(before.records)]) {
    const told = entries.filter(
      (e) => e.cause !== '' && (write.side === 'event' ? hrefsOf(e, world).includes(write.id) : recordsOf(e, world).includes(write.id)),
    );
    const speaks = (e: Entry) => (write.call === 'remove' ? e.removed !== null : e.changes.some((c) => c.side === write.side) || e.notes.length > 0);
    if (!told.some(speaks)) throw new Broken('everything explained', `${write.call} of ${write.side} ${write.id} has no entry`);
  }
}

/** An audit writes nothing, and both sides are the sums of their parts. */
function checkAudit({ audited, calendar, records, definition }: World, before: { events: number; records: number }): void {
  if (calendar.writes.length !== before.events || records.writes.length !== before.records) throw new Broken('no echo', 'an audit wrote something');
  const { addsUp, counts } = audited!;
  const moments = records.live().length * definition.moments.length;
  if (!addsUp || counts.events !== calendar.events.size || counts.moments !== moments)
    throw new Broken(
      'everything explained',
      `an audit of ${moments} moments and ${calendar.events.size} events does not add up: ${JSON.stringify(counts)}`,
    );
}

/** What both sides say, whatever their names: events that are put back have their UID again, and records another id. */
function saidBy({ events, records }: Sides): string[] {
  const there = [...events.values()].map((text) => {
    const { uid, title, start, tags, cancelled } = see(text);
    return JSON.stringify(['event', uid, title, start, tags, cancelled]);
  });
  const here = [...records.values()].map((text) => {
    const { title, start, length, status, tags, memo } = JSON.parse(text) as Record<string, unknown>;
    return JSON.stringify(['record', title, instantOf(start), length, status, [...((tags as string[] | null) ?? [])].sort(), memo]);
  });
  return [...there, ...here].sort();
}

/** 7: a run that is taken back before anybody edits leaves both sides as they were before it. */
function checkTakenBack(world: World): void {
  const { before, impossible, ended } = world.takenBack!;
  if (ended !== 'done') throw new Broken('everything explained', `an undo in peace ended as ${ended}`);
  if (impossible.some((reason) => reason !== 'nothing was written that could be taken back')) return;
  const [was, is] = [saidBy(before), saidBy(world.sides())];
  const missing = was.filter((line) => !is.includes(line));
  const more = is.filter((line) => !was.includes(line));
  if (missing.length + more.length > 0)
    throw new Broken(
      'everything explained',
      `a run was taken back, and left ${more.join(', ') || 'nothing'} instead of ${missing.join(', ') || 'nothing'}`,
    );
}

const hrefsOf = (e: Entry, world: World): string[] =>
  [
    e.pair.href,
    ...world.store.all.filter((p) => p.id === e.pair.id).map((p) => p.href),
    world.calendar.hrefFor('/c/', e.pair.uid),
    `/c/${e.pair.uid}.ics`,
  ].filter((h): h is string => h !== null);
const recordsOf = (e: Entry, world: World): string[] =>
  [
    e.pair.recordId,
    ...world.store.all.filter((p) => p.id === e.pair.id).map((p) => p.recordId),
    e.removed?.startsWith('{') ? (JSON.parse(e.removed) as { id: string }).id : null,
  ].filter((h): h is string => h !== null);

/** Did people change both what a record is called and when it is? Then nobody could know it again. */
const edited = (world: World, id: string): boolean => world.last.has(`record ${id} title`) || world.last.has(`record ${id} when`);

/** The lane's rules, at any time, or a person's answer must have allowed it. */
function checkLeave(world: World, side: 'event' | 'record', id: string): void {
  const rules = world.definitions.flatMap((d) => Object.entries(d.departures));
  const by = (names: string[], choices: string[]) => rules.some(([name, choice]) => names.includes(name) && choices.includes(choice));
  const answered = (choices: string[]) => world.settled.some((s) => choices.includes(s.choice));
  const deletion = by(['editedAndDeleted'], ['deletion wins']) || answered(['deletion wins']);
  const fine =
    side === 'event'
      ? by(['recordDeleted', 'filteredOut', 'dateLost'], ['remove']) || answered(['remove']) || deletion
      : by(['eventDeleted', 'eventFilteredOut'], ['delete record']) || answered(['delete record']) || deletion;
  if (!fine) throw new Broken('no removal without leave', `${side} ${id} was removed`);
}

/** What must hold once there is peace: no new edits, no faults, and a few runs. */
export function checkPeace(world: World): void {
  const { store, calendar, records, definition } = world;
  const pairs = store.all;
  const verdicts = store.verdicts;
  const open = new Set(store.questions.filter((q) => q.state === 'open').map((q) => q.pair));
  const said = (recordId: string | null, href: string | null, moment?: string) =>
    verdicts.some(
      (v) => (recordId !== null ? v.recordId === recordId : v.recordId === null && v.href === href) && (moment === undefined || v.moment === moment),
    );

  // 2 and 8: who stands as agreed, agrees, to the second.
  for (const pair of pairs) {
    if (pair.state !== 'in sync' || open.has(pair.id) || said(pair.recordId, pair.href, pair.moment)) continue;
    const item = pair.recordId === null ? null : (records.rows.get(pair.recordId)?.item ?? null);
    const text = pair.href === null ? undefined : calendar.events.get(pair.href)?.text;
    if (item === null || text === undefined) throw new Broken('agreement', `the pair of ${pair.recordId} stands as agreed, and a side is gone`);
    if (definition.foreignEdits === 'leave' && definition.direction !== '<->') continue;
    const event = see(text);
    const title = pair.moment === 'follow' ? `After ${String(item.fields['title'])}` : String(item.fields['title'] ?? '');
    if (definition.foreignEdits === 'put back' || pair.moment !== 'follow') {
      if (!sameTitle(event.title, title) && !world.apart(pair, 'title'))
        throw new Broken('agreement', `${pair.recordId}: "${title}" here, "${event.title}" there`);
      const start = instantOf(item.fields[pair.moment === 'follow' ? 'follow' : 'start']);
      if (!samePoint(start, event.start) && !world.apart(pair, 'when'))
        throw new Broken('time is exact', `${pair.recordId}: ${start} here, ${event.start} there`);
      const tags = [...((item.fields['tags'] as string[] | null) ?? [])].sort();
      // What stood on the receiving side when the two were first paired may stay there.
      const [from, to] = definition.direction === '<-' ? [event.tags, tags] : [tags, event.tags];
      const agree = definition.direction === '<->' && pair.moment === 'visit' ? tags.join() === event.tags.join() : from.every((t) => to.includes(t));
      // Taken away between our writing and our look, it looks like something that the server does not keep; then the journal says so.
      const told = store.journal.some((e) => e.pair.id === pair.id && e.notes.some((n) => n.startsWith('the calendar does not show categories')));
      if (!agree && !told && !world.apart(pair, 'tags')) throw new Broken('agreement', `${pair.recordId}: tags ${tags} here, ${event.tags} there`);
    }
  }

  // 7: whoever does not come across, it is said why.
  const followed = (p: (typeof pairs)[number]) => p.state !== 'unlinked' && p.state !== 'removed';
  for (const item of records.live()) {
    if (pairs.some((p) => p.recordId === item.id && p.moment === 'visit' && followed(p) && p.href !== null && calendar.events.has(p.href))) continue;
    if (said(item.id, null) || pairs.some((p) => p.recordId === item.id && (open.has(p.id) || p.state === 'unlinked'))) continue;
    throw new Broken('everything explained', `nobody says why the record ${item.id} has no event`);
  }
  if (definition.may.records.create)
    for (const [href, text] of world.ours()) {
      if (pairs.some((p) => p.href === href && (followed(p) || p.state === 'unlinked' || open.has(p.id)))) continue;
      if (said(null, href) || pairs.some((p) => p.uid === see(text).uid)) continue;
      throw new Broken('everything explained', `nobody says why the event ${href} has no record`);
    }

  for (const edit of world.last.values()) checkEdit(world, edit, { pairs, open, said });
}

interface Known {
  pairs: World['store']['all'];
  open: Set<string>;
  said(recordId: string | null, href: string | null, moment?: string): boolean;
}

/** 1: what a person wrote last is on both sides, was superseded by a rule that the journal names, or waits for an answer. */
function checkEdit(world: World, edit: LastEdit, { pairs, open, said }: Known): void {
  const { definition, calendar, records } = world;
  const is = (value: number | string | null) =>
    edit.field === 'title' ? sameTitle(String(value ?? ''), String(edit.value)) : samePoint(value, edit.value);
  const lost = (how: string): never => {
    throw new Broken('no lost edit', `${edit.side} ${edit.id}: ${edit.field} ${edit.value} ${how}`);
  };
  const mine = pairs.filter((p) => (edit.side === 'record' ? p.recordId === edit.id && p.moment === 'visit' : p.href === edit.id));
  const now = edit.side === 'record' ? recordValue(world, edit.id, edit.field) : eventValue(world, edit.id, edit.field);
  if (now === undefined) {
    checkGone(world, edit, is, lost);
    return;
  }
  if (!is(now)) {
    const properties = edit.field === 'title' ? ['title'] : ['when', 'start'];
    const told = world.store.journal.some((e) =>
      e.changes.some(
        (c) =>
          c.side === edit.side && properties.includes(c.property) && is(edit.field === 'title' ? (c.before as string | null) : pointOf(c.before)),
      ),
    );
    // Removed by rule and made again: what was removed is whole in the journal.
    const removed = world.store.journal.some((e) => e.removed !== null && is(removedValue(e.removed, edit.field)));
    if (!told && !removed) lost(`was overwritten by ${now}, and the journal does not say so`);
    return;
  }
  const pair = mine.find((p) => p.state === 'in sync');
  if (pair === undefined || open.has(pair.id) || world.apart(pair, edit.field) || said(pair.recordId, pair.href)) return;
  if (definition.foreignEdits === 'leave' && definition.direction !== '<->') return;
  if (pair.moment === 'follow') return;
  const item = records.rows.get(pair.recordId ?? '')?.item ?? null;
  if (item === null || pair.href === null || !calendar.events.has(pair.href)) return;
  const other = edit.side === 'record' ? eventValue(world, pair.href, edit.field) : recordValue(world, pair.recordId!, edit.field);
  if (!is(other ?? null)) lost(`never came across: the other side has ${other}`);
}

function removedValue(removed: string, field: LastEdit['field']): string | number | null {
  if (!removed.startsWith('{')) {
    const event = see(removed);
    return field === 'title' ? event.title : event.start;
  }
  const { fields } = JSON.parse(removed) as { fields: Record<string, unknown> };
  return field === 'title' ? ((fields['title'] as string | null) ?? null) : instantOf(fields['start']);
}

/** What was taken away by us is whole in the journal. */
function checkGone(world: World, edit: LastEdit, is: (v: number | string | null) => boolean, lost: (how: string) => never): void {
  const writes = edit.side === 'event' ? world.calendar.writes : world.records.writes;
  const removal = writes.findLast((w) => w.call === 'remove' && w.id === edit.id);
  if (removal?.before == null) return;
  const fields = edit.side === 'record' ? (JSON.parse(removal.before) as Record<string, unknown>) : null;
  const held = fields === null ? see(removal.before) : { title: fields['title'] as string, start: instantOf(fields['start']) };
  if (!is(edit.field === 'title' ? held.title : held.start)) return;
  const kept = world.store.journal.some(
    (e) => e.removed !== null && (edit.side === 'event' ? e.removed === removal.before : e.removed.includes(`"id":"${edit.id}"`)),
  );
  if (!kept && !world.uncertain) lost('went with a removal that the journal does not keep');
}

function recordValue(world: World, id: string, field: LastEdit['field']): string | number | null | undefined {
  const item = world.records.rows.get(id)?.item;
  if (item == null) return undefined;
  return field === 'title' ? ((item.fields['title'] as string | null) ?? null) : instantOf(item.fields['start']);
}

function eventValue(world: World, href: string, field: LastEdit['field']): string | number | null | undefined {
  const text = world.calendar.events.get(href)?.text;
  if (text === undefined) return undefined;
  const event = see(text);
  return field === 'title' ? event.title : event.start;
}

/** Everything that both systems hold, without the names that chance gave: for comparing two ends. */
export function endOf(world: World): string {
  const here = world.records
    .live()
    .map((r) =>
      JSON.stringify([
        r.fields['title'],
        instantOf(r.fields['start']),
        r.fields['status'],
        [...((r.fields['tags'] as string[]) ?? [])].sort(),
        r.fields['memo'],
      ]),
    );
  const there = world.ours().map(([, text]) => {
    const { title, start, tags, cancelled } = see(text);
    return JSON.stringify([title, start, tags, cancelled]);
  });
  return `${here.sort().join('\n')}\n--\n${there.sort().join('\n')}`;
}
