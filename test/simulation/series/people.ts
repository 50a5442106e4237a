import type { MemoryCalendar, MemoryRecords } from '../memory-systems.ts';
import type { Random } from '../random.ts';
import * as program from './program.ts';

const { DAY } = program;

/**
 * What a lane makes of a series in a history. `of records`: a record with a rule is one, and what people make on the calendar is none;
 * `without its rule`: it is one record, and no field holds how it repeats; `rule one way`: a field does, and only one side is asked for it.
 */
export const kindsOfSeries = ['each occurrence', 'one record', 'of records', 'without its rule', 'rule one way'] as const;
export type Repeating = (typeof kindsOfSeries)[number];
/**
 * What people make: series at a time of the day, by the day on which they begin (`few`) or by any rule (`all`); or series of whole days, by
 * any rule (`days`).
 */
export type Forms = 'few' | 'all' | 'days';

/** Where people edit. */
export interface Place {
  readonly random: Random;
  readonly calendar: MemoryCalendar;
  readonly records: MemoryRecords;
  readonly takes: Repeating;
  readonly forms: Forms;
  /** does a field of a record hold how it repeats? */
  readonly rulesInRecords: boolean;
  /** do records go to the calendar? */
  readonly toCalendar: boolean;
  /** events with a property that Monsoon must leave alone */
  readonly kept: Set<string>;
  /** seconds since 1970 */
  readonly today: number;
  readonly log: (line: string) => void;
}

/** People who edit series and records, as their programs do. */
export class SeriesPeople {
  readonly #place: Place;
  /** rules that people give, besides those of every history */
  readonly #more: readonly string[];
  #n = 0;

  constructor(place: Place) {
    this.#place = place;
    this.#more = place.forms === 'few' ? [] : moreRules;
  }

  /** A number that nothing was named by before. */
  next = (): number => ++this.#n;

  /** A person does something, on either side. */
  act(): void {
    const { random } = this.#place;
    const n = this.next();
    if (this.#place.toCalendar && random.chance(0.35)) {
      this.#actOnRecord(n);
      return;
    }
    const hrefs = [...this.#place.calendar.events.keys()];
    const href = hrefs.length === 0 ? null : random.pick(hrefs);
    if (href === null || (hrefs.length < 6 && random.chance(0.25))) this.#newSeries(n);
    else this.#actOnEvent(href, n);
  }

  #put(href: string, text: string): void {
    if (text.includes('X-KEPT:')) this.#place.kept.add(href);
    this.#place.calendar.put(href, text);
  }

