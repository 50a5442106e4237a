import type { PreviewAnswer } from '@monsoon/contract';
import type { MappableName } from '@monsoon/core';
import { propertyNames, sayAny } from '@monsoon/core/text';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { client, reasonOf } from '../data.ts';
import { Button, Card } from '../parts/basics.tsx';
import { Choice, Words } from '../parts/controls.tsx';
import type { Edited, Editing } from './draft.ts';

/** Beside the settings: what the lane does in words, what is missing, and real items as they would cross. */
export function Samples({ editing, failure }: { editing: Editing; failure: string | null }) {
  const { preview, lane } = editing;
  if (preview === undefined)
    return (
      <Card title="What it does">
        {failure === null ? <p className="px-3 py-2 text-soft">Reading both sides...</p> : <p className="px-3 py-2 text-failed">{failure}</p>}
      </Card>
    );
  const { records, events, problems, warnings } = preview;
  return (
    <>
      <Card>
        <p className="px-3 py-2 tabular-nums" aria-live="polite">
          {records !== null && lane.direction !== '<-' && (
            <>
              <strong className="text-records">{records.crossing}</strong> of {records.read} records cross, as {records.events} events.{' '}
            </>
          )}
          {events !== null && (
            <>
              {/* Of a series that is taken apart, each occurrence is read as an event. */}
              <strong className="text-calendar">{Math.max(events.listed, events.read)}</strong> events on the calendar
              {lane.direction === '->'
                ? '.'
                : `; ${events.read < events.listed ? `of the first ${events.read}, ` : ''}${events.crossing} would become records, ${events.own} are this lane's.`}
            </>
          )}
        </p>
        {warnings.map((w) => (
          <p key={w} className="mx-3 mb-2 rounded bg-held-wash px-2 py-1 text-held">
            {w}
          </p>
        ))}
        {problems.length > 0 && (
          <details className="border-t border-line px-3 py-2">
            <summary className="font-medium text-failed">
              {problems.length} {problems.length === 1 ? 'thing is' : 'things are'} missing before it can start
            </summary>
            <ul className="text-failed">
              {problems.map((p) => (
                <li key={`${p.pointer} ${p.reason}`}>
                  {p.pointer.slice(1)}: {p.reason}
                </li>
              ))}
            </ul>
          </details>
        )}
        {failure !== null && <p className="px-3 py-2 text-failed">{failure}</p>}
      </Card>
      {lane.direction === '<-' ? <Newcomers preview={preview} /> : <Crossing editing={editing} preview={preview} />}
      {lane.direction === '<->' && preview.newcomers.length > 0 && <Newcomers preview={preview} />}
      <Card title="In words">
        <ul className="px-3 py-2">
          {preview.says.map((s) => (
            <li key={s} className="mb-1">
              {s}
            </li>
          ))}
        </ul>
      </Card>
    </>
  );
}

const fieldsOf = (item: PreviewAnswer['items'][number]) => item.fields as Record<string, string>;

