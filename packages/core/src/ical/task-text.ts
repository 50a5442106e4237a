import type { FieldValue, FieldValues } from '../record/fields.ts';
import { readDateTime } from '../time/date-time.ts';
import { isDefinedZone } from '../time/defined-zone.ts';
import { formatInstant, parseInstant, toInstant, UTC, type ZoneTable } from '../time/zones.ts';
import { type Component, escapeText, lineOf, paramOf, parseComponents, setLine, UnreadableEvent, writeComponents } from './content.ts';
import { expand } from './dates.ts';
import { readCategories, textOf } from './event-text.ts';
import { readClock } from './event-times.ts';
import { timezoneComponent } from './timezone.ts';

/** The words for STATUS of a task (RFC 5545, 3.8.1.11). */
export const taskStatuses: Record<string, string> = {
  'NEEDS-ACTION': 'needs action',
  'IN-PROCESS': 'in process',
  COMPLETED: 'completed',
  CANCELLED: 'cancelled',
};

export interface TaskRead {
  uid: string;
  fields: FieldValues;
  /** RFC 3339 */
  created: string | null;
  modified: string | null;
  /** its recurrence rules, as written; null: it does not repeat */
  repeats: string[] | null;
}

const texts: Record<string, string> = { title: 'SUMMARY', description: 'DESCRIPTION', location: 'LOCATION' };
const dates: Record<string, string> = { start: 'DTSTART', due: 'DUE' };

/**
 * Reads the text of one calendar object that holds a task (VTODO, RFC 5545, 3.6.2) as record fields. A due date
 * without a time is a `due day` alone; one with a time is both.
 * @returns null when the object holds no task
 * @throws UnreadableEvent
 */
export function readTask(text: string, zones: ZoneTable): TaskRead | null {
  const roots = parseComponents(text);
  const task = taskOf(roots);
  if (task === null) return null;
  const uid = lineOf(task, 'UID')?.value.trim();
  if (!uid) throw new UnreadableEvent('the task has no UID');
  const value = (name: string) => lineOf(task, name)?.value.trim() || null;
  const number = (name: string) => (value(name) !== null && Number.isFinite(Number(value(name))) ? Number(value(name)) : null);
  const stamp = (name: string) => {
    const text = value(name) ?? '';
    return /^\d{8}T\d{6}Z$/.test(text) ? expand(text) : null;
  };
  const fields: FieldValues = {
    status: taskStatuses[value('STATUS')?.toUpperCase() ?? ''] ?? (value('COMPLETED') === null ? 'needs action' : 'completed'),
    done: value('STATUS')?.toUpperCase() === 'COMPLETED' || value('COMPLETED') !== null,
    percent: number('PERCENT-COMPLETE'),
    priority: number('PRIORITY'),
    categories: readCategories(task),
    completed: stamp('COMPLETED'),
    link: value('URL'),
  };
  for (const [field, name] of Object.entries(texts)) fields[field] = textOf(task, name);
  for (const [field, name] of Object.entries(dates)) {
    const line = lineOf(task, name);
    const day = line !== undefined && /^\d{8}$/.test(line.value.trim());
    const clock = line === undefined || day ? null : readClock(line, roots, zones);
    fields[`${field} day`] = clock !== null ? clock.local.slice(0, 10) : line === undefined ? null : expand(line.value);
    fields[field] = clock === null ? null : timeOf(clock.local, clock.zone, zones);
  }
  const rules = task.lines.filter((l) => l.name === 'RRULE').map((l) => l.value);
  const repeats = rules.length > 0 || lineOf(task, 'RDATE') !== undefined ? rules : null;
  return { uid, fields, created: stamp('CREATED'), modified: stamp('LAST-MODIFIED'), repeats };
}

/** A zone that only this text knows is written as an instant. */
function timeOf(local: string, zone: ReturnType<typeof readClock>['zone'], zones: ZoneTable): string {
  if (zone === null) return local;
  if (zone === UTC) return `${local}Z`;
  return isDefinedZone(zone.name) || zones.find(zone.name) === undefined ? formatInstant(toInstant(local, zone).instant) : `${local}[${zone.name}]`;
}

const taskOf = (roots: Component[]): Component | null => {
  const tasks = roots.flatMap((r) => (r.name === 'VCALENDAR' ? r.components : [r])).filter((c) => c.name === 'VTODO');
  return tasks.find((t) => lineOf(t, 'RECURRENCE-ID') === undefined) ?? tasks[0] ?? null;
};

/** The text of a new task. @param now RFC 3339, UTC */
export function makeTask(uid: string, fields: FieldValues, context: { zones: ZoneTable; now: string }): string {
  const line = (name: string, value: string) => ({ name, params: [], value, source: null });
  const task: Component = { name: 'VTODO', lines: [line('UID', uid), line('CREATED', stampOf(context.now))], components: [] };
  const calendar: Component = { name: 'VCALENDAR', lines: [line('VERSION', '2.0'), line('PRODID', '-//Monsoon//Monsoon//EN')], components: [task] };
  edit(calendar, task, fields, context);
  return writeComponents([calendar]);
}

