import { auditSides } from '../../../packages/service/src/run/audit.ts';
import { forecast } from '../../../packages/service/src/run/forecast.ts';
import { timesOf } from './people.ts';
import * as program from './program.ts';
import { AHEAD, BEHIND, type SeriesWorld } from './world.ts';

const { DAY } = program;

/** What does not hold, and in which history. */
export class Wrong extends Error {}

/** Both sides, in a window that no edge of the lane's touches. */
function sides(world: SeriesWorld): { records: string[]; events: string[] } {
  if (world.takes === 'each occurrence') return sidesByOccurrence(world);
  return world.takes === 'without its rule' || world.takes === 'rule one way' ? sidesByStart(world) : wholeSides(world);
}

/** Is an event the lane's? Where series are made of records, those that people make are theirs. */
function isOfLane(world: SeriesWorld, href: string, text: string): boolean {
  if (world.takes !== 'of records' || world.store.all.some((p) => p.href === href && p.state !== 'removed')) return true;
  return world.toRecords && program.ruleOf(program.open(text)) === null;
}

/** Series as wholes: the calendar's without what was edited of single occurrences, the records' as the series that they describe. */
function wholeSides(world: SeriesWorld): { records: string[]; events: string[] } {
  const from = world.today - (BEHIND - 3) * DAY;
  const until = world.today + (AHEAD - 3) * DAY;
  const lines = (texts: string[]) =>
    texts
      .map((text) => program.look(program.plain(text)))
      .filter((seen) => seen.some((o) => o.start > from && o.start < until))
      .map(
        (seen) =>
          `${seen[0]!.title} ${seen
            .map((o) => `${program.stamp(o.start)}-${program.stamp(o.end)}`)
            .slice(0, 20)
            .join(' ')}`,
      )
      .sort();
  const unsayable = unsayableRecords(world);
  // A rule that somebody takes away in the moment in which it was written looks like one that the server does not keep: it is said, and left.
  const unkept = new Set(world.store.journal.flatMap((e) => (e.notes.some((n) => n.includes('does not show recurrence')) ? [e.pair.id] : [])));
  const skipped = skippedHours(world);
  const pairsApart = world.store.all.filter((p) => unkept.has(p.id) || unsayable.has(p.recordId ?? '') || skipped.has(p.href ?? ''));
  const apart = new Set([...skipped, ...pairsApart.map((p) => p.href)]);
  const recordsApart = new Set(pairsApart.map((p) => p.recordId));
  return {
    records: lines(world.records.live().flatMap((r) => (unsayable.has(r.id) || recordsApart.has(r.id) ? [] : [textOf(r.fields)]))),
    events: lines([...world.calendar.events].flatMap(([href, e]) => (apart.has(href) || !isOfLane(world, href, e.text) ? [] : [e.text]))),
  };
}

/** Records of series that begin or end in the second passage of an hour that comes twice: they are not on the calendar, and it is said. */
function unsayableRecords({ records, store }: SeriesWorld): Set<string> {
  const unsayable = new Set(records.live().flatMap((r) => (isUnsayable(r.fields) ? [r.id] : [])));
  const said = new Set(store.verdicts.flatMap((v) => (v.verdict?.reason === 'unfit value' ? [v.recordId] : [])));
  for (const id of unsayable) if (!said.has(id)) throw new Wrong(`it is not said that the series of ${id} begins in an hour that comes twice`);
  return unsayable;
}

/** Does a series begin or end in the second passage of an hour that comes twice, for which no zone has a clock time? */
const isUnsayable = (record: Readonly<Record<string, unknown>>): boolean =>
  record['rule'] != null &&
  record['first'] == null &&
  Object.values(timesOf(record)).some((at) => program.londonInstant(program.londonWall(at)) !== at);

/** Where series begin or end in an hour that the clock skips: no record of one time holds them, and it is said. */
function skippedHours({ calendar, store }: SeriesWorld): Set<string> {
  const found = [...calendar.events].flatMap(([href, { text }]) => (program.isInSkippedHour(text) ? [href] : []));
  for (const href of found) {
    const pair = store.all.find((p) => p.href === href && p.state === 'in sync');
    const said = store.verdicts.some((v) => (v.href === href || v.recordId === (pair?.recordId ?? '')) && v.verdict?.reason === 'unfit value');
    if (pair !== undefined && !said) throw new Wrong(`it is not said that the series at ${href} begins in an hour that the clock skips`);
  }
  return new Set(found);
}

