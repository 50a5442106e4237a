import { type Departures, fieldMapsOf, formatCondition, type LaneDefinition } from '@monsoon/core';

const join = (parts: string[]) => (parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`);

const gone: { [D in 'recordDeleted' | 'filteredOut' | 'dateLost' | 'eventDeleted']: Record<Departures[D], string> } = {
  recordDeleted: {
    hold: 'a person is asked',
    remove: 'its event is removed',
    'mark cancelled': 'its event is marked as cancelled',
    keep: 'its event stays',
  },
  filteredOut: { hold: 'a person is asked', remove: 'its event is removed', keep: 'its event stays' },
  dateLost: { hold: 'a person is asked', remove: 'its event is removed', keep: 'its event stays' },
  eventDeleted: {
    hold: 'a person is asked',
    'delete record': 'its record is deleted',
    'set fields': 'its record is marked',
    'create again': 'it is created again',
    unlink: 'its record is left alone from then on',
  },
};

/** What a lane will do, in sentences for people. Records are called by the collection's own name. */
export function sayLane(lane: LaneDefinition, names: { records: string; calendar: string }): string[] {
  const { direction, may } = lane;
  const said: string[] = [];
  const where = `${names.records} and ${names.calendar}`;
  const way = {
    '->': `${names.records} go to ${names.calendar}`,
    '<-': `${names.calendar} goes to ${names.records}`,
    '<->': `${where} are kept alike, both ways`,
  }[direction];
  said.push(`${way}${lane.filter === null ? '' : `, where ${formatCondition(lane.filter)}`}.`);
  const on = (side: 'records' | 'calendar', name: string, item: string) => {
    const does = [...(may[side].create ? [`new ${item} are made`] : []), ...(may[side].change ? [`${item} are changed`] : [])];
    return does.length === 0 ? `nothing is written in ${name}` : `in ${name}, ${join(does)}`;
  };
  said.push(`${capital(on('calendar', names.calendar, 'events'))}; ${on('records', names.records, 'records')}.`);
  const { repeating } = lane.events;
  if (lane.direction !== '<-' && fieldMapsOf(lane, 'recurrence').length > 0) said.push('A record with a rule is an event that repeats.');
  if (lane.direction !== '->' && repeating !== 'leave out')
    said.push(
      repeating === 'one record' ? 'An event that repeats is one record.' : 'Of an event that repeats, each occurrence is a record of its own.',
    );
  if (lane.window !== null) said.push(`Only from ${lane.window.behind} days back to ${lane.window.ahead} days ahead.`);
  if (direction !== '<-')
    said.push(
      `When a record is deleted, ${gone.recordDeleted[lane.departures.recordDeleted]}; when it is filtered out, ${gone.filteredOut[lane.departures.filteredOut]}; when it loses its date, ${gone.dateLost[lane.departures.dateLost]}.`,
    );
  said.push(`When an event is deleted, ${gone.eventDeleted[lane.departures.eventDeleted]}.`, sayCancelled(lane));
  if (direction === '<->')
    said.push(
      {
        hold: 'When both sides change the same thing, a person is asked.',
        'records win': 'When both sides change the same thing, the record wins.',
        'calendar wins': 'When both sides change the same thing, the calendar wins.',
        'later edit wins': 'When both sides change the same thing, the later edit wins.',
      }[lane.conflicts.rule],
    );
  else if (direction === '->' && lane.may.calendar.change)
    said.push(lane.foreignEdits === 'put back' ? 'Edits made on the calendar are put back.' : 'Edits made on the calendar are left alone.');
  if (lane.quiet !== null) said.push(`Nothing crosses by itself from ${lane.quiet.from} to ${lane.quiet.until}.`);
  return said;
}

/** How the rule for cancelled events and a mapped status meet: the departure comes first. */
function sayCancelled({ fields, moments, departures, direction }: LaneDefinition): string {
  const rule = departures.eventCancelled;
  const what = rule === 'as deleted' ? gone.eventDeleted[departures.eventDeleted] : rule === 'hold' ? 'a person is asked' : 'its record is marked';
  const mapped = [fields.status, ...moments.map((m) => m.fields?.status)].some((m) => m !== undefined);
  const status = direction === '<-' ? 'its status is not brought to the record' : 'the status of its record is not put back';
  return `When an event is cancelled, ${what}${mapped ? `; that comes before the map of its status, and ${status}` : ''}.`;
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
