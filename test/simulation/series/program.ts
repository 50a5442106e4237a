/**
 * A calendar program: how people's edits of series end up in the stored text, and what a person would see of it. It reads
 * and writes by itself, knows London's clock by rule, and finds occurrences by looking at day after day.
 */

export const DAY = 86_400;

/** Whether London is an hour ahead, at an instant: from the last Sunday of March, 1:00, to that of October. */
function summer(instant: number): boolean {
  const year = new Date(instant * 1000).getUTCFullYear();
  const change = (month: number) => {
    const last = new Date(Date.UTC(year, month + 1, 0));
    return Date.UTC(year, month, last.getUTCDate() - last.getUTCDay(), 1) / 1000;
  };
  return instant >= change(2) && instant < change(9);
}
/** An instant of London's clock, in seconds since 1970; a time that is skipped is read with the offset before. */
export const londonInstant = (wall: number): number => {
  const [early, late] = [wall - 3600, wall];
  if (summer(early)) return early;
  return summer(late) ? late : wall;
};
export const londonWall = (instant: number): number => instant + (summer(instant) ? 3600 : 0);

/** One property of an event. */
interface Line {
  name: string;
  params: string;
  value: string;
}
interface Part {
  lines: Line[];
}
/** A stored calendar object: the event itself, and single occurrences of it. */
export interface Stored {
  head: string;
  master: Part | null;
  overrides: Part[];
}

export function open(text: string): Stored {
  const flat = text.replace(/\r\n[ \t]/g, '').split('\r\n');
  const parts: Part[] = [];
  let current: Part | null = null;
  const head: string[] = [];
  for (const raw of flat) {
    if (raw === 'BEGIN:VEVENT') current = { lines: [] };
    else if (raw === 'END:VEVENT') {
      parts.push(current!);
      current = null;
    } else if (current === null) head.push(raw);
    else {
      const [, name = '', params = '', value = ''] = /^([A-Z-]+)((?:;[^:]*)?):(.*)$/.exec(raw) ?? [];
      current.lines.push({ name, params, value });
    }
  }
  const isOverride = (p: Part) => valueIn(p, 'RECURRENCE-ID') !== null;
  return {
    head: head.filter((l) => l !== '' && l !== 'END:VCALENDAR').join('\r\n'),
    master: parts.find((p) => !isOverride(p)) ?? null,
    overrides: parts.filter(isOverride),
  };
}

export function save({ head, master, overrides }: Stored): string {
  const parts = [...(master === null ? [] : [master]), ...overrides];
  const bodies = parts.map((p) => ['BEGIN:VEVENT', ...p.lines.map((l) => `${l.name}${l.params}:${l.value}`), 'END:VEVENT'].join('\r\n'));
  return `${[head, ...bodies, 'END:VCALENDAR'].join('\r\n')}\r\n`;
}

const lineOf = (part: Part, name: string): Line | undefined => part.lines.find((l) => l.name === name);
export const valueIn = (part: Part, name: string): string | null => lineOf(part, name)?.value ?? null;
export function set(part: Part, name: string, value: string | null, params?: string): void {
  const at = part.lines.findIndex((l) => l.name === name);
  const old = part.lines[at];
  part.lines = part.lines.filter((l) => l.name !== name);
  if (value !== null) part.lines.splice(at < 0 ? part.lines.length : at, 0, { name, params: params ?? old?.params ?? '', value });
}

const wallOf = (value: string): number =>
  Date.UTC(
    Number(value.slice(0, 4)),
    Number(value.slice(4, 6)) - 1,
    Number(value.slice(6, 8)),
    Number(value.slice(9, 11)) || 0,
    Number(value.slice(11, 13)) || 0,
    Number(value.slice(13, 15)) || 0,
  ) / 1000;
export const stamp = (wall: number): string => new Date(wall * 1000).toISOString().replace(/[-:]|\.\d+Z/g, '');