/** A record and its series need not repeat alike, where no field holds the rule or one side alone is asked for it: both sides begin at the same time, and stand while any occurrence is in the window. */
function sidesByStart(world: SeriesWorld): { records: string[]; events: string[] } {
  const from = world.today - (BEHIND - 3) * DAY;
  const until = world.today + (AHEAD - 3) * DAY;
  const { store, calendar, records } = world;
  const isInside = (start: number) => start > from && start < until;
  const line = (title: string, start: number, end: number) => `${title} ${program.stamp(start)}-${program.stamp(end)}`;
  const skipped = skippedHours(world);
  const paired = new Map(
    store.all.flatMap((p) =>
      p.state === 'in sync'
        ? [
            [p.href, p.recordId],
            [p.recordId, p.href],
          ]
        : [],
    ) as [string, string][],
  );
  const inside = new Set<string>();
  for (const [href, { text }] of calendar.events) if (program.look(program.plain(text)).some((o) => isInside(o.start))) inside.add(href);
  for (const { id, fields } of records.live()) if (program.look(textOf(fields)).some((o) => isInside(o.start))) inside.add(id);
  const apart = new Set([...skipped, ...unsayableRecords(world)]);
  const shown = (id: string) => (inside.has(id) || inside.has(paired.get(id) ?? '')) && !apart.has(id) && !apart.has(paired.get(id) ?? '');
  return {
    records: records
      .live()
      .flatMap(({ id, fields: f }) => (shown(id) ? [line(f['title'] as string, timesOf(f).start, timesOf(f).end)] : []))
      .sort(),
    events: [...calendar.events]
      .flatMap(([href, { text }]) => {
        const first = program.firstOf(text);
        return shown(href) && first !== null ? [line(first.title, first.start, first.end)] : [];
      })
      .sort(),
  };
}

function sidesByOccurrence(world: SeriesWorld): { records: string[]; events: string[] } {
  const from = world.today - (BEHIND - 3) * DAY;
  const until = world.today + (AHEAD - 3) * DAY;
  const lines = (all: { title: string; start: number; end: number }[]) =>
    all
      .filter((o) => o.start > from && o.start < until)
      .map((o) => `${o.title} ${program.stamp(o.start)}-${program.stamp(o.end)}`)
      .sort();
  // A person deleted the record of an occurrence that was edited and cancelled at once, and the lane's rule is that edits
  // win; or a question waits: an event was made a series of which nothing can be followed.
  const cancelled = new Set(
    [...world.calendar.events].flatMap(([href, { text }]) => program.look(text).flatMap((o) => (o.cancelled ? [placeOf(href, o)] : []))),
  );
  const ofCancelled = new Set(world.store.all.flatMap((p) => (cancelled.has(p.href ?? '') || p.state === 'held' ? [p.recordId] : [])));
  const records = world.records
    .live()
    .filter((r) => !ofCancelled.has(r.id))
    .map(({ fields: f }) => ({ title: f['title'] as string, ...timesOf(f) }));
  // A record that a person deleted took its occurrence along; put back on the calendar, the lane follows it no longer.
  const letGo = new Set([
    ...world.store.verdicts.flatMap((v) => (v.verdict?.reason === 'no longer followed' ? [v.href] : [])),
    ...world.store.all.flatMap((p) => (p.state === 'unlinked' ? [p.href] : [])),
  ]);
  // A pair that lost its own occurrence may follow it since.
  for (const { href, state } of world.store.all) if (state === 'in sync') letGo.delete(href);
  const events = [...world.calendar.events].flatMap(([href, { text }]) =>
    program.look(text).filter((o) => !o.cancelled && !letGo.has(placeOf(href, o))),
  );
  return { records: lines(records), events: lines(events) };
}