/** Changes the given fields in a task's stored text and leaves everything else as it was. @throws UnreadableEvent */
export function editTask(text: string, fields: FieldValues, context: { zones: ZoneTable; now: string }): string {
  const roots = parseComponents(text);
  const task = taskOf(roots);
  if (task === null) throw new UnreadableEvent('there is no VTODO in the text');
  edit(roots.find((r) => r.components.includes(task)) ?? task, task, fields, context);
  return writeComponents(roots);
}

const compact = (text: string) => text.replace(/[-:]/g, '');
const stampOf = (now: string) => compact(formatInstant(parseInstant(now)));

function edit(calendar: Component, task: Component, fields: FieldValues, context: { zones: ZoneTable; now: string }): void {
  const put = (name: string, value: string | null) =>
    setLine(task, name, value === null ? null : { params: lineOf(task, name)?.params ?? [], value });
  for (const [field, value] of Object.entries(fields)) {
    const [text, time, day] = [texts[field], dates[field], field.endsWith(' day') ? dates[field.slice(0, -4)] : undefined];
    if (text !== undefined) put(text, value === null ? null : escapeText(String(value)));
    else if (time !== undefined) setTime(calendar, task, time, value, context.zones);
    else if (day !== undefined) setDay(task, day, value);
    else if (field === 'categories') put('CATEGORIES', value === null ? null : (value as string[]).map(escapeText).join(','));
    else if (field === 'percent' || field === 'priority')
      put(field === 'percent' ? 'PERCENT-COMPLETE' : 'PRIORITY', value === null ? null : String(value));
    else if (field === 'link') put('URL', value === null ? null : String(value).replace(/\s/g, '%20'));
    else if (field === 'done') setStatus(task, value === true ? 'COMPLETED' : 'NEEDS-ACTION', context.now);
    else if (field === 'status') setStatus(task, Object.keys(taskStatuses).find((k) => taskStatuses[k] === value) ?? 'NEEDS-ACTION', context.now);
  }
  setLine(task, 'DTSTAMP', { params: [], value: stampOf(context.now) });
  setLine(task, 'LAST-MODIFIED', { params: [], value: stampOf(context.now) });
  setLine(task, 'SEQUENCE', { params: [], value: String(Number.parseInt(lineOf(task, 'SEQUENCE')?.value ?? '-1', 10) + 1 || 0) });
}

/** Status, completion and percentage tell the same story. */
function setStatus(task: Component, status: string, now: string): void {
  const plain = (value: string) => ({ params: [], value });
  setLine(task, 'STATUS', plain(status));
  if (status === 'COMPLETED') {
    if (lineOf(task, 'COMPLETED') === undefined) setLine(task, 'COMPLETED', plain(stampOf(now)));
    setLine(task, 'PERCENT-COMPLETE', plain('100'));
  } else {
    setLine(task, 'COMPLETED', null);
    if (lineOf(task, 'PERCENT-COMPLETE')?.value.trim() === '100') setLine(task, 'PERCENT-COMPLETE', null);
  }
}

const otherParams = (task: Component, name: string) => (lineOf(task, name)?.params ?? []).filter((p) => p.name !== 'VALUE' && p.name !== 'TZID');

/** Another day keeps the time of day that the task has. */
function setDay(task: Component, name: string, value: FieldValue): void {
  const line = lineOf(task, name);
  if (value === null) setLine(task, name, null);
  else if (line === undefined || /^\d{8}$/.test(line.value.trim()))
    setLine(task, name, { params: [...otherParams(task, name), { name: 'VALUE', values: ['DATE'] }], value: compact(String(value)) });
  else setLine(task, name, { params: line.params, value: compact(String(value)) + line.value.trim().slice(8) });
}

function setTime(calendar: Component, task: Component, name: string, value: FieldValue, zones: ZoneTable): void {
  if (value === null) {
    setLine(task, name, null);
    return;
  }
  const text = String(value);
  const kept = otherParams(task, name);
  const tzid = paramOf(lineOf(task, name) ?? { name, params: [], value: '', source: null }, 'TZID');
  const named = /\[([^\]]+)\]$/.exec(text)?.[1] ?? (/(Z|[+-]\d\d:?\d\d)$/.test(text) ? tzid : undefined);
  const zone = named === undefined ? undefined : zones.find(named);
  if (zone === undefined && !/(Z|[+-]\d\d:?\d\d)$/.test(text)) {
    setLine(task, name, { params: kept, value: compact(text.length === 16 ? `${text}:00` : text) });
    return;
  }
  const { instant } = readDateTime(text, UTC, zones);
  if (zone === undefined || zone === UTC || zone.name === 'UTC') {
    setLine(task, name, { params: kept, value: compact(formatInstant(instant)) });
    return;
  }
  const local = readDateTime(`${formatInstant(instant)}[${zone.name}]`, UTC, zones).local;
  setLine(task, name, { params: [...kept, { name: 'TZID', values: [zone.name] }], value: compact(local) });
  if (calendar !== task && !calendar.components.some((c) => c.name === 'VTIMEZONE' && lineOf(c, 'TZID')?.value === zone.name))
    calendar.components.unshift(timezoneComponent(zone, instant - 86_400, instant));
}
