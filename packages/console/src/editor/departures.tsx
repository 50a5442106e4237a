import { conflictRules, type Departures, type Field, propertyNames } from '@monsoon/core';
import { Card } from '../parts/basics.tsx';
import { Choice, Count, Setting, Words } from '../parts/controls.tsx';
import type { Edited, Editing } from './draft.ts';

type Which = keyof Departures;
type Question = { [W in Which]: { which: W; ask: string; ways: ('->' | '<-' | '<->')[]; says: Record<Departures[W], string> } }[Which];

/** Each way to leave as a question, in words with the lane's own nouns. */
const questions = (record: string): Question[] => [
  {
    which: 'recordDeleted',
    ask: `A ${record} is deleted. What should happen to its event?`,
    ways: ['->', '<->'],
    says: { hold: 'Ask a person', remove: 'It is removed', 'mark cancelled': 'It is marked as cancelled', keep: 'It stays' },
  },
  {
    which: 'filteredOut',
    ask: `A ${record} no longer passes the filter. What should happen to its event?`,
    ways: ['->', '<->'],
    says: { hold: 'Ask a person', remove: 'It is removed', keep: 'It stays' },
  },
  {
    which: 'dateLost',
    ask: `A ${record} loses its date. What should happen to its event?`,
    ways: ['->', '<->'],
    says: { hold: 'Ask a person', remove: 'It is removed', keep: 'It stays' },
  },
  {
    which: 'eventDeleted',
    ask: `Somebody deletes the event. What should happen to the ${record}?`,
    ways: ['->', '<->', '<-'],
    says: {
      hold: 'Ask a person',
      'delete record': `The ${record} is deleted`,
      'set fields': 'Some of its fields are set',
      'create again': 'The event is created again',
      unlink: `The ${record} stays, and is left alone`,
    },
  },
  {
    which: 'eventCancelled',
    ask: `Somebody cancels the event. What should happen to the ${record}?`,
    ways: ['<->', '<-'],
    says: { hold: 'Ask a person', 'as deleted': 'As when it is deleted', 'set fields': 'Some of its fields are set' },
  },
  {
    which: 'eventFilteredOut',
    ask: `The event no longer passes the filter of events. What should happen to the ${record}?`,
    ways: ['<->', '<-'],
    says: { hold: 'Ask a person', 'delete record': `The ${record} is deleted`, keep: 'It stays' },
  },
  {
    which: 'editedAndDeleted',
    ask: 'One side is edited while the other is deleted. Who is right?',
    ways: ['<->'],
    says: { hold: 'Ask a person', 'edit wins': 'The edit: it is created again', 'deletion wins': 'The deletion' },
  },
];

const rules: Record<(typeof conflictRules)[number], string> = {
  hold: 'Ask a person',
  'records win': 'The records win',
  'calendar wins': 'The calendar wins',
  'later edit wins': 'The later edit wins',
};

