import { compact, londonClock } from './clock.ts';
import type { Edit, Setting } from './history.ts';
import type { MemoryCalendar, MemoryRecords } from './memory-systems.ts';

/** What a person wrote last in a field, on one side. */
export interface LastEdit {
  side: 'record' | 'event';
  id: string;
  field: 'title' | 'when';
  /** a title; an instant in seconds; a day */
  value: string | number;
}

/** What people act on, and what is noted of it. */
export interface Scene {
  setting: Setting;
  calendar: MemoryCalendar;
  records: MemoryRecords;
  now: number;
  copies: Set<string>;
  kept: Map<string, string>;
  memos: Map<string, string>;
  ours(): [string, string][];
  note(side: LastEdit['side'], id: string, field: LastEdit['field'], value: string | number, changed?: boolean): void;
  forget(side: LastEdit['side'], id: string, fields?: LastEdit['field'][]): void;
}

/** Times that people give: quarter hours from a day on, among them the nights on which clocks change. */
const timeOf = (n: number): number => {
  const day = n % 11 === 0 ? Date.UTC(2026, 9, 24, 22) : n % 13 === 0 ? Date.UTC(2027, 2, 27, 22) : Date.UTC(2026, 11, 1, 8);
  return day / 1000 + n * 900;
};

/** What a person does, on either side. */
export function edit(world: Scene, step: Edit): void {
  const { n } = step;
  const title = `T${n} ${['Marsh', 'Quill', 'Rooke', 'Venn'][n % 4]}`;
  if (step.do === 'new record' || step.do === 'twins') {
    const id = `R${n}`;
    world.records.put(id, {
      title,
      start: londonClock(timeOf(n)),
      length: 60,
      status: 'open',
      tags: [],
      ...(n % 3 === 0 ? { follow: londonClock(timeOf(n) + 86_400) } : {}),
    });
    world.note('record', id, 'title', title);
    world.note('record', id, 'when', timeOf(n));
  }
  if (step.do === 'new event' || step.do === 'twins') {
    const href = `/c/E${n}.ics`;
    const clock = world.setting.alike && step.do === 'twins' ? (at: number) => `;TZID=Europe/London:${londonClock(at).replace(/[-:]/g, '')}` : utc;
    world.calendar.put(href, newEvent(`E${n}`, title, timeOf(n), compact(world.now / 1000 + world.setting.skew.calendar), clock));
    world.note('event', href, 'title', title);
    world.note('event', href, 'when', timeOf(n));
  }
  if (!('at' in step)) return;
  if (step.do.endsWith('record')) editRecord(world, step, title);
  else editEvent(world, step, title);
}

function editRecord(world: Scene, step: Edit & { at: number }, title: string): void {
  const rows = world.records.live();
  const row = rows[step.at % Math.max(1, rows.length)];
  if (row === undefined) return;
  const { n } = step;
  const put = (f: Parameters<MemoryRecords['put']>[1]) => world.records.put(row.id, f);
  if (step.do === 'title record') {
    put({ title });
    world.note('record', row.id, 'title', title);
  } else if (step.do === 'move record') {
    put({ start: londonClock(timeOf(n)) });
    world.note('record', row.id, 'when', timeOf(n));
  } else if (step.do === 'memo record') {
    put({ memo: `memo ${n}` });
    world.memos.set(row.id, `memo ${n}`);
  } else if (step.do === 'tag record') {
    const now = (row.fields['tags'] as string[] | null) ?? [];
    put({ tags: now.includes(step.tag) ? now.filter((t) => t !== step.tag) : [...now, step.tag] });
  } else if (step.do === 'undate record') {
    put({ start: null });
    world.forget('record', row.id, ['when']);
  } else if (step.do === 'finish record') put({ status: 'done' });
  else if (step.do === 'reopen record') put({ status: 'open' });
  else if (step.do === 'drop record') {
    world.records.drop(row.id);
    world.forget('record', row.id);
  }
}

