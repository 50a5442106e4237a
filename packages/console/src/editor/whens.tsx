import type { Field, WhenSource } from '@monsoon/core';
import { Plus, X } from 'lucide-react';
import { Button, Card } from '../parts/basics.tsx';
import { Choice, Count, Setting, Tick, Words, Wrong } from '../parts/controls.tsx';
import type { EditedMoment, Editing } from './draft.ts';

interface Shape {
  name: string;
  label: string;
  parts: [part: string, label: string, types: readonly string[]][];
  /** what a person settles beside the fields */
  also?: 'minutes' | 'lastCounts' | 'showing';
}

const shapes: Shape[] = [
  {
    name: 'start-end',
    label: 'from a start to an end',
    parts: [
      ['start', 'Start', ['date-time']],
      ['end', 'End', ['date-time']],
    ],
  },
  {
    name: 'start-length',
    label: 'from a start, with a length',
    parts: [
      ['start', 'Start', ['date-time']],
      ['length', 'Length', ['duration']],
    ],
  },
  { name: 'start-minutes', label: 'from a start, always as long', parts: [['start', 'Start', ['date-time']]], also: 'minutes' },
  {
    name: 'date-time-length',
    label: 'a day and a time, with a length',
    parts: [
      ['date', 'Day', ['date']],
      ['time', 'Time of day', ['time']],
      ['length', 'Length', ['duration']],
    ],
  },
  {
    name: 'date-time-minutes',
    label: 'a day and a time, always as long',
    parts: [
      ['date', 'Day', ['date']],
      ['time', 'Time of day', ['time']],
    ],
    also: 'minutes',
  },
  {
    name: 'first-last',
    label: 'from a first to a last day',
    parts: [
      ['first', 'First day', ['date']],
      ['last', 'Last day', ['date']],
    ],
    also: 'lastCounts',
  },
  { name: 'day', label: 'one day', parts: [['day', 'Day', ['date']]] },
  { name: 'due', label: 'due at a time, shown on its day', parts: [['due', 'Due', ['date-time']]] },
  { name: 'due-timed', label: 'due at a time, shown as a time', parts: [['due', 'Due', ['date-time']]], also: 'showing' },
];

function shapeOf(when: WhenSource | undefined): Shape | undefined {
  if (when === undefined) return undefined;
  const has = (name: string) => name in when && (when as Record<string, unknown>)[name] !== undefined;
  const name = has('due')
    ? (when as { show: string }).show === 'all-day'
      ? 'due'
      : 'due-timed'
    : has('day')
      ? 'day'
      : has('first')
        ? 'first-last'
        : has('date')
          ? has('length')
            ? 'date-time-length'
            : 'date-time-minutes'
          : has('end')
            ? 'start-end'
            : has('length')
              ? 'start-length'
              : 'start-minutes';
  return shapes.find((s) => s.name === name);
}

/** A time of that shape, from the fields that fit and what was chosen before. */
function begin(shape: Shape, fields: readonly Field[], before: Record<string, unknown>): WhenSource {
  const taken: string[] = [];
  const chosen = shape.parts.map(([part, , types]) => {
    const fitting = fields.filter((f) => types.includes(f.type));
    const name = fitting.some((f) => f.name === before[part]) ? String(before[part]) : (fitting.find((f) => !taken.includes(f.name))?.name ?? '');
    taken.push(name);
    return [part, name];
  });
  const more = {
    minutes: { minutes: before['minutes'] ?? 60 },
    lastCounts: { lastCounts: before['lastCounts'] ?? true },
    showing: { show: 'ending', minutes: before['minutes'] ?? 60 },
    none: shape.name === 'due' ? { show: 'all-day' } : {},
  }[shape.also ?? 'none'];
  return { ...Object.fromEntries(chosen), ...more } as WhenSource;
}

/** The dated aspects of a record, each with its time. */
export function Moments({ lane, change, wrong, fields }: Editing & { fields: readonly Field[] }) {
  const moments = lane.moments ?? [];
  const put = (at: number, moment: EditedMoment | null) =>
    change((l) => ({ ...l, moments: (l.moments ?? []).flatMap((m, i) => (i === at ? (moment === null ? [] : [moment]) : [m])) }));
  const add = () => {
    const shape = shapes.find((s) => s.parts.every(([, , types]) => fields.some((f) => types.includes(f.type)))) ?? shapes[0]!;
    change((l) => ({ ...l, moments: [...(l.moments ?? []), { name: `moment ${(l.moments ?? []).length + 1}`, when: begin(shape, fields, {}) }] }));
  };
  return (
    <Card title={moments.length > 1 ? 'When: several moments' : 'When'}>
      {moments.map((moment, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: names are being typed, places stay
        <div key={i} className="border-b border-line py-1 last:border-0">
          <When moment={moment} fields={fields} wrong={wrong(`/moments/${i}/when`)} onChange={(m) => put(i, m)} />
          {moments.length > 1 && (
            <div className="flex flex-wrap items-center gap-2 px-3 py-1">
              <Words label="Name of the moment" className="w-44" value={moment.name} onChange={(name) => put(i, { ...moment, name })} />
              <Words
                label={`Title of ${moment.name}`}
                className="w-60"
                place="a title of its own, with {fields}"
                value={titleOf(moment)}
                onChange={(join) => put(i, { ...moment, fields: join === '' ? {} : { ...moment.fields, title: { join } } })}
              />
              <Words
                label={`Only where (${moment.name})`}
                className="w-60"
                place="only where, for example: start is empty"
                value={moment.filter ?? ''}
                onChange={(filter) => put(i, { ...moment, filter: filter === '' ? null : filter })}
              />
              <button
                type="button"
                aria-label={`Take the moment ${moment.name} away`}
                className="rounded p-1.5 hover:bg-sunk"
                onClick={() => put(i, null)}
              >
                <X size={16} aria-hidden />
              </button>
              <Wrong of={[...wrong(`/moments/${i}/name`), ...wrong(`/moments/${i}/filter`), ...wrong(`/moments/${i}/fields`)]} />
            </div>
          )}
        </div>
      ))}
      <div className="px-3 py-2">
        <Button quiet onClick={add} disabled={fields.length === 0}>
          <Plus size={16} aria-hidden /> {moments.length === 0 ? 'Choose when' : 'Another date of the same record'}
        </Button>
        <Wrong of={moments.length === 0 ? wrong('/moments') : []} />
      </div>
    </Card>
  );
}