/** Where a time of a line stands on the clock of the series, and as an instant. */
const isDay = (value: string): boolean => value.length === 8;
const clockOf = ({ value }: Line): Clock => (isDay(value) ? 'days' : value.endsWith('Z') ? 'UTC' : 'London');
/** A time as the others beside it are written. */
const like = ({ value }: Line, wall: number): string => (isDay(value) ? stamp(wall).slice(0, 8) : `${stamp(wall)}${value.endsWith('Z') ? 'Z' : ''}`);
/** Days are instants at their midnight in UTC. */
const instantOf = (line: Line): number => (clockOf(line) === 'London' ? londonInstant(wallOf(line.value)) : wallOf(line.value));
const wallAt = (line: Line, instant: number): number => (clockOf(line) === 'London' ? londonWall(instant) : instant);

export interface Seen {
  /** its original start; null: a single event */
  id: number | null;
  /** the original start as Monsoon names it; null: a single event */
  name: string | null;
  start: number;
  end: number;
  title: string;
  cancelled: boolean;
}

const seenOf = (part: Part, id: number | null): Seen => ({
  id,
  name: id === null ? null : nameOfStart(lineOf(part, 'DTSTART')!, id),
  start: instantOf(lineOf(part, 'DTSTART')!),
  end: instantOf(lineOf(part, 'DTEND') ?? lineOf(part, 'DTSTART')!),
  title: valueIn(part, 'SUMMARY') ?? '',
  cancelled: valueIn(part, 'STATUS') === 'CANCELLED',
});

const nameOfStart = (start: Line, id: number): string => (isDay(start.value) ? stamp(id).slice(0, 8) : `${stamp(id)}Z`);

/** The time and title that an object says of itself; null where it holds single occurrences alone. */
export function firstOf(text: string): Seen | null {
  const { master } = open(text);
  return master === null ? null : seenOf(master, null);
}

const WEEKDAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'];
const weekday = (day: number): number => (((day + 3) % 7) + 7) % 7;
const nameOf = (day: number): string => WEEKDAYS[weekday(day)]!;
function ofMonth(day: number): { date: number; last: number } {
  const at = new Date(day * DAY * 1000);
  return { date: at.getUTCDate(), last: new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + 1, 0)).getUTCDate() };
}
/** What a weekday of a month is called, counted from its beginning and from its end: `2TU`, `-4TU`. */
function placesInMonth(day: number): [string, string] {
  const { date, last } = ofMonth(day);
  return [`${Math.ceil(date / 7)}${nameOf(day)}`, `-${Math.ceil((last - date + 1) / 7)}${nameOf(day)}`];
}

/** The days on which a rule falls, by looking at each: days since 1970, the first one included. */
function daysOf(rule: Map<string, string>, first: number, isOver: (day: number) => boolean): number[] {
  const every = Number(rule.get('INTERVAL') ?? 1);
  const most = Number(rule.get('COUNT') ?? 100_000);
  const byDay = rule.get('BYDAY')?.split(',') ?? null;
  const byMonthDay = rule.get('BYMONTHDAY')?.split(',').map(Number) ?? null;
  const monthly = (day: number) => {
    if (byDay !== null) return [...placesInMonth(day)].some((place) => byDay.includes(place));
    const { date, last } = ofMonth(day);
    return byMonthDay === null ? date === ofMonth(first).date : byMonthDay.some((n) => n === date || n === date - last - 1);
  };
  const found: number[] = [];
  for (let day = first; day < first + 420 && found.length < most; day++) {
    if (day !== first && isOver(day)) break;
    const [now, then] = [new Date(day * DAY * 1000), new Date(first * DAY * 1000)];
    const weeks = Math.floor((day - (first - weekday(first))) / 7);
    const months = (now.getUTCFullYear() - then.getUTCFullYear()) * 12 + now.getUTCMonth() - then.getUTCMonth();
    const hit = {
      DAILY: (day - first) % every === 0,
      WEEKLY: weeks % every === 0 && (byDay ?? [nameOf(first)]).includes(nameOf(day)),
      MONTHLY: months % every === 0 && monthly(day),
    }[rule.get('FREQ') as 'DAILY' | 'WEEKLY' | 'MONTHLY'];
    if (hit || day === first) found.push(day);
  }
  return found;
}