function editEvent(world: Scene, step: Edit & { at: number }, title: string): void {
  const events = world.ours();
  const found = events[step.at % Math.max(1, events.length)];
  if (found === undefined) return;
  const [href, text] = found;
  const { n } = step;
  const stamp = `LAST-MODIFIED:${compact(world.now / 1000 + world.setting.skew.calendar)}`;
  const put = (changed: string) => world.calendar.put(href, setLines(changed, [stamp]));
  if (step.do === 'title event') {
    put(setLines(text, [`SUMMARY:${title}`]));
    world.note('event', href, 'title', title);
  } else if (step.do === 'move event') {
    put(setLines(text, [`DTSTART:${compact(timeOf(n))}`, `DTEND:${compact(timeOf(n) + 3600)}`]));
    world.note('event', href, 'when', timeOf(n));
  } else if (step.do === 'stretch event') {
    const from = /\r\nDTSTART:(\d{8}T\d{6}Z)/.exec(text)?.[1];
    if (from === undefined) return;
    put(
      setLines(text, [
        `DTEND:${compact(Date.parse(`${from.slice(0, 4)}-${from.slice(4, 6)}-${from.slice(6, 11)}:${from.slice(11, 13)}:${from.slice(13)}`) / 1000 + 900 * (2 + (n % 9)))}`,
      ]),
    );
  } else if (step.do === 'all-day event') {
    const day = new Date(timeOf(n) * 1000).toISOString().slice(0, 10);
    const next = new Date(timeOf(n) * 1000 + 86_400_000).toISOString().slice(0, 10);
    put(setLines(text, [`DTSTART;VALUE=DATE:${day.replaceAll('-', '')}`, `DTEND;VALUE=DATE:${next.replaceAll('-', '')}`]));
    world.note('event', href, 'when', day, !text.includes(`DTSTART;VALUE=DATE:${day.replaceAll('-', '')}\r`));
  } else if (step.do === 'tag event') {
    const now =
      /^CATEGORIES:(.*)$/m
        .exec(text)?.[1]
        ?.trim()
        .split(',')
        .filter((t) => t !== '') ?? [];
    const next = now.includes(step.tag) ? now.filter((t) => t !== step.tag) : [...now, step.tag];
    put(setLines(text, [`CATEGORIES:${next.join(',')}`]));
  } else if (step.do === 'cancel event') put(setLines(text, ['STATUS:CANCELLED']));
  else if (step.do === 'hide event') put(setLines(text, ['CLASS:PRIVATE']));
  else if (step.do === 'keep event') {
    put(setLines(text, [`X-KEEP:me ${n}`]));
    world.kept.set(href, `X-KEEP:me ${n}`);
  } else if (step.do === 'drop event') {
    world.calendar.drop(href);
    world.kept.delete(href);
    world.forget('event', href);
  } else if (step.do === 'copy event') {
    const uid = `C${n}`;
    const copy = `/c/${uid}.ics`;
    world.calendar.put(copy, setLines(text, [`UID:${uid}`]));
    world.copies.add(copy);
  }
}

const utc = (at: number) => `:${compact(at)}`;
const newEvent = (uid: string, title: string, start: number, stamp: string, clock: (at: number) => string) =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:${uid}\r\nDTSTAMP:${stamp}\r\nCREATED:${stamp}\r\nLAST-MODIFIED:${stamp}\r\nDTSTART${clock(start)}\r\nDTEND${clock(start + 3600)}\r\nSUMMARY:${title}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;

/** Sets lines of the VEVENT as a calendar program does, and leaves the others. */
function setLines(text: string, lines: string[]): string {
  const at = text.indexOf('BEGIN:VEVENT');
  const end = text.indexOf('END:VEVENT');
  let event = text.slice(at, end);
  for (const line of lines) {
    const name = /^[A-Z-]+/.exec(line)![0];
    event = event.replace(new RegExp(`^${name}[;:].*\\r\\n`, 'gm'), '');
    if (!line.endsWith('CATEGORIES:')) event += `${line}\r\n`;
  }
  return text.slice(0, at) + event + text.slice(end);
}
