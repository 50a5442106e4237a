import { eventFields, type Field } from '@monsoon/core';
import { Card } from '../parts/basics.tsx';
import { Choice, Count, Setting, Tick } from '../parts/controls.tsx';
import { ConditionEditor, type Values } from './conditions.tsx';
import type { Editing } from './draft.ts';
import { RepeatingEvents } from './repeating.tsx';

/** What belongs to a lane by its direction. */
const itemsOf = { '->': 'records', '<-': 'events', '<->': 'records and events' };

/** Which items belong: filter, private, window, start line, and which events become records. */
export function Which({ lane, change, wrong, preview, fields, values }: Editing & { fields: readonly Field[]; values: Values }) {
  const direction = lane.direction ?? '->';
  const hidden = fields.filter((f) => f.type === 'yes/no');
  const window = lane.window ?? null;
  return (
    <Card title="Which items">
      {direction !== '<-' && (
        <>
          <ConditionEditor
            label="Records that cross"
            text={lane.filter ?? ''}
            fields={fields}
            values={values}
            wrong={wrong('/filter')}
            onChange={(filter) => change((l) => ({ ...l, filter: filter.trim() === '' ? null : filter }))}
          />
          <Setting label="Private records" wrong={wrong('/private')}>
            {(id) => (
              <div className="flex flex-wrap gap-2">
                <Choice
                  id={id}
                  value={lane.private?.field ?? ''}
                  empty="No field says so"
                  options={hidden.map((f) => ({ value: f.name, label: f.label }))}
                  onChange={(field) => change((l) => ({ ...l, private: field === '' ? null : { field, treat: l.private?.treat ?? 'leave out' } }))}
                />
                {lane.private != null && (
                  <Choice
                    label="Private records"
                    value={lane.private.treat}
                    options={[
                      { value: 'leave out', label: 'are left out' },
                      { value: 'take', label: 'cross like others' },
                    ]}
                    onChange={(treat) => change((l) => ({ ...l, private: { field: l.private!.field, treat } }))}
                  />
                )}
              </div>
            )}
          </Setting>
        </>
      )}
      {direction !== '->' && (
        <>
          <ConditionEditor
            label="Events that become records"
            text={lane.events?.filter ?? ''}
            fields={eventFields}
            values={{}}
            wrong={wrong('/events/filter')}
            onChange={(filter) => change((l) => ({ ...l, events: { ...l.events, filter: filter.trim() === '' ? null : filter } }))}
          />
          <div className="flex flex-wrap gap-4 px-3 py-1.5">
            {(
              [
                ['private', 'take private events'],
                ['otherLanes', 'take events made by other lanes'],
              ] as const
            ).map(([what, label]) => (
              <Tick
                key={what}
                label={label}
                checked={lane.events?.[what] === 'take'}
                onChange={(yes) => change((l) => ({ ...l, events: { ...l.events, [what]: yes ? 'take' : 'leave out' } }))}
              />
            ))}
          </div>
          <RepeatingEvents lane={lane} change={change} wrong={wrong} preview={preview} />
        </>
      )}
      <Setting label="Window" hint="An item belongs when any part of it lies within." wrong={wrong('/window')}>
        {(id) => (
          <div className="flex flex-wrap items-center gap-2">
            <Tick
              label="only"
              checked={window !== null}
              onChange={(yes) => change((l) => ({ ...l, window: yes ? { behind: 30, ahead: 365 } : null }))}
            />
            {window !== null && (
              <>
                <Count
                  id={id}
                  value={window.behind}
                  onChange={(behind) => change((l) => ({ ...l, window: { ahead: l.window?.ahead ?? 365, behind } }))}
                />{' '}
                days back and
                <Count
                  label="Days ahead"
                  value={window.ahead}
                  onChange={(ahead) => change((l) => ({ ...l, window: { behind: l.window?.behind ?? 30, ahead } }))}
                />{' '}
                days ahead
              </>
            )}
          </div>
        )}
      </Setting>
      <Setting label="Start line" hint={`Only ${itemsOf[direction]} made since; without it, all of history.`} wrong={wrong('/startLine')}>
        {(id) => (
          <div className="flex flex-wrap items-center gap-2">
            <input
              id={id}
              type="date"
              value={lane.startLine?.slice(0, 10) ?? ''}
              className="rounded border border-line bg-paper px-2 py-1"
              onChange={(e) => change((l) => ({ ...l, startLine: e.target.value || null }))}
            />
          </div>
        )}
      </Setting>
      {preview?.records != null && direction !== '<-' && (
        <div className="border-t border-line">
          <p className="px-3 pt-2">
            <strong className="tabular-nums">{preview.records.crossing}</strong> of {preview.records.read} records cross
            {preview.records.complete ? '' : ' (of the first that were read)'}; why the others do not:
          </p>
          <Reasons of={preview.records.reasons} />
        </div>
      )}
      {preview?.events != null && direction !== '->' && (
        <div className="border-t border-line">
          <p className="px-3 pt-2">
            <strong className="tabular-nums">{preview.events.crossing}</strong> of {preview.events.read} events would become records,{' '}
            {preview.events.own} are this lane's; why the others would not:
          </p>
          <Reasons of={preview.events.reasons} />
        </div>
      )}
    </Card>
  );
}

function Reasons({ of }: { of: { reason: string; condition: string; count: number; example: string }[] }) {
  if (of.length === 0) return <p className="px-3 py-2 text-soft">Nothing is left out.</p>;
  return (
    <table>
      <thead>
        <tr>
          <th className="w-16">Count</th>
          <th>Why</th>
          <th>For example</th>
        </tr>
      </thead>
      <tbody>
        {of.map((r) => (
          <tr key={`${r.reason} ${r.condition}`}>
            <td>{r.count}</td>
            <td>
              {r.reason}: <span className="text-soft">{r.condition}</span>
            </td>
            <td className="break-words">{r.example}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