const titleOf = (moment: EditedMoment): string => {
  const map = [moment.fields?.title ?? []].flat()[0];
  return map !== undefined && 'join' in map ? map.join : map !== undefined && 'copy' in map ? `{${map.copy}}` : '';
};

function When({
  moment,
  fields,
  wrong,
  onChange,
}: {
  moment: EditedMoment;
  fields: readonly Field[];
  wrong: string[];
  onChange: (moment: EditedMoment) => void;
}) {
  const when = (moment.when ?? {}) as Record<string, unknown>;
  const shape = shapeOf(moment.when);
  const set = (part: string, value: unknown) => onChange({ ...moment, when: { ...when, [part]: value } as unknown as WhenSource });
  const possible = shapes.filter((s) => s === shape || s.parts.every(([, , types]) => fields.some((f) => types.includes(f.type))));
  const times = shape?.parts.some(([part]) => part === 'start' || part === 'time') === true;
  return (
    <Setting label="Time" wrong={wrong}>
      {(id) => (
        <div className="flex flex-wrap items-center gap-2">
          <Choice
            id={id}
            value={shape?.name ?? ''}
            empty="Choose how it is dated"
            options={possible.map((s) => ({ value: s.name, label: s.label }))}
            onChange={(name) => {
              const next = shapes.find((s) => s.name === name);
              if (next !== undefined) onChange({ ...moment, when: begin(next, fields, when) });
            }}
          />
          {shape?.parts.map(([part, label, types]) => (
            <Choice
              key={part}
              label={label}
              value={String(when[part] ?? '')}
              empty={label}
              wrong={wrong.length > 0}
              options={fields.filter((f) => types.includes(f.type)).map((f) => ({ value: f.name, label: f.label }))}
              onChange={(name) => set(part, name)}
            />
          ))}
          {(shape?.also === 'minutes' || shape?.also === 'showing') && (
            <span className="flex items-center gap-1.5">
              <Count label="Minutes" value={Number(when['minutes'] ?? 60)} onChange={(n) => set('minutes', n)} /> minutes
            </span>
          )}
          {shape?.also === 'showing' && (
            <Choice
              label="Shown"
              value={String(when['show'] ?? 'ending')}
              options={[
                { value: 'ending', label: 'ending then' },
                { value: 'starting', label: 'starting then' },
              ]}
              onChange={(show) => set('show', show)}
            />
          )}
          {shape?.also === 'lastCounts' && (
            <Tick label="the last day is part of it" checked={when['lastCounts'] === true} onChange={(yes) => set('lastCounts', yes)} />
          )}
          {times && (
            <Tick
              label="an all-day event means these hours"
              checked={when['allDayFrom'] !== undefined}
              onChange={(yes) => {
                const { allDayFrom: _from, allDayUntil: _until, ...rest } = when;
                onChange({ ...moment, when: (yes ? { ...rest, allDayFrom: '08:00', allDayUntil: '18:00' } : rest) as unknown as WhenSource });
              }}
            />
          )}
          {times && when['allDayFrom'] !== undefined && (
            <span className="flex items-center gap-1.5">
              <ClockTime label="An all-day event begins at" value={String(when['allDayFrom'])} onChange={(t) => set('allDayFrom', t)} /> to
              <ClockTime label="An all-day event ends at" value={String(when['allDayUntil'])} onChange={(t) => set('allDayUntil', t)} />
            </span>
          )}
        </div>
      )}
    </Setting>
  );
}

function ClockTime({ label, value, onChange }: { label: string; value: string; onChange: (to: string) => void }) {
  return (
    <input
      type="time"
      aria-label={label}
      value={value}
      required
      className="rounded border border-line bg-paper px-2 py-1"
      // A time that is only half typed is none yet.
      onChange={(e) => e.target.value !== '' && onChange(e.target.value.slice(0, 5))}
    />
  );
}
