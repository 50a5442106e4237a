import type { LaneAnswer } from '@monsoon/contract';
import type { FieldMap, LaneDefinition, Permissions } from '@monsoon/core';
import { formatCondition } from '@monsoon/core/text';
import { Card } from './basics.tsx';

const list = (items: string[]) => (items.length < 2 ? items.join('') : `${items.slice(0, -1).join(', ')} and ${items.at(-1)}`);
const quoted = (text: string) => `"${text.replaceAll('\n', ' / ')}"`;

/** A plain setting: `start: starts; minutes: 60`. */
const sayParts = (parts: object) =>
  Object.entries(parts)
    .filter(([, value]) => value !== undefined)
    .map(([name, value]) => `${name}: ${Array.isArray(value) ? list(value.map(String)) : String(value)}`)
    .join('; ');

const ways: Record<NonNullable<FieldMap['direction']>, string> = {
  '->': 'only to the calendar',
  '<-': 'only back to the record',
  '<->': 'both ways',
  once: 'once, when it is made',
};

/** What a field map does, in a sentence. */
function sayMap(map: FieldMap): string {
  const what =
    'copy' in map
      ? `the field ${map.copy}`
      : 'join' in map
        ? `${quoted(map.join)}${map.edit === undefined ? '' : `, of which ${map.edit} may be edited`}`
        : 'fixed' in map
          ? `always ${list([map.fixed].flat().map(quoted))}`
          : 'table' in map
            ? `by the field ${map.table}: ${Object.entries(map.values)
                .map(([from, to]) => `${from} is ${to}`)
                .join(', ')}`
            : 'words' in map
              ? `sets the field ${map.words} by words: ${map.choose.map((c) => `${quoted(c.word)} means ${c.value}`).join(', ')}`
              : 'people' in map
                ? `the people of the field ${map.people}${map.in === undefined ? '' : `, known by address in ${map.in}`}`
                : 'rule' in map
                  ? `the rule of the field ${map.rule}${map.excluded === undefined ? '' : `, without the days of ${map.excluded}`}`
                  : 'repeats' in map
                    ? `the rule of ${Object.entries(map.repeats)
                        .flatMap(([part, name]) => (typeof name === 'string' ? [`${part}: ${name}`] : []))
                        .join(', ')}`
                    : "the record's own page";
  const otherwise = map.default === undefined ? '' : `, else ${quoted(map.default)}`;
  return `${what}${otherwise}${map.direction === undefined ? '' : `; ${ways[map.direction]}`}`;
}

/** The lane's settings in words. */
const sayMay = (may: Permissions) => (['create', 'change', 'remove'] as const).filter((what) => may[what]).join(', ') || 'nothing';
const sayDeparture = (choice: string, sets: object) =>
  Object.keys(sets).length === 0
    ? choice
    : `${choice}; fields to set: ${Object.entries(sets)
        .map(([name, value]) => `${name} to ${value === null ? 'nothing' : String(value)}`)
        .join(', ')}`;

/** Which events belong, where they become records. */
const sayEvents = ({ events, defaults, link }: LaneDefinition): [string, unknown][] => [
  ['Filter of events', events.filter === null ? null : formatCondition(events.filter)],
  ['Events', `private: ${events.private}; repeating events: ${events.repeating}; of other lanes: ${events.otherLanes}`],
  ['Defaults of new records', sayParts(defaults) || null],
  ['Link', link],
];

export function LaneSettings({ lane }: { lane: LaneAnswer }) {
  const d = lane.definition;
  const say = (value: unknown) => (value === null ? 'none' : String(value));
  const rows: [string, unknown][] = [
    ['Direction', { '->': 'records to calendar', '<-': 'calendar to records', '<->': 'both ways' }[d.direction]],
    ['May, in the records', sayMay(d.may.records)],
    ['May, on the calendar', sayMay(d.may.calendar)],
    ['Zone', d.zone],
    ['Filter', d.filter === null ? null : formatCondition(d.filter)],
    ['Private', d.private === null ? null : `${d.private.field}: ${d.private.treat}`],
    ...(d.direction === '->' ? [] : sayEvents(d)),
    ['Window', d.window === null ? null : `${d.window.behind} days behind, ${d.window.ahead} ahead`],
    ['Start line', d.startLine],
    ...d.moments.map((m): [string, unknown] => [
      `Moment "${m.name}"`,
      sayParts({
        ...m.when,
        ...(m.direction === undefined ? {} : { direction: m.direction }),
        ...(m.filter == null ? {} : { filter: formatCondition(m.filter) }),
      }),
    ]),
    ...Object.entries(d.fields)
      .filter(([, map]) => map !== undefined)
      .map(([name, map]): [string, unknown] => [`Field: ${name}`, [map!].flat().map(sayMap).join('; and ')]),
    ['Conflicts', [d.conflicts.rule, ...Object.entries(d.conflicts.fields).map(([name, rule]) => `${name}: ${rule}`)].join('; ')],
    ['Record deleted', d.departures.recordDeleted],
    ['No longer passes the filter', d.departures.filteredOut],
    ['Lost its date', d.departures.dateLost],
    ['Event deleted', sayDeparture(d.departures.eventDeleted, d.sets.eventDeleted)],
    ['Event cancelled', sayDeparture(d.departures.eventCancelled, d.sets.eventCancelled)],
    ['Event no longer passes the filter', d.departures.eventFilteredOut],
    ['Edited on one side, deleted on the other', d.departures.editedAndDeleted],
    ['Edits that the lane does not carry', d.foreignEdits],
    ['Matched when first paired, by', d.matching.join(' and ') || null],
    ['Guard', `${d.guard.removals} removals or ${d.guard.removedPercent} %, ${d.guard.rewrittenPercent} % rewritten`],
    ['Regular check', `every ${d.checkEvery} minutes`],
    ['Audit', d.auditEvery === 0 ? 'only when asked' : `every ${d.auditEvery} days`],
    ['Notified', d.notify.join(', ') || null],
    ['Quiet hours', d.quiet === null ? null : `${d.quiet.from} to ${d.quiet.until}`],
  ];
  return (
    <Card title={`Version ${lane.version}`} aside={<span className="text-soft">as a file: monsoon lanes export {lane.slug}</span>}>
      <table>
        <tbody>
          {rows.map(([name, value]) => (
            <tr key={name}>
              <th scope="row" className="w-64">
                {name}
              </th>
              <td className="break-words">{say(value)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Card>
  );
}
