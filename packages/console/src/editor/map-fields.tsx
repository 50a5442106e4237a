import type { PreviewAnswer } from '@monsoon/contract';
import { type Collection, type Field, type FieldMap, type MappableName, properties } from '@monsoon/core';
import { Plus, X } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import { Button } from '../parts/basics.tsx';
import { Choice, Words } from '../parts/controls.tsx';
import type { Values } from './conditions.tsx';
import { without } from './draft.ts';
import { GuestRowsFields } from './guest-rows-fields.tsx';
import { begin, ofTypes } from './map-kinds.ts';
import { RecurrenceFields } from './recurrence-fields.tsx';
import { RepliesFields } from './replies-fields.tsx';

type PeopleMap = FieldMap & { people: string; in?: string | undefined; email?: string | undefined };

/** People by e-mail: named in the record itself, or referred to and looked up in another collection. */
function PeopleFields({
  map,
  fields,
  wrong,
  collections,
  found,
  onChange,
}: {
  map: PeopleMap;
  fields: readonly Field[];
  wrong: boolean;
  collections: readonly Collection[];
  found: PreviewAnswer['people'];
  onChange: (map: FieldMap) => void;
}) {
  const refers = fields.find((f) => f.name === map.people)?.type.startsWith('reference') === true;
  const inside = collections.find((c) => c.name === map.in);
  const counted = found.find((p) => p.field === map.people);
  const choose = (people: string) => {
    const looked = fields.find((f) => f.name === people)?.type.startsWith('reference') === true;
    const withEmail = collections.find((c) => c.fields.some((f) => f.name === 'email'));
    onChange(
      (looked
        ? { ...map, people, in: map.in ?? withEmail?.name ?? '' }
        : without(without({ ...map, people } as PeopleMap, 'in'), 'email')) as FieldMap,
    );
  };
  return (
    <div className="grid gap-1">
      <Choice
        label="People"
        value={map.people}
        wrong={wrong}
        empty="Choose a field"
        options={ofTypes(fields, ['person', 'people', 'reference', 'references'])}
        onChange={choose}
      />
      {refers && (
        <span className="flex flex-wrap items-center gap-1.5">
          looked up in
          <Choice
            label="Looked up in"
            value={map.in ?? ''}
            empty="Choose a collection"
            options={collections.map((c) => ({ value: c.name, label: c.label }))}
            onChange={(collection) => onChange({ ...map, in: collection } as FieldMap)}
          />
          by
          <Choice
            label="Field with the address"
            value={map.email ?? 'email'}
            options={ofTypes(inside?.fields ?? [], ['text', 'long text', 'web address'])}
            onChange={(email) => onChange({ ...map, email } as FieldMap)}
          />
        </span>
      )}
      {counted !== undefined && (
        <p className="text-soft">
          {counted.found} of {counted.named} named have an address
        </p>
      )}
    </div>
  );
}

/** The fields and values of one map, by its kind. */
export function MapFields({
  property,
  map,
  fields,
  values,
  wrong,
  collections,
  found,
  onChange,
}: {
  property: MappableName;
  map: FieldMap;
  fields: readonly Field[];
  values: Values;
  wrong: boolean;
  collections: readonly Collection[];
  found: PreviewAnswer['people'];
  onChange: (map: FieldMap) => void;
}) {
  const fallback = !('fixed' in map) && !('page' in map) && property !== 'recurrence' && properties[property].set !== true && (
    <Words
      label={`${property} where that is empty`}
      className="w-32"
      place="else"
      value={map.default ?? ''}
      onChange={(text) => onChange(text === '' ? without(map, 'default') : { ...map, default: text })}
    />
  );
  if ('copy' in map)
    return (
      <>
        <Choice
          label={`Field for ${property}`}
          value={map.copy}
          wrong={wrong}
          empty="Choose a field"
          options={ofTypes(fields, properties[property].types)}
          onChange={(copy) => onChange({ ...map, copy })}
        />
        {fallback}
      </>
    );
  if ('people' in map) return <PeopleFields map={map} fields={fields} wrong={wrong} collections={collections} found={found} onChange={onChange} />;
  if ('page' in map) return null;
  if ('fixed' in map) {
    const known = properties[property].values;
    const text = [map.fixed].flat().join(', ');
    return known === undefined ? (
      <Words
        label={`Always, for ${property}`}
        className="w-60"
        value={text}
        onChange={(t) => onChange({ ...map, fixed: properties[property].set === true ? t.split(',').map((w) => w.trim()) : t })}
      />
    ) : (
      <Choice label={`Always, for ${property}`} value={text} options={known} onChange={(fixed) => onChange({ ...map, fixed })} />
    );
  }
  if ('join' in map) return <JoinFields property={property} map={map} fields={fields} wrong={wrong} fallback={fallback} onChange={onChange} />;
  if ('table' in map)
    return (
      <div className="grid gap-1">
        <Choice
          label={`Field for ${property}`}
          value={map.table}
          options={ofTypes(fields, ['choice', 'text', 'yes/no'])}
          onChange={(table) =>
            onChange({
              ...begin(
                'table',
                property,
                fields.filter((f) => f.name === table),
                values,
                { copy: table },
              ),
              table,
            } as FieldMap)
          }
        />
        {[...new Set([...(fields.find((f) => f.name === map.table)?.choices ?? []), ...Object.keys(map.values)])].map((from) => (
          <span key={from} className="flex items-center gap-1.5">
            <span className="w-32 truncate text-records" title={from}>
              {from}
            </span>
            <span aria-hidden>&rarr;</span>
            {properties[property].values === undefined ? (
              <Words
                label={`${from} stands for`}
                className="w-36"
                value={map.values[from] ?? ''}
                onChange={(to) => onChange({ ...map, values: to === '' ? without(map.values, from) : { ...map.values, [from]: to } })}
              />
            ) : (
              <Choice
                label={`${from} stands for`}
                value={map.values[from] ?? ''}
                empty="nothing"
                options={properties[property].values!}
                onChange={(to) => onChange({ ...map, values: to === '' ? without(map.values, from) : { ...map.values, [from]: to } })}
              />
            )}
          </span>
        ))}
      </div>
    );
  if ('words' in map) return <WordsFields map={map} fields={fields} values={values} onChange={onChange} />;
  if ('replies' in map) return <RepliesFields map={map} fields={fields} wrong={wrong} onChange={onChange} />;
  if ('rows' in map) return <GuestRowsFields map={map} collections={collections} wrong={wrong} onChange={onChange} />;
  return <RecurrenceFields map={map} fields={fields} wrong={wrong} onChange={onChange} />;
}