export const ruleOf = (stored: Stored): Map<string, string> | null => {
  const text = stored.master === null ? null : valueIn(stored.master, 'RRULE');
  return text === null ? null : new Map(text.split(';').map((p) => p.split('=') as [string, string]));
};

/** Does a series begin or end in an hour that the clock skips? */
export function isInSkippedHour(text: string): boolean {
  const stored = open(text);
  const { master } = stored;
  if (master === null || ruleOf(stored) === null || clockOf(lineOf(master, 'DTSTART')!) !== 'London') return false;
  return ['DTSTART', 'DTEND'].map((name) => wallOf(valueIn(master, name)!)).some((wall) => londonWall(londonInstant(wall)) !== wall);
}

/** What a person sees of a calendar object, in the order of the original starts. */
export function look(text: string): Seen[] {
  const stored = open(text);
  const { master, overrides } = stored;
  const own = new Map(overrides.map((p) => [instantOf(lineOf(p, 'RECURRENCE-ID')!), p]));
  if (master === null) return [...own].map(([id, p]) => seenOf(p, id));
  const rule = ruleOf(stored);
  const single = seenOf(master, null);
  if (rule === null) return [single];
  const start = lineOf(master, 'DTSTART')!;
  const instant = (wall: number) => instantOf({ ...start, value: like(start, wall) });
  const first = wallOf(start.value);
  const length = wallOf(valueIn(master, 'DTEND')!) - first;
  const until = rule.get('UNTIL');
  const time = first - Math.floor(first / DAY) * DAY;
  const isOver = (day: number): boolean => {
    if (until === undefined) return false;
    return until.length === 8 ? day > wallOf(until) / DAY : instant(day * DAY + time) > wallOf(until);
  };
  const datesIn = (name: string) => master.lines.filter((l) => l.name === name).flatMap((l) => l.value.split(',').map((value) => ({ ...l, value })));
  const excluded = new Set(datesIn('EXDATE').map(instantOf));
  const walls = daysOf(rule, Math.floor(first / DAY), isOver).map((day) => day * DAY + time);
  const seen: Seen[] = [];
  for (const wall of new Set([...walls, ...datesIn('RDATE').map((l) => wallOf(l.value))])) {
    const id = instant(wall);
    if (excluded.has(id) || own.has(id)) continue;
    seen.push({ ...single, id, name: nameOfStart(start, id), start: id, end: instant(wall + length) });
  }
  // What was edited by itself stands there whatever the rule says now.
  for (const [id, part] of own) if (!excluded.has(id)) seen.push(seenOf(part, id));
  return seen.sort((a, b) => a.id! - b.id!);
}

/** By which clock an event goes; of days there is none. */
export type Clock = 'London' | 'UTC' | 'days';

/** A new event, or a series. @param first on its clock, in seconds */
export function write(uid: string, title: string, first: number, minutes: number, clock: Clock, rule: string | null): string {
  const params = { London: ';TZID=Europe/London', UTC: '', days: ';VALUE=DATE' }[clock];
  const form: Line = { name: '', params, value: { London: '00000000T000000', UTC: 'Z', days: '00000000' }[clock] };
  return save({
    head: 'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//People//EN',
    master: {
      lines: [
        { name: 'UID', params: '', value: uid },
        { name: 'DTSTAMP', params: '', value: '20261101T000000Z' },
        { name: 'SUMMARY', params: '', value: title },
        { name: 'DTSTART', params, value: like(form, first) },
        { name: 'DTEND', params, value: like(form, first + minutes * 60) },
        ...(rule === null ? [] : [{ name: 'RRULE', params: '', value: rule }]),
        { name: 'X-KEPT', params: '', value: `of ${uid}` },
      ],
    },
    overrides: [],
  });
}

