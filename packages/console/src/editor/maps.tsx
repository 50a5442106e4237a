import { type Field, type FieldMap, type MappableName, mappableNames, properties } from '@monsoon/core';
import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { Button, Card } from '../parts/basics.tsx';
import type { Values } from './conditions.tsx';
import { Choice, Words, Wrong } from './controls.tsx';
import { type Direction, type Editing, without } from './draft.ts';

const kinds = {
  copy: 'a field, as it is',
  join: 'several fields, joined',
  fixed: 'always the same',
  table: 'each value stands for another',
  words: 'its words choose a value',
  people: 'people, by e-mail',
  page: 'the page of the record',
} as const;
type Kind = keyof typeof kinds;
const kindOf = (map: FieldMap): Kind => (Object.keys(kinds) as Kind[]).find((k) => k in map)!;

const fittingKinds = (property: MappableName, direction: Direction): Kind[] =>
  property === 'attendees'
    ? ['people', 'copy']
    : [
        ...(properties[property].set === true ? (['copy', 'fixed', 'join'] as const) : (['copy', 'join', 'fixed', 'table'] as const)),
        ...(direction === '->' ? [] : (['words'] as const)),
        ...(property === 'link' ? (['page'] as const) : []),
      ];

const ofTypes = (fields: readonly Field[], types: readonly string[]) =>
  fields.filter((f) => types.includes(f.type)).map((f) => ({ value: f.name, label: f.label }));

/** A map of another kind, beginning with what the last one spoke of. */
function begin(kind: Kind, property: MappableName, fields: readonly Field[], values: Values, before: FieldMap | null): FieldMap {
  const spoken =
    before === null
      ? undefined
      : 'copy' in before
        ? before.copy
        : 'table' in before
          ? before.table
          : 'words' in before
            ? before.words
            : 'people' in before
              ? before.people
              : undefined;
  const fitting = ofTypes(fields, properties[property].types);
  const field = fitting.find((f) => f.value === spoken)?.value ?? fitting[0]?.value ?? '';
  const choice = fields.find((f) => f.name === spoken && f.type === 'choice')?.name ?? fields.find((f) => f.type === 'choice')?.name ?? field;
  const occurring = (name: string) => (values[name] ?? []).map((v) => v.value);
  switch (kind) {
    case 'copy':
      return { copy: field };
    case 'join':
      return { join: spoken === undefined ? `{${field}}` : `{${spoken}}` };
    case 'fixed':
      return { fixed: properties[property].values?.[0] ?? '' };
    case 'table':
      return { table: choice, values: Object.fromEntries(occurring(choice).map((v) => [v, properties[property].values?.[0] ?? v])) };
    case 'words':
      return { words: choice, choose: occurring(choice).map((value) => ({ word: value, value })), direction: '<-' };
    case 'people':
      return { people: fields.find((f) => f.type === 'people' || f.type === 'person')?.name ?? '' };
    case 'page':
      return { page: true };
  }
}