/** In peace both sides say the same, nothing more is written, and an audit adds up. */
export async function checkPeace(world: SeriesWorld): Promise<void> {
  // No day begins in between, on which another occurrence would enter the window.
  world.now = (world.today + DAY + 9 * 3600) * 1000;
  await world.settle();
  const written = world.calendar.writes.length + world.records.writes.length;
  const foreseen = await forecast(world.work, 'sweep');
  if (foreseen.operations.length > 0)
    throw new Wrong(`no peace: ${foreseen.operations.map((o) => `${o.kind} ${o.pair.href} (${o.cause})`).join('; ')}`);
  await world.run(true, false);
  await world.run(false, false);
  if (world.calendar.writes.length + world.records.writes.length > written) throw new Wrong('no peace: something is written again and again');
  const { records, events } = sides(world);
  const missing = without(events, records);
  const more = without(records, events);
  const failed = world.store.verdicts.find((v) => v.verdict?.reason === 'unexpected error');
  if (failed !== undefined) throw new Wrong(`Monsoon failed at ${failed.href ?? failed.recordId}: ${failed.verdict!.value}`);
  if (missing.length + more.length > 0)
    throw new Wrong(
      `the calendar has ${missing.join(', ') || 'nothing more'}; the records have ${more.join(', ') || 'nothing more'}; left out: ${world.store.verdicts.map((v) => `${v.href ?? v.recordId} ${v.verdict!.reason} ${v.verdict!.value}`).join('; ')}`,
    );
  const { addsUp, counts } = await auditSides(world.work);
  if (!addsUp) throw new Wrong(`an audit does not add up: ${JSON.stringify(counts)}`);
  for (const [href, { text }] of world.calendar.events)
    if (world.kept.has(href) && !text.includes('X-KEPT:')) throw new Wrong(`${href} has lost a property that Monsoon must leave alone`);
}

/** A whole series is dragged, in peace: its records are the same ones afterwards. */
export async function checkDrag(world: SeriesWorld): Promise<void> {
  // Days that are left out or cancelled come to lie on others by a drag: then one record may go for another.
  const isPlain = (text: string) => !/RECURRENCE-ID|EXDATE|RDATE/.test(text) && program.look(text).length > 1;
  const series = [...world.calendar.events].filter(([, { text }]) => isPlain(text) && program.ruleOf(program.open(text)) !== null);
  if (series.length === 0) return;
  const [href, { text }] = world.random.pick(series);
  const by = world.random.pick([1, 2, -1]);
  const dragged = program.drag(text, by, 0, true);
  // Not every month has a 31st: by such a day a series has its occurrences in other months.
  const starts = program.look(text).map((o) => o.start + by * DAY);
  if (program.look(dragged).length !== starts.length || !program.look(dragged).every((o, i) => Math.abs(o.start - starts[i]!) <= 3600)) return;
  world.log(`in peace: ${href} is dragged by ${by} days`);
  world.calendar.put(href, dragged);
  const from = world.store.journal.length;
  await world.run(false, false);
  // What was removed stands nowhere any more: its UID says of which series it was.
  const uid = program.valueIn(program.open(text).master!, 'UID');
  const gone = world.store.journal.slice(from).find((e) => e.kind === 'remove record' && e.pair.uid.startsWith(`${uid}#`));
  if (gone !== undefined) throw new Wrong(`a series was dragged, and ${gone.pair.label} (${gone.pair.recordId}) was removed: ${gone.cause}`);
}

/** One record is edited, or deleted, in peace: its occurrence says the same, or is excluded, and the others are as they were. */
export async function checkEdit(world: SeriesWorld): Promise<void> {
  const pairs = world.store.all.filter(
    (p) => p.state === 'in sync' && p.href?.includes('#') === true && world.records.rows.get(p.recordId!)?.item != null,
  );
  if (!world.toCalendar || pairs.length === 0) return;
  const { recordId, href } = world.random.pick(pairs);
  const object = href!.slice(0, href!.indexOf('#'));
  const look = () => new Map(program.look(world.calendar.events.get(object)?.text ?? '').map((o) => [placeOf(object, o), JSON.stringify(o)]));
  const before = look();
  // Out of the window both sides stay as they are.
  const start = program.look(world.calendar.events.get(object)?.text ?? '').find((o) => placeOf(object, o) === href)?.start ?? 0;
  if (start < world.today - (BEHIND - 3) * DAY || start > world.today + (AHEAD - 3) * DAY) return;
  // With the next day another occurrence enters the window, with what was edited of it meanwhile.
  const day = (at: number) => Math.floor(program.londonWall(at / 1000) / DAY);
  if (day(world.now) !== day(world.now + 3_600_000)) return;
  const drops = world.random.chance(0.5);
  const title = `T${world.people.next()}`;
  world.log(`in peace: ${recordId} (${href}) is ${drops ? 'deleted' : `called ${title}`}`);
  if (drops) world.records.drop(recordId!);
  else world.records.put(recordId!, { title });
  await world.run(drops, false);
  const after = look();
  const own = after.get(href!);
  if (drops ? own !== undefined : own === undefined || !own.includes(`"${title}"`))
    throw new Wrong(`${recordId} was ${drops ? 'deleted' : `called ${title}`}, and the calendar has ${own ?? 'nothing'} at ${href}`);
  const others = (all: Map<string, string>) => [...all].filter(([place]) => place !== href).sort();
  if (JSON.stringify(others(before)) !== JSON.stringify(others(after)))
    throw new Wrong(`an edit of ${recordId} changed other occurrences of ${object}`);
}

