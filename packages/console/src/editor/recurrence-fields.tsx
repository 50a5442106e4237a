import type { Field, FieldMap, FieldType, RepeatFields } from '@monsoon/core';
import { Choice } from '../parts/controls.tsx';
import { without } from './draft.ts';
import { ofTypes } from './map-kinds.ts';

type RecurrenceMap = Extract<FieldMap, { rule: string } | { repeats: RepeatFields }>;
type Part = Exclude<keyof RepeatFields, 'values'>;

const parts: { part: Part; label: string; types: FieldType[] }[] = [
  { part: 'frequency', label: 'daily, weekly, monthly or yearly', types: ['choice', 'text', 'long text'] },
  { part: 'interval', label: 'every so many', types: ['number'] },
  { part: 'weekdays', label: 'on these weekdays', types: ['choices', 'choice', 'text', 'long text'] },
  { part: 'monthDay', label: 'on this day of the month', types: ['number'] },
  { part: 'until', label: 'until', types: ['date'] },
  { part: 'count', label: 'so many times', types: ['number'] },
];

/** The fields that say how an event repeats: one with the whole rule, or one for each part of it. */
export function RecurrenceFields({
  map,
  fields,
  wrong,
  onChange,
}: {
  map: RecurrenceMap;
  fields: readonly Field[];
  wrong: boolean;
  onChange: (map: FieldMap) => void;
}) {
  if ('rule' in map)
    return (
      <div className="flex flex-wrap items-center gap-1.5">
        <Choice
          label="Field with the rule"
          value={map.rule}
          wrong={wrong}
          empty="Choose a field"
          options={ofTypes(fields, ['text', 'long text'])}
          onChange={(rule) => onChange({ ...map, rule })}
        />
        without the days of
        <Choice
          label="Field with the days that are left out"
          value={map.excluded ?? ''}
          empty="no field"
          options={ofTypes(fields, ['text', 'long text']).filter((f) => f.value !== map.rule)}
          onChange={(excluded) => onChange(excluded === '' ? (without(map, 'excluded') as FieldMap) : { ...map, excluded })}
        />
      </div>
    );
  const { repeats } = map;
  return (
    <div className="grid gap-1">
      {parts.map(({ part, label, types }) => (
        <span key={part} className="flex items-center gap-1.5">
          <span className="w-56">{label}</span>
          <Choice
            label={`Field for: ${label}`}
            value={repeats[part] ?? ''}
            wrong={wrong && part === 'frequency'}
            empty={part === 'frequency' ? 'Choose a field' : 'no field'}
            options={ofTypes(fields, types)}
            onChange={(name) => onChange({ ...map, repeats: (name === '' ? without(repeats, part) : { ...repeats, [part]: name }) as RepeatFields })}
          />
        </span>
      ))}
    </div>
  );
}