/** A record left, and the event that it becomes right. */
function Crossing({ editing, preview }: { editing: Editing; preview: PreviewAnswer }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const [typed, setTyped] = useState('');
  const item = preview.items.find((i) => i.recordId === wanted) ?? preview.items[0];
  if (item === undefined) return null;
  return (
    <Card title="A record as it would cross">
      <div className="px-3 py-2">
        <Choice
          label="Sample"
          className="w-full"
          value={item.recordId}
          options={preview.items.map((i) => ({ value: i.recordId, label: `${i.label} (${i.about})` }))}
          onChange={setWanted}
        />
        <form
          className="mt-1.5 flex gap-1.5"
          onSubmit={(e) => {
            e.preventDefault();
            editing.showAlso(typed.trim());
            setWanted(typed.trim());
          }}
        >
          <Words label="Another record, by its id" place="another record, by its id" value={typed} onChange={setTyped} />
          <Button type="submit" disabled={typed.trim() === ''}>
            Show
          </Button>
        </form>
        {wanted !== null && wanted !== item.recordId && <p className="text-soft">There is no record "{wanted}" among those that were read.</p>}
      </div>
      {item.moments.map((m) => (
        <div key={m.moment} className="border-t border-line">
          {item.moments.length > 1 && <h3 className="px-3 pt-2 font-semibold">{m.moment}</h3>}
          {m.verdict !== null && (
            <p className="mx-3 my-2 rounded bg-sunk px-2 py-1">
              Would not cross: {m.verdict.reason} ({m.verdict.condition}; found {m.verdict.value || 'nothing'})
            </p>
          )}
          {(m.verdict === null || item.moments.length === 1) && (
            <ul>
              {propertyNames
                .filter((p) => sayAny((m.values as Record<string, unknown>)[p]) !== '')
                .map((p) => (
                  <li key={p} className="grid grid-cols-2 border-b border-line last:border-0">
                    <div className="min-w-0 break-words bg-records-wash px-2 py-1">
                      {sourcesOf(editing.lane, m.moment, p).map((name) => (
                        <p key={name}>
                          <span className="text-[0.87rem] text-records">{name}</span>{' '}
                          {cut(fieldsOf(item)[name] ?? '') || <span className="text-soft">(none)</span>}
                        </p>
                      ))}
                    </div>
                    <div className="min-w-0 break-words whitespace-pre-wrap px-2 py-1">
                      <span className="text-[0.87rem] text-calendar">{p}</span> {cut(sayAny((m.values as Record<string, unknown>)[p]))}
                    </div>
                  </li>
                ))}
            </ul>
          )}
          {m.unfit.map((u) => (
            <p key={u.property} className="px-3 py-1 text-failed">
              {u.property} cannot cross: {u.field} {u.reason}
            </p>
          ))}
          {m.notes.map((n) => (
            <p key={n} className="px-3 py-1 text-soft">
              {n}
            </p>
          ))}
        </div>
      ))}
      <details className="border-t border-line px-3 py-2">
        <summary className="font-medium text-records">The record</summary>
        <table>
          <tbody>
            {Object.entries(fieldsOf(item)).map(([name, value]) => (
              <tr key={name}>
                <th scope="row">{name}</th>
                <td className="break-words">{value === '' ? <span className="text-soft">(none)</span> : cut(value)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
      {editing.lane.direction !== '->' && (
        <TryBack
          editing={editing}
          record={item.recordId}
          moment={item.moments[0]?.moment ?? ''}
          values={(item.moments[0]?.values ?? {}) as Record<string, unknown>}
        />
      )}
    </Card>
  );
}

/** The fields that a property is made from. */
function sourcesOf(lane: Edited, momentName: string, property: string): string[] {
  const moment = lane.moments?.find((m) => m.name === momentName);
  if (property === 'when')
    return Object.values(moment?.when ?? {}).filter(
      (v): v is string => typeof v === 'string' && !['ending', 'starting', 'all-day'].includes(v) && !/^\d\d:\d\d$/.test(v),
    );
  const given = moment?.fields?.[property as MappableName] ?? lane.fields?.[property as MappableName] ?? [];
  const [map] = [given].flat();
  if (map === undefined) return [];
  if ('copy' in map) return [map.copy];
  if ('table' in map) return [map.table];
  if ('words' in map) return [map.words];
  if ('people' in map) return [map.people];
  if ('rule' in map) return [map.rule, ...(map.excluded === undefined ? [] : [map.excluded])];
  if ('repeats' in map) return Object.values(map.repeats).filter((name) => typeof name === 'string');
  return 'join' in map ? [...map.join.matchAll(/\{([^{}]+)\}/g)].map((found) => found[1]!) : [];
}

const cut = (text: string) => (text.length > 260 ? `${text.slice(0, 260)}...` : text);

/** Type on the calendar's side, and see what would come back. */
function TryBack({ editing, record, moment, values }: { editing: Editing; record: string; moment: string; values: Record<string, unknown> }) {
  const [property, setProperty] = useState('title');
  const [typed, setTyped] = useState<string | null>(null);
  const value = typed ?? sayAny(values[property]);
  const back = useQuery({
    queryKey: ['back', JSON.stringify(editing.lane), record, moment, property, value],
    queryFn: () =>
      client.preview({
        definition: editing.lane,
        edit: { record, moment, property, value },
        ...(editing.draft.lane === null ? {} : { lane: editing.draft.lane }),
      }),
    enabled: typed !== null,
    placeholderData: (last) => last,
  });
  const found = back.data?.back ?? null;
  return (
    <section className="border-t border-line px-3 py-2" aria-label="Try an edit on the calendar">
      <h3 className="mb-1 font-medium">Try an edit on the calendar</h3>
      <div className="flex gap-1.5">
        <Choice
          label="Property"
          value={property}
          options={['title', 'description', 'location', 'categories', 'attendees', 'status', 'busy']}
          onChange={(p) => {
            setProperty(p);
            setTyped(null);
          }}
        />
        <Words label={`New ${property}`} value={value} onChange={setTyped} />
      </div>
      {typed !== null && found !== null && (
        <div className="mt-1" role="status">
          {Object.entries(found.fields as Record<string, string>).map(([name, v]) => (
            <p key={name}>
              <span className="text-records">{name}</span> becomes <strong>{v === '' ? '(empty)' : v}</strong>
            </p>
          ))}
          {found.reason !== null && <p className="text-soft">{found.reason}</p>}
        </div>
      )}
      {back.isError && <p className="text-failed">{reasonOf(back.error)}</p>}
    </section>
  );
}

/** Events that are there, and the records they would become. */
function Newcomers({ preview }: { preview: PreviewAnswer }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const item = preview.newcomers.find((n) => n.href === wanted) ?? preview.newcomers.find((n) => n.verdict === null) ?? preview.newcomers[0];
  if (item === undefined)
    return (
      <Card title="An event as it would cross">
        <p className="px-3 py-2 text-soft">Each event on the calendar has its record already or belongs to another lane.</p>
      </Card>
    );
  return (
    <Card title="An event as it would cross">
      <div className="px-3 py-2">
        <Choice
          label="Sample event"
          className="w-full"
          value={item.href}
          options={preview.newcomers.map((n) => ({ value: n.href, label: n.label }))}
          onChange={setWanted}
        />
      </div>
      {item.verdict !== null && (
        <p className="mx-3 my-2 rounded bg-sunk px-2 py-1">
          Would not cross: {item.verdict.reason} ({item.verdict.condition}; found {item.verdict.value || 'nothing'})
        </p>
      )}
      <table>
        <tbody>
          {Object.entries(item.fields as Record<string, string>).map(([name, value]) => (
            <tr key={name}>
              <th scope="row" className="text-records">
                {name}
              </th>
              <td className="break-words">{cut(value)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <details className="border-t border-line px-3 py-2">
        <summary className="font-medium text-calendar">The event</summary>
        <table>
          <tbody>
            {propertyNames
              .filter((p) => sayAny((item.values as Record<string, unknown>)[p]) !== '')
              .map((p) => (
                <tr key={p}>
                  <th scope="row">{p}</th>
                  <td className="break-words">{cut(sayAny((item.values as Record<string, unknown>)[p]))}</td>
                </tr>
              ))}
          </tbody>
        </table>
      </details>
    </Card>
  );
}