/** How one item repeats is changed in peace, on the side that is asked for it: the other side repeats alike. */
export async function checkRule(world: SeriesWorld): Promise<void> {
  const skipped = skippedHours(world);
  // Where the first day is left out, the item may be out of the window though its start is not.
  const start = (id: string) => program.look(textOf(world.records.rows.get(id)!.item!.fields))[0]?.start ?? 0;
  const isInside = (at: number) => at > world.today - (BEHIND - 3) * DAY && at < world.today + (AHEAD - 3) * DAY;
  const pairs = world.store.all.flatMap(({ state, recordId, href }) => {
    const record = world.records.rows.get(recordId ?? '')?.item;
    const there = state === 'in sync' && record != null && href !== null && world.calendar.events.has(href) && !skipped.has(href);
    return there && isInside(start(record.id)) && !isUnsayable({ ...record.fields, rule: 'FREQ=WEEKLY' }) ? [{ id: record.id, href }] : [];
  });
  if (pairs.length === 0) return;
  const { id, href } = world.random.pick(pairs);
  const rule = world.random.pick(['FREQ=WEEKLY', 'FREQ=DAILY;INTERVAL=3', 'FREQ=WEEKLY;INTERVAL=2;COUNT=40']);
  world.log(`in peace: ${id} (${href}) repeats by ${rule}, as the ${world.ruleGoes === '->' ? 'record' : 'event'} says`);
  if (world.ruleGoes === '->') world.records.put(id, { rule, without: null });
  else world.calendar.put(href, program.rule(world.calendar.events.get(href)!.text, rule));
  await world.run(false, false);
  const times = (text: string) => JSON.stringify(program.look(program.plain(text)).map((o) => [o.start, o.end]));
  const [record, event] = [times(textOf(world.records.rows.get(id)!.item!.fields)), times(world.calendar.events.get(href)!.text)];
  if (record !== event) throw new Wrong(`${id} and ${href} repeat otherwise after ${rule}: ${record.slice(0, 200)} and ${event.slice(0, 200)}`);
}

/** A live lane leaves series out, and takes them again: nothing is doubled, and the forecast said what goes. */
export async function checkSwitch(world: SeriesWorld): Promise<void> {
  for (const choice of ['leave out', world.repeating] as const) {
    world.repeating = choice;
    world.version++;
    const foreseen = await forecast(world.work, 'sweep');
    const before = world.records.writes.length;
    await world.run(true, false);
    const removed = world.records.writes.slice(before).filter((w) => w.call === 'remove').length;
    if (removed !== foreseen.counts.removed)
      throw new Wrong(`"${choice}" removed ${removed} records, and the forecast said ${foreseen.counts.removed}`);
  }
}

/** The series that a record describes. */
function textOf(record: Readonly<Record<string, unknown>>): string {
  const days = record['first'] != null;
  const [start, end] = Object.values(timesOf(record)).map((at) => (days ? at : program.londonWall(at)));
  const text = program.write(
    'of a record',
    record['title'] as string,
    start!,
    (end! - start!) / 60,
    days ? 'days' : 'London',
    (record['rule'] as string | null) ?? null,
  );
  const without = ((record['without'] as string | null) ?? '').split(', ').filter((day) => day !== '');
  return without.reduce((series, day) => program.excludeDay(series, day), text);
}

const placeOf = (href: string, { name }: program.Seen): string => (name === null ? href : `${href}#${name}`);

/** Elements of one list that the other lacks, each as often as it has more of them. */
function without(all: readonly string[], others: readonly string[]): string[] {
  const left = [...others];
  return all.filter((line) => {
    const at = left.indexOf(line);
    if (at >= 0) left.splice(at, 1);
    return at < 0;
  });
}
