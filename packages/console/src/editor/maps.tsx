import type { PreviewAnswer } from '@monsoon/contract';
import { type Collection, type Field, type FieldMap, type MappableName, mappableNames } from '@monsoon/core';
import { Plus, X } from 'lucide-react';
import { Button, Card } from '../parts/basics.tsx';
import { Choice, Wrong } from '../parts/controls.tsx';
import type { Values } from './conditions.tsx';
import { type Direction, type Editing, without } from './draft.ts';
import { MapFields } from './map-fields.tsx';
import { begin, fittingKinds, type Kind, kindOf, kinds } from './map-kinds.ts';

/** Every property of an event, and how it corresponds to the record's fields. */
export function Maps(editing: Editing & { fields: readonly Field[]; values: Values; collections: readonly Collection[] }) {
  const { lane, change, fields, values, wrong, collections, preview } = editing;
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
                collections={collections}
                found={preview?.people ?? []}
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
        {maps.replies !== undefined && ![maps.replies].flat().some((m) => 'rows' in m) && (
          <Button quiet onClick={() => put('replies', [...[maps.replies!].flat(), begin('rows', 'replies', fields, values, null)])}>
            Keep a row for each guest, too
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
  collections,
  found,
  wrong,
  onChange,
}: {
  property: MappableName;
  map: FieldMap;
  direction: Direction;
  fields: readonly Field[];
  values: Values;
  collections: readonly Collection[];
  found: PreviewAnswer['people'];
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
          <MapFields
            property={property}
            map={map}
            fields={fields}
            values={values}
            wrong={bad}
            collections={collections}
            found={found}
            onChange={onChange}
          />
        </div>
        <Choice
          label={`Direction of ${property}`}
          value={map.direction ?? ''}
          empty={kind === 'fixed' || kind === 'page' ? '->' : kind === 'words' || kind === 'replies' || kind === 'rows' ? '<-' : direction}
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
