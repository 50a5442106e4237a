import { Card } from '../parts/basics.tsx';
import { Cards, Setting, Tick, Words, Wrong } from '../parts/controls.tsx';
import type { Direction, Editing } from './draft.ts';

const ways = [
  { value: '->', label: 'Records to calendar', hint: 'Records are shown on the calendar. Edits there do not come back.' },
  { value: '<->', label: 'Both ways', hint: 'What is changed on one side is changed on the other.' },
  { value: '<-', label: 'Calendar to records', hint: 'Events become records, and edits of events change them.' },
] as const;
const doings = [
  ['create', 'made'],
  ['change', 'changed'],
  ['remove', 'removed'],
] as const;

export function DirectionSection({ lane, change, wrong }: Editing) {
  const direction = lane.direction ?? '->';
  const usual = { records: direction !== '->', calendar: direction !== '<-' };
  return (
    <Card title="Direction">
      <Cards
        legend="Direction"
        value={lane.direction}
        options={ways}
        // What was permitted before belonged to the other direction.
        onChange={(value: Direction) => change(({ may: _may, ...l }) => ({ ...l, direction: value }))}
      />
      <table className="mt-1">
        <thead>
          <tr>
            <th scope="col">The lane may</th>
            <th scope="col" className="text-records">
              in the records
            </th>
            <th scope="col" className="text-calendar">
              on the calendar
            </th>
          </tr>
        </thead>
        <tbody>
          {doings.map(([what, done]) => (
            <tr key={what}>
              <th scope="row">{what === 'create' ? 'make new items' : what === 'change' ? 'change items' : 'remove items'}</th>
              {(['records', 'calendar'] as const).map((side) => (
                <td key={side}>
                  <Tick
                    label={side === 'records' ? `records are ${done}` : `events are ${done}`}
                    checked={lane.may?.[side]?.[what] ?? usual[side]}
                    onChange={(yes) => change((l) => ({ ...l, may: { ...l.may, [side]: { ...l.may?.[side], [what]: yes } } }))}
                  />
                  <Wrong of={wrong(`/may/${side}/${what}`)} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <Setting label="Time zone" hint="for dates, for the days of the window, and for times that name no zone" wrong={wrong('/zone')}>
        {(id) => (
          <>
            <Words
              id={id}
              list="zones"
              value={lane.zone ?? ''}
              place="Europe/London"
              className="w-72"
              onChange={(zone) => change((l) => ({ ...l, zone }))}
            />
            <datalist id="zones">
              {Intl.supportedValuesOf('timeZone').map((z) => (
                <option key={z} value={z} />
              ))}
            </datalist>
          </>
        )}
      </Setting>
    </Card>
  );
}
