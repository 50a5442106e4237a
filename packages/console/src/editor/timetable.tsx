import { useState } from 'react';
import { Link } from 'react-router';
import { Card } from '../parts/basics.tsx';
import { Count, Setting, Tick, Words } from '../parts/controls.tsx';
import type { Editing } from './draft.ts';

export function Timetable({ lane, change, wrong, preview }: Editing) {
  const [typed, setTyped] = useState<string | null>(null);
  const notify = (text: string) => {
    setTyped(text);
    const addresses = text.split(/[\s,;]+/).filter((a) => a !== '');
    change((l) => ({ ...l, notify: addresses }));
  };
  return (
    <Card title="Timetable">
      <p className="px-3 pt-2">
        {preview === undefined ? (
          ''
        ) : preview.push ? (
          <>The records' system can report its changes at once; the calendar is asked regularly.</>
        ) : (
          <>
            Neither side reports its changes by itself, so both are asked regularly.
            {lane.records?.system !== undefined && (
              <>
                {' '}
                Whether that can be changed is shown at <Link to={`/systems/${lane.records.system}`}>the system</Link>.
              </>
            )}
          </>
        )}
      </p>
      <Setting label="Regular check" wrong={wrong('/checkEvery')} hint="Once a day both sides are read whole, whatever the system tells.">
        {(id) => (
          <span className="flex items-center gap-2">
            every <Count id={id} value={lane.checkEvery ?? 10} onChange={(checkEvery) => change((l) => ({ ...l, checkEvery }))} /> minutes
          </span>
        )}
      </Setting>
      <Setting
        label="Audit"
        wrong={wrong('/auditEvery')}
        hint="Both sides are read whole and compared, and what differs is shown over time. 0: only when asked."
      >
        {(id) => (
          <span className="flex items-center gap-2">
            every <Count id={id} value={lane.auditEvery ?? 7} onChange={(auditEvery) => change((l) => ({ ...l, auditEvery }))} /> days
          </span>
        )}
      </Setting>
      <Setting
        label="Quiet hours"
        hint={`Nothing crosses by itself then, by the clock of ${lane.zone ?? 'the lane'}; what came up is looked at when they end.`}
        wrong={wrong('/quiet')}
      >
        {(id) => (
          <span className="flex flex-wrap items-center gap-2">
            <Tick
              label="from"
              checked={lane.quiet != null}
              onChange={(yes) => change((l) => ({ ...l, quiet: yes ? { from: '22:00', until: '06:00' } : null }))}
            />
            {lane.quiet != null && (
              <>
                <ClockTime
                  id={id}
                  label="Quiet from"
                  value={lane.quiet.from}
                  onChange={(from) => change((l) => ({ ...l, quiet: { until: l.quiet?.until ?? '06:00', from } }))}
                />{' '}
                until
                <ClockTime
                  label="Quiet until"
                  value={lane.quiet.until}
                  onChange={(until) => change((l) => ({ ...l, quiet: { from: l.quiet?.from ?? '22:00', until } }))}
                />
              </>
            )}
          </span>
        )}
      </Setting>
      <Setting
        label="Who is notified"
        hint="E-mail addresses, with commas between; a mail when the lane asks something, is held, or begins to fail."
        wrong={wrong('/notify')}
      >
        {(id) => <Words id={id} value={typed ?? (lane.notify ?? []).join(', ')} place="ines@alder-wren.example" onChange={notify} />}
      </Setting>
    </Card>
  );
}

const ClockTime = ({ id, label, value, onChange }: { id?: string; label: string; value: string; onChange: (value: string) => void }) => (
  <input
    id={id}
    aria-label={label}
    type="time"
    value={value}
    className="rounded border border-line bg-paper px-2 py-1"
    onChange={(e) => e.target.value !== '' && onChange(e.target.value)}
  />
);