const shift = (line: Line, by: number): Line => ({
  ...line,
  value: line.value
    .split(',')
    .map((v) => like({ ...line, value: v }, wallOf(v) + by))
    .join(','),
});

/** The rule for a start that is some days later. @param first days since 1970 on which it is now */
function turned(rule: Map<string, string>, days: number, first: number): string {
  const by = rule.get('BYDAY');
  const next = new Map(rule);
  if (rule.get('FREQ') === 'WEEKLY' && by !== undefined)
    next.set(
      'BYDAY',
      by
        .split(',')
        .map((n) => WEEKDAYS[(((WEEKDAYS.indexOf(n) + days) % 7) + 7) % 7]!)
        .join(','),
    );
  else if (days !== 0 && by !== undefined) next.set('BYDAY', placesInMonth(first)[by.startsWith('-') ? 1 : 0]);
  if (days !== 0 && rule.has('BYMONTHDAY')) next.set('BYMONTHDAY', String(ofMonth(first).date));
  const until = rule.get('UNTIL');
  if (until !== undefined)
    next.set('UNTIL', until.length === 8 ? stamp(wallOf(until) + days * DAY).slice(0, 8) : `${stamp(wallOf(until) + days * DAY)}Z`);
  return [...next].map(([k, v]) => `${k}=${v}`).join(';');
}

/** All occurrences are dragged: start, rule and excluded days move; some programs drop what was edited of single ones. */
export function drag(text: string, days: number, hours: number, keep: boolean): string {
  const stored = open(text);
  const { master } = stored;
  if (master === null) return text;
  const by = days * DAY + hours * 3600;
  const rule = ruleOf(stored);
  master.lines = master.lines.map((l) => (['DTSTART', 'DTEND', 'EXDATE', 'RDATE'].includes(l.name) ? shift(l, by) : l));
  if (rule !== null) set(master, 'RRULE', turned(rule, days, Math.floor(wallOf(valueIn(master, 'DTSTART')!) / DAY)));
  const moved = stored.overrides.map((p) => ({
    lines: p.lines.map((l) => (['RECURRENCE-ID', 'DTSTART', 'DTEND'].includes(l.name) ? shift(l, by) : l)),
  }));
  return bump({ ...stored, overrides: keep ? moved : [] });
}

function bump(stored: Stored): string {
  for (const part of [...(stored.master === null ? [] : [stored.master]), ...stored.overrides])
    set(part, 'SEQUENCE', String(Number(valueIn(part, 'SEQUENCE') ?? 0) + 1), '');
  return save(stored);
}

/** "This and all following" is moved: the series ends before it, and another one begins. @returns null where there is nothing to split */
export function split(text: string, at: number, days: number, uid: string): { old: string; made: string } | null {
  const stored = open(text);
  const rule = ruleOf(stored);
  if (stored.master === null || rule === null) return null;
  const plain = look(save({ ...stored, overrides: [] }));
  const from = plain[at];
  if (from === undefined || at === 0) return null;
  const start = lineOf(stored.master, 'DTSTART')!;
  const rest = new Map(rule);
  if (rule.has('COUNT')) rest.set('COUNT', String(plain.length - at));
  const before = new Map(rule);
  before.delete('COUNT');
  before.set('UNTIL', isDay(start.value) ? like(start, from.id! - DAY) : `${stamp(from.id! - 1)}Z`);
  const length = wallOf(valueIn(stored.master, 'DTEND')!) - wallOf(start.value);
  const made = open(text);
  const first = wallAt(start, from.id!) + days * DAY;
  set(made.master!, 'UID', uid);
  set(made.master!, 'DTSTART', like(start, first));
  set(made.master!, 'DTEND', like(start, first + length));
  set(made.master!, 'RRULE', turned(rest, days, Math.floor(first / DAY)));
  for (const name of ['EXDATE', 'RDATE']) set(made.master!, name, null);
  set(stored.master, 'RDATE', null);
  set(stored.master, 'RRULE', [...before].map(([k, v]) => `${k}=${v}`).join(';'));
  const early = stored.overrides.filter((p) => instantOf(lineOf(p, 'RECURRENCE-ID')!) < from.id!);
  return { old: bump({ ...stored, overrides: early }), made: bump({ ...made, overrides: [] }) };
}