export function DeparturesSection({ lane, change, wrong, fields }: Editing & { fields: readonly Field[] }) {
  const direction = lane.direction ?? '->';
  const record = 'record';
  const asked = questions(record).filter((q) => q.ways.includes(direction));
  const decide = (which: Which, choice: string) =>
    change((l) => ({ ...l, departures: { ...l.departures, [which]: choice } as NonNullable<Edited['departures']> }));
  return (
    <>
      <Card title="When an item leaves">
        <p className="px-3 pt-2 text-soft">Nothing is ever deleted unless you choose it here.</p>
        {asked.map((q) => (
          <div key={q.which} className="grid gap-1 px-3 py-1.5 md:grid-cols-[minmax(0,1fr)_17rem]">
            <span>{q.ask}</span>
            <div>
              <Choice
                label={q.ask}
                className="w-full"
                value={lane.departures?.[q.which] ?? 'hold'}
                options={Object.entries(q.says).map(([value, label]) => ({ value, label }))}
                onChange={(choice) => decide(q.which, choice)}
              />
              {wrong(`/departures/${q.which}`).map((w) => (
                <p key={w} className="text-failed">
                  {w}
                </p>
              ))}
              {(q.which === 'eventDeleted' || q.which === 'eventCancelled') && lane.departures?.[q.which] === 'set fields' && (
                <SetFields which={q.which} lane={lane} change={change} wrong={wrong(`/sets/${q.which}`)} fields={fields} />
              )}
            </div>
          </div>
        ))}
      </Card>
      {direction === '<->' && (
        <Card title="When both sides change the same thing">
          <Setting label="In general" wrong={wrong('/conflicts/rule')}>
            {(id) => (
              <Choice
                id={id}
                value={lane.conflicts?.rule ?? 'hold'}
                options={conflictRules.map((value) => ({ value, label: rules[value] }))}
                onChange={(rule) => change((l) => ({ ...l, conflicts: { ...l.conflicts, rule } }))}
              />
            )}
          </Setting>
          <Setting label="But for" hint="A property with a rule of its own.">
            {(id) => (
              <div className="grid gap-1.5">
                {Object.entries(lane.conflicts?.fields ?? {})
                  .filter(([, rule]) => rule !== undefined)
                  .map(([property, rule]) => (
                    <span key={property} className="flex items-center gap-2">
                      <span className="w-28">{property}</span>
                      <Choice
                        label={`Rule for ${property}`}
                        value={rule}
                        empty="as in general"
                        options={conflictRules.map((value) => ({ value, label: rules[value] }))}
                        onChange={(next) =>
                          change((l) => ({
                            ...l,
                            conflicts: {
                              ...l.conflicts,
                              fields: Object.fromEntries(
                                Object.entries({ ...l.conflicts?.fields, [property]: next }).filter(([, v]) => v !== '' && v !== undefined),
                              ),
                            },
                          }))
                        }
                      />
                    </span>
                  ))}
                <Choice
                  id={id}
                  className="w-60"
                  value=""
                  empty="Add a property"
                  options={propertyNames.filter((p) => lane.conflicts?.fields?.[p] === undefined)}
                  onChange={(property) =>
                    change((l) => ({ ...l, conflicts: { ...l.conflicts, fields: { ...l.conflicts?.fields, [property]: 'later edit wins' } } }))
                  }
                />
              </div>
            )}
          </Setting>
        </Card>
      )}
      <Card title="Limits">
        {direction === '->' && (
          <Setting label="Edits on the calendar" hint="where the lane does not carry them back">
            {(id) => (
              <Choice
                id={id}
                value={lane.foreignEdits ?? 'put back'}
                options={[
                  { value: 'put back', label: 'are put back' },
                  { value: 'leave', label: 'are left alone' },
                ]}
                onChange={(foreignEdits) => change((l) => ({ ...l, foreignEdits }))}
              />
            )}
          </Setting>
        )}
        <Setting label="Guard" hint="A run that would do more stops before it does, and asks." wrong={wrong('/guard')}>
          {(id) => (
            <div className="flex flex-wrap items-center gap-2">
              at most{' '}
              <Count id={id} value={lane.guard?.removals ?? 10} onChange={(removals) => change((l) => ({ ...l, guard: { ...l.guard, removals } }))} />{' '}
              removals, or
              <Count
                label="Percent removed"
                value={lane.guard?.removedPercent ?? 20}
                onChange={(removedPercent) => change((l) => ({ ...l, guard: { ...l.guard, removedPercent } }))}
              />
              % of the pairs, or
              <Count
                label="Percent rewritten"
                value={lane.guard?.rewrittenPercent ?? 50}
                onChange={(rewrittenPercent) => change((l) => ({ ...l, guard: { ...l.guard, rewrittenPercent } }))}
              />
              % rewritten
            </div>
          )}
        </Setting>
      </Card>
    </>
  );
}

/** The fields that a record gets when its event goes. */
function SetFields({
  which,
  lane,
  change,
  wrong,
  fields,
}: Pick<Editing, 'lane' | 'change'> & { which: 'eventDeleted' | 'eventCancelled'; wrong: string[]; fields: readonly Field[] }) {
  const sets = lane.sets?.[which] ?? {};
  const put = (next: Record<string, unknown>) => change((l) => ({ ...l, sets: { ...l.sets, [which]: next } }));
  return (
    <div className="mt-1 grid gap-1">
      {Object.entries(sets).map(([name, value]) => {
        const field = fields.find((f) => f.name === name);
        return (
          <span key={name} className="flex items-center gap-1.5">
            {field?.label ?? name}:
            {field?.choices !== undefined ? (
              <Choice label={`Value of ${name}`} value={String(value ?? '')} options={field.choices} onChange={(v) => put({ ...sets, [name]: v })} />
            ) : (
              <Words
                label={`Value of ${name}`}
                className="w-36"
                value={String(value ?? '')}
                onChange={(v) => put({ ...sets, [name]: field?.type === 'yes/no' ? v === 'yes' : v })}
              />
            )}
          </span>
        );
      })}
      <Choice
        label="Field to set"
        value=""
        empty="Set a field"
        options={fields.filter((f) => f.readOnly !== true && sets[f.name] === undefined).map((f) => ({ value: f.name, label: f.label }))}
        onChange={(name) =>
          put({
            ...sets,
            [name]:
              fields.find((f) => f.name === name)?.choices?.find((c) => /cancel/i.test(c)) ?? fields.find((f) => f.name === name)?.choices?.[0] ?? '',
          })
        }
      />
      {wrong.map((w) => (
        <p key={w} className="text-failed">
          {w}
        </p>
      ))}
    </div>
  );
}
