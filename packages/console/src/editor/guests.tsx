import { type LaneDefinition, shownProperties } from '@monsoon/core';
import { Card } from '../parts/basics.tsx';
import { Choice, Count, Setting, Tick, Words } from '../parts/controls.tsx';
import type { Edited, Editing } from './draft.ts';

type Invitations = LaneDefinition['invitations'];

const ways: { value: Invitations['by']; label: string; means: string }[] = [
  { value: 'none', label: 'no one', means: 'Guests stand on the event. They get no message from Monsoon or the calendar server.' },
  {
    value: 'mail',
    label: 'Monsoon, by mail',
    means: 'An invitation to new guests, an update when time, place, rule or status changes, a cancellation when it is off.',
  },
  { value: 'calendar server', label: 'the calendar server', means: 'The server schedules (RFC 6638): it writes to guests when the event is stored.' },
];

/** Who invites the guests, how many messages there may be, and what the mail looks like. */
export function GuestsSection({ lane, change, wrong, preview }: Editing) {
  const said: Partial<Invitations> = lane.invitations ?? {};
  const by = said.by ?? 'none';
  const shows = said.shows ?? ['location', 'conference'];
  const set = (more: Partial<Invitations>) => change((l) => ({ ...l, invitations: { ...l.invitations, ...more } }));
  const setEvents = (more: Partial<NonNullable<Edited['events']>>) => change((l) => ({ ...l, events: { ...l.events, ...more } }));
  return (
    <>
      <Card title="Guests">
        <Setting label="Guests are invited by" hint={ways.find((w) => w.value === by)?.means} wrong={wrong('/invitations/by')}>
          {(id) => <Choice id={id} value={by} options={ways} onChange={(value) => set({ by: value as Invitations['by'] })} />}
        </Setting>
        {by !== 'none' && (
          <>
            <Setting label="In the first run" hint="What is there when the lane begins to invite.">
              {(id) => (
                <Choice
                  id={id}
                  value={said.firstRun ?? 'quiet'}
                  options={[
                    { value: 'quiet', label: 'no messages; present guests count as informed' },
                    { value: 'invite', label: 'every guest is invited' },
                  ]}
                  onChange={(value) => set({ firstRun: value as Invitations['firstRun'] })}
                />
              )}
            </Setting>
            <Setting
              label="Most messages"
              hint="Beyond either, the run waits for a person."
              wrong={[...wrong('/invitations/perRun'), ...wrong('/invitations/perGuest')]}
            >
              {(id) => (
                <span className="flex flex-wrap items-center gap-2">
                  <Count id={id} value={said.perRun ?? 25} onChange={(perRun) => set({ perRun })} /> in a run, and
                  <Count label="Most messages to one guest in a day" value={said.perGuest ?? 5} onChange={(perGuest) => set({ perGuest })} /> to one
                  guest in a day
                </span>
              )}
            </Setting>
            {by === 'mail' && (
              <Setting
                label="Invitations show"
                hint="Title, time, rule and status always. Notes on an event may not be meant for guests."
                wrong={wrong('/invitations/shows')}
              >
                {(id) => (
                  <span id={id} className="flex flex-wrap gap-x-4 gap-y-1">
                    {shownProperties.map((property) => (
                      <Tick
                        key={property}
                        label={property}
                        checked={shows.includes(property)}
                        onChange={(yes) => set({ shows: yes ? [...shows, property] : shows.filter((p) => p !== property) })}
                      />
                    ))}
                  </span>
                )}
              </Setting>
            )}
            {by === 'mail' && (
              <Setting label="A mail waits" hint="Edits within that time are one mail.">
                {(id) => (
                  <span className="flex items-center gap-2">
                    <Count id={id} value={said.wait ?? 60} onChange={(wait) => set({ wait })} /> seconds
                  </span>
                )}
              </Setting>
            )}
          </>
        )}
        <Setting
          label="Organised by others"
          hint="An event that somebody else organises is not the lane's to change: its time, title, place and guests only come to the record. What if the record is edited?"
        >
          {(id) => (
            <Choice
              id={id}
              value={lane.events?.organisedByOthers ?? 'hold'}
              options={[
                { value: 'hold', label: 'Ask a person' },
                { value: 'leave', label: 'Leave both sides as they are' },
              ]}
              onChange={(organisedByOthers) => setEvents({ organisedByOthers })}
            />
          )}
        </Setting>
        <Setting
          label="Own addresses"
          hint="Under which the calendar's owner organises events, where its server does not say; commas between them."
          wrong={wrong('/events/ownAddresses')}
        >
          {(id) => (
            <Words
              id={id}
              value={(lane.events?.ownAddresses ?? []).join(', ')}
              onChange={(text) => setEvents({ ownAddresses: text.split(/[\s,;]+/).filter((a) => a !== '') })}
            />
          )}
        </Setting>
      </Card>
      {preview?.invitation != null && (
        <Card title="The mail as a guest sees it">
          <p className="px-3 pt-2">
            To <strong>{preview.invitation.to}</strong>: {preview.invitation.subject}
          </p>
          <iframe
            title="The mail as a guest sees it"
            sandbox=""
            className="my-2 h-[26rem] w-full border-y border-line bg-white"
            srcDoc={preview.invitation.html}
          />
        </Card>
      )}
    </>
  );
}
