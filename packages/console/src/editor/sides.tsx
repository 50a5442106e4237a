import type { SystemAnswer } from '@monsoon/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { client, queries, reasonOf } from '../data.ts';
import { Button, Card, Failure } from '../parts/basics.tsx';
import { Choice, type Option, Setting, Words } from '../parts/controls.tsx';
import { type Editing, shortName } from './draft.ts';

/** Systems that hold records, and systems that hold calendars, with what they hold. */
export function useSystems() {
  return useQuery({ queryKey: ['systems'], queryFn: () => client.systems() });
}

const named = (systems: SystemAnswer[]): Option[] => systems.map((s) => ({ value: s.slug, label: s.name }));

export function Sides({ lane, change, wrong, draft, slug, changeSlug }: Editing) {
  const systems = useSystems();
  const all = systems.data?.items ?? [];
  const left = all.filter((s) => s.offers.includes('records'));
  const right = all.filter((s) => s.offers.includes('calendars'));
  const collections = useQuery({
    queryKey: ['systems', lane.records?.system, 'collections'],
    queryFn: () => client.collections(lane.records!.system!),
    enabled: (lane.records?.system ?? '') !== '',
  });
  const calendars = useQuery({
    queryKey: ['systems', lane.calendar?.system, 'calendars'],
    queryFn: () => client.calendars(lane.calendar!.system!),
    enabled: (lane.calendar?.system ?? '') !== '',
  });
  const fixed = draft.lane !== null;
  const shortNamed = slug === '' ? shortName(lane.name ?? '') : slug;
  const lanes = useQuery({ queryKey: ['lanes'], queryFn: () => client.lanes(), enabled: !fixed });
  const badSlug = !/^[a-z0-9][a-z0-9-]{0,62}$/.test(shortNamed)
    ? shortNamed === ''
      ? []
      : [`"${shortNamed}" is not 1 to 63 small letters, digits and dashes`]
    : lanes.data?.items.some((l) => l.slug === shortNamed) === true
      ? [`there is a lane "${shortNamed}" already; choose another short name`]
      : [];
  return (
    <Card title="Sides">
      <Setting label="Name" wrong={wrong('/name')}>
        {(id) => <Words id={id} value={lane.name ?? ''} place="Tuning visits" onChange={(name) => change((l) => ({ ...l, name }))} />}
      </Setting>
      {!fixed && (
        <Setting label="Short name" hint="for lane files and the command line" wrong={badSlug}>
          {(id) => <Words id={id} value={shortNamed} wrong={badSlug.length > 0} onChange={changeSlug} />}
        </Setting>
      )}
      {fixed ? (
        <p className="px-3 py-2 text-soft">
          {lane.records?.system}: {lane.records?.collection} and {lane.calendar?.system}. A lane keeps its two sides, because its pairs speak of them;
          arrange another lane for another side.
        </p>
      ) : (
        <div className="grid gap-3 p-3 md:grid-cols-2">
          <section className="rounded border border-line bg-records-wash p-3" aria-label="Records">
            <h3 className="mb-2 font-semibold text-records">Records</h3>
            <Choice
              label="System of the records"
              className="mb-2 w-full"
              value={lane.records?.system ?? ''}
              empty="Choose a system"
              options={named(left)}
              onChange={(system) => change((l) => ({ ...l, records: { system } }))}
            />
            <Choice
              label="Collection"
              className="w-full"
              value={lane.records?.collection ?? ''}
              empty={collections.isPending && collections.fetchStatus !== 'idle' ? 'Looking...' : 'Choose a collection'}
              options={(collections.data?.items ?? []).map((c) => ({ value: c.name, label: `${c.label} (${c.fields.length} fields)` }))}
              wrong={wrong('/records').length > 0}
              onChange={(collection) => change((l) => ({ ...l, records: { ...l.records, collection } }))}
            />
            {[...wrong('/records'), ...(collections.isError ? [reasonOf(collections.error)] : [])].map((w) => (
              <p key={w} className="text-failed">
                {w}
              </p>
            ))}
          </section>
          <section className="rounded border border-line bg-calendar-wash p-3" aria-label="Calendar">
            <h3 className="mb-2 font-semibold text-calendar">Calendar</h3>
            <Choice
              label="System of the calendar"
              className="mb-2 w-full"
              value={lane.calendar?.system ?? ''}
              empty="Choose a system"
              options={named(right)}
              onChange={(system) => change((l) => ({ ...l, calendar: { system } }))}
            />
            <Choice
              label="Calendar"
              className="w-full"
              value={lane.calendar?.calendar ?? ''}
              empty={calendars.isPending && calendars.fetchStatus !== 'idle' ? 'Looking...' : 'Choose a calendar'}
              options={(calendars.data?.items ?? []).map((c) => ({ value: c.href, label: c.writable ? c.name : `${c.name} (read only)` }))}
              wrong={wrong('/calendar').length > 0}
              onChange={(calendar) => change((l) => ({ ...l, calendar: { ...l.calendar, calendar } }))}
            />
            {[...wrong('/calendar'), ...(calendars.isError ? [reasonOf(calendars.error)] : [])].map((w) => (
              <p key={w} className="text-failed">
                {w}
              </p>
            ))}
            {(lane.calendar?.system ?? '') !== '' && (
              <NewCalendar
                system={lane.calendar!.system!}
                suggested={lane.name ?? ''}
                onMade={(calendar) => change((l) => ({ ...l, calendar: { ...l.calendar, calendar } }))}
              />
            )}
          </section>
        </div>
      )}
      {left.length === 0 && systems.isSuccess && (
        <p className="px-3 pb-3">
          No system with records is connected yet: <Link to="/systems/new">connect one</Link>, then come back; the draft is kept.
        </p>
      )}
    </Card>
  );
}

/** A calendar of the lane's own: the safe choice. */
function NewCalendar({ system, suggested, onMade }: { system: string; suggested: string; onMade: (href: string) => void }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState<string | null>(null);
  const [colour, setColour] = useState('#0d5755');
  const make = useMutation({
    mutationFn: () => client.makeCalendar(system, name ?? suggested, colour),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['systems', system, 'calendars'] });
      onMade(made.href);
      setOpen(false);
    },
  });
  if (!open)
    return (
      <Button quiet className="mt-1" onClick={() => setOpen(true)}>
        Make a new calendar
      </Button>
    );
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <Words label="Name of the new calendar" className="min-w-0 flex-1" value={name ?? suggested} onChange={setName} />
      <input type="color" aria-label="Colour of the new calendar" value={colour} onChange={(e) => setColour(e.target.value)} className="h-8 w-10" />
      <Button type="submit" disabled={make.isPending || (name ?? suggested).trim() === ''}>
        Make it
      </Button>
      {make.isError && <Failure>{reasonOf(make.error)}</Failure>}
    </form>
  );
}