function JoinFields({
  property,
  map,
  fields,
  wrong,
  fallback,
  onChange,
}: {
  property: MappableName;
  map: FieldMap & { join: string; edit?: string | undefined };
  fields: readonly Field[];
  wrong: boolean;
  fallback: ReactNode;
  onChange: (map: FieldMap) => void;
}) {
  const used = fields.filter((f) => map.join.includes(`{${f.name}}`));
  return (
    <div className="grid min-w-0 flex-1 gap-1">
      <Words
        label={`Text for ${property}`}
        lines={property === 'description' ? 3 : 1}
        value={map.join}
        wrong={wrong}
        onChange={(join) => onChange({ ...map, join })}
      />
      <div className="flex flex-wrap gap-1.5">
        <Choice
          label="Put a field in"
          value=""
          empty="Put a field in"
          options={fields.filter((f) => !used.includes(f)).map((f) => ({ value: f.name, label: f.label }))}
          onChange={(name) => onChange({ ...map, join: `${map.join}${map.join === '' || /\s$/.test(map.join) ? '' : ' '}[{${name}}]` })}
        />
        <Choice
          label="Part that may be edited on the calendar"
          value={map.edit ?? ''}
          empty="no part is edited"
          options={used.map((f) => ({ value: f.name, label: `${f.label} may be edited` }))}
          onChange={(edit) => onChange((edit === '' ? without(map, 'edit') : { ...map, edit }) as FieldMap)}
        />
        {fallback}
      </div>
      <p className="text-[0.9rem] text-soft">{'{field} stands for its value; [, {field}] vanishes with it when it is empty.'}</p>
    </div>
  );
}

type WordsMap = FieldMap & { words: string; choose: { word: string; value: string }[] };

function WordsFields({
  map,
  fields,
  values,
  onChange,
}: {
  map: WordsMap;
  fields: readonly Field[];
  values: Values;
  onChange: (map: FieldMap) => void;
}) {
  const [tried, setTried] = useState('');
  const field = fields.find((f) => f.name === map.words);
  const known = [...new Set([...(field?.choices ?? []), ...(values[map.words] ?? []).map((v) => v.value)])];
  const put = (at: number, next: { word: string; value: string } | null) =>
    onChange({ ...map, choose: map.choose.flatMap((c, i) => (i === at ? (next === null ? [] : [next]) : [c])) });
  const plain = (text: string) =>
    ` ${text
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, ' ')
      .trim()} `;
  const hit = map.choose.find((c) => plain(tried).includes(plain(c.word)))?.value ?? map.default;
  return (
    <div className="grid gap-1">
      <Choice
        label="Field that is chosen"
        value={map.words}
        options={ofTypes(fields, ['choice', 'text', 'yes/no'])}
        onChange={(words) =>
          onChange(
            begin(
              'words',
              'title',
              fields.filter((f) => f.name === words),
              values,
              null,
            ),
          )
        }
      />
      {map.choose.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: words are being typed, places stay
        <span key={i} className="flex items-center gap-1.5">
          <Words label="Word" className="w-32" value={c.word} onChange={(word) => put(i, { ...c, word })} /> chooses
          {known.length > 0 ? (
            <Choice label="Value" value={c.value} options={known} onChange={(value) => put(i, { ...c, value })} />
          ) : (
            <Words label="Value" className="w-32" value={c.value} onChange={(value) => put(i, { ...c, value })} />
          )}
          <button type="button" aria-label={`Take the word ${c.word} away`} className="rounded p-1 hover:bg-sunk" onClick={() => put(i, null)}>
            <X size={14} aria-hidden />
          </button>
        </span>
      ))}
      <span className="flex flex-wrap items-center gap-1.5">
        <Button quiet onClick={() => onChange({ ...map, choose: [...map.choose, { word: '', value: known[0] ?? '' }] })}>
          <Plus size={14} aria-hidden /> A word
        </Button>
        else{' '}
        <Choice
          label="Without any of the words"
          value={map.default ?? ''}
          empty="it stays"
          options={known}
          onChange={(d) => onChange(d === '' ? without(map as WordsMap & { default?: string }, 'default') : { ...map, default: d })}
        />
      </span>
      <span className="flex flex-wrap items-center gap-1.5">
        <Words label="Try a title" className="w-48" place="try a title" value={tried} onChange={setTried} />
        {tried !== '' && <span>chooses {hit === undefined ? 'nothing' : <strong>{hit}</strong>}</span>}
      </span>
    </div>
  );
}