/** Every property of an event, and how it corresponds to the record's fields. */
export function Maps(editing: Editing & { fields: readonly Field[]; values: Values }) {
  const { lane, change, fields, values, wrong } = editing;
  const maps = lane.fields ?? {};
  const used = mappableNames.filter((p) => maps[p] !== undefined);
  const free = mappableNames.filter((p) => maps[p] === undefined);
  const put = (property: MappableName, all: FieldMap[]) =>
    change((l) => ({
      ...l,
      fields: all.length === 0 ? without(l.fields ?? {}, property) : { ...l.fields, [property]: all.length === 1 ? all[0] : all },
    }));
  return (
    <Card title="Fields" aside={<span className="text-soft">records left, calendar right</span>}>
      <Wrong of={wrong('/fields/title').length > 0 && maps.title === undefined ? wrong('/fields/title') : []} />
      <ul>
        {used.map((property) => {
          const all = [maps[property] ?? []].flat();
          return all.map((map, i) => (
            <li key={`${property} ${kindOf(map)} ${String(i)}`} className="border-b border-line px-3 py-2">
              <MapRow
                property={property}
                map={map}
                direction={lane.direction ?? '->'}
                fields={fields}
                values={values}
                wrong={wrong(all.length > 1 ? `/fields/${property}/${i}` : `/fields/${property}`)}
                onChange={(next) =>
                  put(
                    property,
                    all.flatMap((m, n) => (n === i ? (next === null ? [] : [next]) : [m])),
                  )
                }
              />
            </li>
          ));
        })}
      </ul>
      <div className="flex flex-wrap items-center gap-2 px-3 py-2">
        <Plus size={16} aria-hidden />
        <Choice
          label="Add a property of the event"
          value=""
          empty="Add a property of the event"
          options={free}
          onChange={(property) => {
            const name = property as MappableName;
            put(name, [begin(fittingKinds(name, lane.direction ?? '->')[0]!, name, fields, values, null)]);
          }}
        />
        {lane.direction !== '->' && maps.title !== undefined && (
          <Button quiet onClick={() => put('title', [...[maps.title!].flat(), begin('words', 'title', fields, values, null)])}>
            Let words of the title choose a value
          </Button>
        )}
      </div>
    </Card>
  );
}

function MapRow({
  property,
  map,
  direction,
  fields,
  values,
  wrong,
  onChange,
}: {
  property: MappableName;
  map: FieldMap;
  direction: Direction;
  fields: readonly Field[];
  values: Values;
  wrong: string[];
  onChange: (map: FieldMap | null) => void;
}) {
  const kind = kindOf(map);
  const all = [...new Set<Kind>([...fittingKinds(property, direction), kind])];
  const bad = wrong.length > 0;
  return (
    <>
      <div className="grid grid-cols-[minmax(0,1fr)_6.5rem_7rem_1.75rem] items-start gap-2">
        <div className="flex flex-wrap items-start gap-1.5">
          <Choice
            label={`How ${property} is filled`}
            value={kind}
            options={all.map((k) => ({ value: k, label: kinds[k] }))}
            onChange={(k) => onChange(begin(k as Kind, property, fields, values, map))}
          />
          <MapFields property={property} map={map} fields={fields} values={values} wrong={bad} onChange={onChange} />
        </div>
        <Choice
          label={`Direction of ${property}`}
          value={map.direction ?? ''}
          empty={kind === 'fixed' || kind === 'page' ? '->' : kind === 'words' ? '<-' : direction}
          options={[
            { value: '->', label: '-> only' },
            { value: '<-', label: '<- only' },
            { value: '<->', label: '<-> both' },
            { value: 'once', label: 'once' },
          ]}
          onChange={(d) =>
            onChange(d === '' ? without(map as FieldMap & { direction?: string }, 'direction') : ({ ...map, direction: d } as FieldMap))
          }
        />
        <span className="pt-1 font-medium text-calendar">{property}</span>
        <button type="button" aria-label={`Take ${property} away`} className="rounded p-1.5 hover:bg-sunk" onClick={() => onChange(null)}>
          <X size={16} aria-hidden />
        </button>
      </div>
      <Wrong of={wrong} />
    </>
  );
}

function MapFields({
  property,
  map,
  fields,
  values,
  wrong,
  onChange,
}: {
  property: MappableName;
  map: FieldMap;
  fields: readonly Field[];
  values: Values;
  wrong: boolean;
  onChange: (map: FieldMap) => void;
}) {
  const fallback = !('fixed' in map) && !('page' in map) && properties[property].set !== true && (
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
  if ('people' in map)
    return (
      <Choice
        label="People"
        value={map.people}
        wrong={wrong}
        empty="Choose a field"
        options={ofTypes(fields, ['person', 'people', 'reference', 'references'])}
        onChange={(people) => onChange({ ...map, people })}
      />
    );
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
  return <WordsFields map={map} fields={fields} values={values} onChange={onChange} />;
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
  fallback: React.ReactNode;
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
