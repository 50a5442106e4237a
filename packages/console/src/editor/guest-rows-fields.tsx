import type { Collection, Field, FieldMap, GuestRowsMap } from '@monsoon/core';
import { Choice, type Option } from '../parts/controls.tsx';
import { without } from './draft.ts';
import { ofTypes } from './map-kinds.ts';
import { ReplyValues } from './reply-values.tsx';

type RowsMap = GuestRowsMap & FieldMap;

const find = (fields: readonly Field[], types: readonly string[], name: RegExp): string | undefined =>
  fields.find((f) => types.includes(f.type) && name.test(f.name))?.name;

/** What a collection's fields look like they are for. */
function guess(fields: readonly Field[]): Omit<GuestRowsMap, 'rows'> {
  const guest = find(fields, ['text', 'long text', 'person'], /mail|guest|person|attendee/i) ?? '';
  const reply = find(fields, ['choice', 'text', 'long text'], /repl|response|answer|status|state/i);
  const name = find(
    fields.filter((f) => f.name !== guest),
    ['text', 'long text'],
    /name/i,
  );
  return {
    record: fields.find((f) => f.type === 'reference')?.name ?? '',
    guest,
    ...(name === undefined ? {} : { name }),
    ...(reply === undefined ? {} : { reply }),
  };
}

/** The collection that has a row for each guest, and what its fields are for. */
export function GuestRowsFields({
  map,
  collections,
  wrong,
  onChange,
}: {
  map: RowsMap;
  collections: readonly Collection[];
  wrong: boolean;
  onChange: (map: FieldMap) => void;
}) {
  const fieldsOf = (name: string | undefined) => collections.find((c) => c.name === name)?.fields ?? [];
  const fields = fieldsOf(map.rows);
  const named = collections.map((c) => ({ value: c.name, label: c.label }));
  const choices = fields.find((f) => f.name === map.reply)?.choices;
  const put = (part: Partial<GuestRowsMap>) => onChange({ ...map, ...part } as FieldMap);
  /** A choice among options; without one, the setting is left out where it may be. */
  const choose = (
    setting: 'record' | 'guest' | 'in' | 'name' | 'reply' | 'uninvited',
    label: string,
    empty: string,
    options: readonly (Option | string)[],
  ) => (
    <Choice
      label={label}
      value={map[setting] ?? ''}
      empty={empty}
      options={options}
      onChange={(value) =>
        value === '' && setting !== 'record' && setting !== 'guest' ? onChange(without(map, setting) as FieldMap) : put({ [setting]: value })
      }
    />
  );
  const texts = ['text', 'long text'];
  return (
    <div className="grid gap-1">
      <span className="flex flex-wrap items-center gap-1.5">
        in
        <Choice
          label="Collection of the rows"
          value={map.rows}
          wrong={wrong}
          empty="Choose a collection"
          options={named}
          onChange={(rows) => onChange({ ...guess(fieldsOf(rows)), rows, make: true } as FieldMap)}
        />
        of the record in
        {choose('record', 'Field that refers to the record', 'Choose a field', ofTypes(fields, ['reference', 'number', ...texts]))}
      </span>
      <span className="flex flex-wrap items-center gap-1.5">
        guest in
        {choose('guest', 'Field that names the guest', 'Choose a field', ofTypes(fields, ['person', 'reference', ...texts]))}
        {fields.find((f) => f.name === map.guest)?.type === 'reference' &&
          choose('in', 'Guests are looked up in', 'Choose where they are looked up', named)}
        name in
        {choose('name', "Field for the guest's name", 'no field', ofTypes(fields, texts))}
      </span>
      <span className="flex flex-wrap items-center gap-1.5">
        reply in
        {choose('reply', 'Field for the reply', 'no field', ofTypes(fields, ['choice', ...texts]))}
        guests without a row
        <Choice
          label="Guests without a row"
          value={map.make === true ? 'make' : 'list'}
          options={[
            { value: 'make', label: 'get one' },
            { value: 'list', label: 'are only listed' },
          ]}
          onChange={(value) => put({ make: value === 'make' })}
        />
      </span>
      {choices !== undefined && (
        <>
          <ReplyValues choices={choices} values={map.values ?? {}} onChange={(values) => put({ values })} />
          <span className="flex items-center gap-1.5">
            <span className="w-28">not invited any more</span>
            {choose('uninvited', 'Value for guests who are not invited any more', 'it stays', choices)}
          </span>
        </>
      )}
    </div>
  );
}
