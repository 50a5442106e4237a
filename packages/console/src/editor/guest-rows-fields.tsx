import type { Collection, Field, FieldMap, GuestRowsMap } from '@monsoon/core';
import { Choice } from '../parts/controls.tsx';
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
  const refers = fields.find((f) => f.name === map.guest)?.type === 'reference';
  const choices = fields.find((f) => f.name === map.reply)?.choices;
  const put = (part: Partial<GuestRowsMap>) => onChange({ ...map, ...part } as FieldMap);
  const orWithout = (name: 'name' | 'reply' | 'in' | 'uninvited', value: string) =>
    value === '' ? onChange(without(map, name) as FieldMap) : put({ [name]: value });
  const named = collections.map((c) => ({ value: c.name, label: c.label }));
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
        <Choice
          label="Field that refers to the record"
          value={map.record}
          empty="Choose a field"
          options={ofTypes(fields, ['reference', 'text', 'long text', 'number'])}
          onChange={(record) => put({ record })}
        />
      </span>
      <span className="flex flex-wrap items-center gap-1.5">
        guest in
        <Choice
          label="Field that names the guest"
          value={map.guest}
          empty="Choose a field"
          options={ofTypes(fields, ['text', 'long text', 'person', 'reference'])}
          onChange={(guest) => put({ guest })}
        />
        {refers && (
          <Choice
            label="Guests are looked up in"
            value={map.in ?? ''}
            empty="Choose where they are looked up"
            options={named}
            onChange={(value) => orWithout('in', value)}
          />
        )}
        name in
        <Choice
          label="Field for the guest's name"
          value={map.name ?? ''}
          empty="no field"
          options={ofTypes(fields, ['text', 'long text'])}
          onChange={(value) => orWithout('name', value)}
        />
      </span>
      <span className="flex flex-wrap items-center gap-1.5">
        reply in
        <Choice
          label="Field for the reply"
          value={map.reply ?? ''}
          empty="no field"
          options={ofTypes(fields, ['text', 'long text', 'choice'])}
          onChange={(value) => orWithout('reply', value)}
        />
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
            <Choice
              label="Value for guests who are not invited any more"
              value={map.uninvited ?? ''}
              empty="it stays"
              options={choices}
              onChange={(value) => orWithout('uninvited', value)}
            />
          </span>
        </>
      )}
    </div>
  );
}