  #newSeries(n: number): void {
    const { random } = this.#place;
    const days = this.#place.forms === 'days';
    const first = this.#place.today + (random.below(40) - 10) * DAY + (days ? 0 : (8 + random.below(10)) * 3600);
    const until = (at: number) => (days ? program.stamp(at).slice(0, 8) : `${program.stamp(at)}Z`);
    const end = random.pick([`;COUNT=${2 + random.below(9)}`, `;UNTIL=${until(first + (10 + random.below(60)) * DAY)}`, '']);
    const rule = random.pick([
      null,
      `FREQ=WEEKLY${end}`,
      `FREQ=WEEKLY;INTERVAL=2${end}`,
      `FREQ=DAILY;INTERVAL=${2 + random.below(4)}${end}`,
      `FREQ=MONTHLY${end}`,
      ...this.#more.map((more) => `${more}${end}`),
    ]);
    this.#place.log(`new on the calendar: E${n} ${rule ?? 'single'} from ${program.stamp(first)}`);
    // A rule in a record goes by the clock of the lane: of a series in UTC it says only when that begins.
    const utc = random.chance(0.2) && this.#place.takes === 'each occurrence';
    const [clock, minutes] = days ? (['days', (1 + random.below(2)) * 1440] as const) : ([utc ? 'UTC' : 'London', 60] as const);
    this.#put(`/c/e${n}.ics`, program.write(`e${n}`, `T${n}`, first, minutes, clock, rule));
  }

  #actOnEvent(href: string, n: number): void {
    const { random } = this.#place;
    const { text } = this.#place.calendar.events.get(href)!;
    const seen = program.look(text);
    const one = seen.length === 0 ? undefined : random.pick(seen);
    const put = (next: string | null, said: string) => {
      this.#place.log(`${href}: ${said}`);
      if (next === null) this.#place.calendar.drop(href);
      else this.#put(href, next);
    };
    const isSeries = one !== undefined && one.id !== null;
    const current = program.ruleOf(program.open(text));
    const acts: (() => void)[] = [
      () => put(program.retitle(text, `T${n}`), `all are called T${n}`),
      () => {
        const [days, by, keep] = [random.below(7) - 3, random.below(5) - 2, random.chance(0.5)];
        const hours = this.#place.forms === 'days' ? 0 : by;
        put(program.drag(text, days, hours, keep), `all are dragged by ${days} days and ${hours} hours`);
      },
      () => put(null, 'deleted'),
    ];
    if (!isSeries) acts.push(() => put(program.rule(text, `FREQ=WEEKLY;COUNT=${2 + random.below(5)}`), 'is made to repeat'));
    if (isSeries && one !== undefined)
      acts.push(
        () =>
          put(
            program.edit(text, one.id!, { by: (random.below(9) - 4) * (this.#place.forms === 'days' ? DAY : 6 * 3600) }),
            `the occurrence of ${program.stamp(one.id!)} is moved`,
          ),
        () => put(program.edit(text, one.id!, { title: `T${n}` }), `the occurrence of ${program.stamp(one.id!)} is called T${n}`),
        () =>
          put(
            program.edit(text, one.id!, { cancelled: !one.cancelled }),
            `the occurrence of ${program.stamp(one.id!)} is cancelled, or not any more`,
          ),
        () => put(program.exclude(text, one.id!), `the occurrence of ${program.stamp(one.id!)} is deleted`),
        () => put(program.revive(text), 'single edits are forgotten'),
      );
    if (isSeries && current !== null)
      acts.push(
        () => {
          const { old, made } = program.split(text, random.below(seen.length), random.below(5) - 2, `e${n}`) ?? { old: text, made: null };
          put(old, `this and all following is split off${made === null ? ': nothing to do' : `, as E${n}`}`);
          if (made !== null) this.#put(`/c/e${n}.ics`, made);
        },
        () => {
          const next = random.pick([
            `FREQ=WEEKLY;COUNT=${2 + random.below(8)}`,
            'FREQ=WEEKLY;INTERVAL=2',
            `FREQ=DAILY;INTERVAL=3;COUNT=${3 + random.below(8)}`,
            ...this.#more,
          ]);
          put(program.rule(text, next), `the rule is ${next}`);
        },
        () => put(program.rule(text, null), 'does not repeat any more'),
      );
    if (isSeries && current !== null && this.#place.forms !== 'few' && this.#place.takes === 'each occurrence')
      acts.push(() => {
        const days = 1 + random.below(40);
        put(program.also(text, days), `takes place also ${days} days after it began`);
      });
    random.pick(acts)();
  }

  #actOnRecord(n: number): void {
    const { random } = this.#place;
    const live = this.#place.records.live();
    if (live.length === 0 || random.chance(0.1)) {
      const start = this.#place.today + (1 + random.below(30)) * DAY + 36_000;
      const rule = this.#place.rulesInRecords && random.chance(0.5) ? { rule: random.pick([...recordRules, ...this.#more]) } : {};
      this.#place.log(`new record R${n} ${rule.rule ?? ''}`);
      const times = this.#place.forms === 'days' ? daysFrom(start - 36_000, start - 36_000 + DAY) : timesFrom(start, start + 3600);
      this.#place.records.put(`R${n}`, { title: `T${n}`, ...times, ...rule });
      return;
    }
    const { id, fields: now } = random.pick(live);
    const act = random.pick(['title', this.#place.rulesInRecords ? 'rule' : 'title', 'move', 'drop'] as const);
    this.#place.log(`${id}: ${act} ${act === 'title' ? `T${n}` : ''}`);
    if (act === 'drop') this.#place.records.drop(id);
    else if (act === 'rule') {
      const rule = random.pick([null, ...recordRules, ...this.#more]);
      this.#place.records.put(id, rule === null ? { rule, without: null } : { rule });
    } else if (act === 'title') this.#place.records.put(id, { title: `T${n}` });
    else {
      const by = random.below(9) - 4;
      const { start, end } = timesOf(now);
      this.#place.records.put(
        id,
        this.#place.forms === 'days' ? daysFrom(start + by * DAY, end + by * DAY) : timesFrom(start + by * 5400, end + by * 5400),
      );
    }
  }
}

const recordRules = ['FREQ=WEEKLY', 'FREQ=WEEKLY;COUNT=4', 'FREQ=WEEKLY;INTERVAL=2', 'FREQ=DAILY;INTERVAL=3;COUNT=5', 'FREQ=MONTHLY'];

/** Days of the week and of the month, on which a series need not begin. */
const moreRules = [
  'FREQ=WEEKLY;BYDAY=MO,WE',
  'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,SA,SU',
  'FREQ=MONTHLY;BYDAY=1TU',
  'FREQ=MONTHLY;BYDAY=-1FR',
  'FREQ=MONTHLY;BYMONTHDAY=-1',
  'FREQ=MONTHLY;BYMONTHDAY=15,31',
];

/** A time as records hold it (RFC 9557). */
function said(at: number): string {
  const wall = program.londonWall(at);
  return `${new Date(wall * 1000).toISOString().slice(0, 19)}${wall === at ? '+00:00' : '+01:00'}[Europe/London]`;
}
const timesFrom = (start: number, end: number) => ({ start: said(start), end: said(end) });
/** The last day counts. */
const daysFrom = (start: number, end: number) => ({ first: day(start), last: day(end - DAY) });
const day = (at: number): string => new Date(at * 1000).toISOString().slice(0, 10);

/** When a record begins and ends, in seconds since 1970. */
export function timesOf(record: Readonly<Record<string, unknown>>): { start: number; end: number } {
  const [first, last] = [record['first'], record['last']];
  if (first != null) return { start: instant(first as string), end: instant(last as string) + DAY };
  return { start: instant(record['start'] as string), end: instant(record['end'] as string) };
}
const instant = (text: string): number => Date.parse(text.replace(/\[.*$/, '')) / 1000;