export function rule(text: string, next: string | null): string {
  const stored = open(text);
  if (stored.master === null) return text;
  set(stored.master, 'RRULE', next, '');
  if (next === null) for (const name of ['EXDATE', 'RDATE']) set(stored.master, name, null);
  return bump(next === null ? { ...stored, overrides: [] } : stored);
}

/** One occurrence is edited by itself: moved, called otherwise, or cancelled. */
export function edit(text: string, id: number, what: { by?: number; title?: string; cancelled?: boolean }): string {
  const stored = open(text);
  const { master } = stored;
  const there = stored.overrides.find((p) => instantOf(lineOf(p, 'RECURRENCE-ID')!) === id);
  if (there === undefined && master === null) return text;
  const form = lineOf(master ?? there!, 'DTSTART')!;
  const at = wallAt(form, id);
  const part: Part = there ?? { lines: master!.lines.filter((l) => !['RRULE', 'EXDATE', 'RDATE', 'DTSTART', 'DTEND'].includes(l.name)) };
  if (there === undefined) {
    const length = wallOf(valueIn(master!, 'DTEND')!) - wallOf(form.value);
    part.lines.push(
      { name: 'RECURRENCE-ID', params: form.params, value: like(form, at) },
      { name: 'DTSTART', params: form.params, value: like(form, at) },
      { name: 'DTEND', params: form.params, value: like(form, at + length) },
    );
    stored.overrides.push(part);
  }
  if (what.by !== undefined) part.lines = part.lines.map((l) => (['DTSTART', 'DTEND'].includes(l.name) ? shift(l, what.by!) : l));
  if (what.title !== undefined) set(part, 'SUMMARY', what.title);
  if (what.cancelled !== undefined) set(part, 'STATUS', what.cancelled ? 'CANCELLED' : null, '');
  return bump(stored);
}

/** One occurrence is deleted. */
export function exclude(text: string, id: number): string | null {
  const stored = open(text);
  stored.overrides = stored.overrides.filter((p) => instantOf(lineOf(p, 'RECURRENCE-ID')!) !== id);
  if (stored.master === null) return stored.overrides.length === 0 ? null : bump(stored);
  const start = lineOf(stored.master, 'DTSTART')!;
  stored.master.lines.push({ name: 'EXDATE', params: start.params, value: like(start, wallAt(start, id)) });
  return bump(stored);
}

/** It takes place on another day besides, some days after it began. */
export function also(text: string, days: number): string {
  const stored = open(text);
  if (stored.master === null) return text;
  const start = lineOf(stored.master, 'DTSTART')!;
  stored.master.lines.push({ name: 'RDATE', params: start.params, value: like(start, wallOf(start.value) + days * DAY) });
  return bump(stored);
}

/** A day of the series is deleted: whatever begins on it. */
export function excludeDay(text: string, day: string): string {
  const stored = open(text);
  const start = lineOf(stored.master!, 'DTSTART')!;
  stored.master!.lines.push({ name: 'EXDATE', params: start.params, value: `${day.replaceAll('-', '')}${start.value.slice(8)}` });
  return save(stored);
}

/** The series without what was edited of single occurrences. */
export function plain(text: string): string {
  return save({ ...open(text), overrides: [] });
}

/** What was excluded or edited of single occurrences is forgotten. */
export function revive(text: string): string {
  const stored = open(text);
  if (stored.master === null) return text;
  set(stored.master, 'EXDATE', null);
  return bump({ ...stored, overrides: [] });
}

export function retitle(text: string, title: string): string {
  const stored = open(text);
  if (stored.master !== null) set(stored.master, 'SUMMARY', title);
  return bump(stored);
}
